interface Running<Result> {
  readonly result: Promise<Result>;
  readonly controller: AbortController;
  askers: number;
}

/** Work by what is asked for: the same asked for twice is done once, and the last few results stay at hand. */
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
   * @returns the result, and how to give up asking for it
   */
  ask(
    key: string,
    start: (signal: AbortSignal) => Promise<Result>,
  ): { readonly result: Promise<Result>; readonly leave: () => void } {
    if (this.done.has(key)) {
      const result = this.done.get(key)!;
      this.keep(key, result);
      return { result: Promise.resolve(result), leave: () => {} };
    }
    const one = this.running.get(key) ?? this.begin(key, start);
    one.askers++;
    let left = false;
    return {
      result: one.result,
      leave: () => {
        if (left) return;
        left = true;
        one.askers--;
        if (one.askers > 0 || this.running.get(key) !== one) return;
        this.running.delete(key);
        one.controller.abort();
      },
    };
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
