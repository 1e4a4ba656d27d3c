import type { Draft, Drafts } from './drafts';

/** Delay before unsaved work is kept, in milliseconds. */
const KEEP_AFTER_MS = 300;
/** Copying a document into the browser's store holds up the page; it may take a twentieth of its time. */
const REST_TIMES = 20;

/** Keeps what is unsaved of an open session as a draft, and drops it once it is saved. */
export class DraftKeeper {
  private timer: ReturnType<typeof setTimeout> | null = null;
  private last: Promise<unknown> = Promise.resolve();
  private waitMs = KEEP_AFTER_MS;
  private hasFailed = false;

  /**
   * @param kept true if there is a draft already
   * @param unsaved what is to be kept now; null when all is saved
   */
  constructor(
    private readonly drafts: Pick<Drafts, 'put' | 'remove'>,
    private readonly key: string,
    private kept: boolean,
    private readonly unsaved: () => Omit<Draft, 'key' | 'keptAt'> | null,
    private readonly onProblem: (error: unknown) => void,
  ) {}

  /** Something has changed. */
  soon(): void {
    this.timer ??= setTimeout(() => this.keep(), this.waitMs);
  }

  /** Everything is saved. */
  saved(): void {
    this.cancel();
    if (!this.kept) return;
    this.kept = false;
    this.queue(() => this.drafts.remove(this.key));
  }

  /** Keeps at once what is unsaved, as when the page may be closed. */
  keep(): void {
    this.cancel();
    const unsaved = this.unsaved();
    if (!unsaved) return;
    this.kept = true;
    this.queue(() => {
      const began = performance.now();
      const done = this.drafts.put({ ...unsaved, key: this.key, keptAt: Date.now() });
      // The copy is made within the call.
      this.waitMs = Math.max(KEEP_AFTER_MS, REST_TIMES * (performance.now() - began));
      return done;
    });
  }

  private cancel(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
  }

  private queue(work: () => Promise<void>): void {
    this.last = this.last.then(work).catch((error: unknown) => {
      if (!this.hasFailed) this.onProblem(error);
      this.hasFailed = true;
    });
  }
}
