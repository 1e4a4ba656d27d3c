interface Running<Result> {
  readonly result: Promise<Result>;
  readonly controller: AbortController;
  askers: number;
}

/** Work by key: work that is asked for twice is done once, and the last few results are kept. */
export class SharedTasks<Result> {
  private readonly done = new Map<string, Result>();
  private readonly running = new Map<string, Running<Result>>();

  /** @param most results that are kept */
  constructor(private readonly most: number) {}

  has(key: string): boolean {
    return this.done.has(key);
  }

  /**
   * @param start begins the work; its signal is aborted when nobody asks for it any more
   * @param signal ends asking for it; without one the work is only ended by `cancel`
   */
  ask(key: string, start: (signal: AbortSignal) => Promise<Result>, signal?: AbortSignal): Promise<Result> {
    if (this.done.has(key)) {
      const result = this.done.get(key)!;
      this.keep(key, result);
      return Promise.resolve(result);
    }
    const running = this.running.get(key) ?? this.begin(key, start);
    running.askers++;
    const leave = () => {
      running.askers--;
      if (running.askers === 0 && this.running.get(key) === running) this.cancel(key);
    };
    signal?.addEventListener('abort', leave, { once: true });
    return running.result;
  }

  /** Ends work whoever asks for it. */
  cancel(key: string): void {
    this.running.get(key)?.controller.abort();
    this.running.delete(key);
  }

  private begin(key: string, start: (signal: AbortSignal) => Promise<Result>): Running<Result> {
    const controller = new AbortController();
    const forget = () => {
      if (this.running.get(key) === one) this.running.delete(key);
    };
    const result = start(controller.signal).then(
      (done) => {
        forget();
        this.keep(key, done);
        return done;
      },
      (error: unknown) => {
        forget();
        throw error;
      },
    );
    const one: Running<Result> = { result, controller, askers: 0 };
    this.running.set(key, one);
    return one;
  }

  /** The youngest last; the oldest go. */
  private keep(key: string, result: Result): void {
    this.done.delete(key);
    this.done.set(key, result);
    for (const old of this.done.keys()) {
      if (this.done.size <= this.most) return;
      this.done.delete(old);
    }
  }
}
