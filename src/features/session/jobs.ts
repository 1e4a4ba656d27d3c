import type { Messages } from './messages';
import { newId } from './newId';
import type { StudioStore } from './state';

/** Handed to work while it runs. */
export interface RunningJob {
  readonly signal: AbortSignal;
  /** @param done from 0 to 1 */
  readonly progress: (done: number) => void;
  readonly cancel: () => void;
}

/** Long work, shown with its progress and a way to cancel it. */
export class Jobs {
  constructor(
    private readonly store: StudioStore,
    private readonly messages: Messages,
  ) {}

  /** Runs work; what it throws is thrown on. */
  async track<T>(label: string, work: (job: RunningJob) => Promise<T>): Promise<T> {
    const { store } = this;
    const id = newId();
    const controller = new AbortController();
    const cancel = () => controller.abort();
    store.setState(({ jobs }) => ({ jobs: [...jobs, { id, label, done: 0, cancel }] }));
    const progress = (done: number) =>
      store.setState(({ jobs }) => ({ jobs: jobs.map((job) => (job.id === id ? { ...job, done } : job)) }));
    try {
      return await work({ signal: controller.signal, progress, cancel });
    } finally {
      store.setState(({ jobs }) => ({ jobs: jobs.filter((job) => job.id !== id) }));
    }
  }

  /**
   * Runs work; what it throws is reported.
   * @param topic what the report is about
   * @returns null when it failed or was cancelled
   */
  async run<T>(label: string, work: (job: RunningJob) => Promise<T>, topic?: string): Promise<T | null> {
    try {
      return await this.track(label, work);
    } catch (error) {
      this.messages.report(error, topic);
      return null;
    }
  }
}
