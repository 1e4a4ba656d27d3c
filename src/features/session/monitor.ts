import type { JobResults } from '@/core/jobs/kinds';
import { LISTENING_PLACES } from '@/core/listening/catalogue';
import type { EngineClient } from '@/runtime/client/engineClient';
import type { WorkerClient } from '@/runtime/client/workerClient';
import type { Messages } from './messages';
import { SharedTasks } from './sharedTasks';
import type { StudioStore } from './state';

const GUARD_KEY = 'kinetikon.guard';

/** Monitoring of the session: nothing here is saved with it or printed. */
export class Monitor {
  private readonly places = new SharedTasks<JobResults['listening']>(LISTENING_PLACES.length);

  constructor(
    private readonly store: StudioStore,
    private readonly engine: Pick<EngineClient, 'setGuard' | 'listen'>,
    private readonly worker: Pick<WorkerClient, 'run'>,
    private readonly messages: Messages,
  ) {}

  /** Takes up the guard as it was last left in this browser. */
  restoreGuard(): void {
    if (localStorage.getItem(GUARD_KEY) === 'off') this.setGuard(false);
  }

  /** @param guarded the output is stopped when it passes +6 dBFS; remembered in this browser */
  setGuard(guarded: boolean): void {
    this.store.setState({ guarded });
    this.engine.setGuard(guarded);
    localStorage.setItem(GUARD_KEY, guarded ? 'on' : 'off');
  }

  /** The response of a listening place, computed once for each sample rate. */
  listeningPlace(id: string): Promise<JobResults['listening']> {
    const { sampleRateHz } = this.store.getState().document.session;
    const start = (signal: AbortSignal) => this.worker.run({ kind: 'listening', id, sampleRateHz }, { signal });
    return this.places.ask(`${id} ${sampleRateHz}`, start);
  }

  /** Plays the output as heard in a listening place, as soon as its response is there. */
  async listenAt(id: string): Promise<void> {
    this.store.setState({ listening: id });
    try {
      const { prepared } = await this.listeningPlace(id);
      if (this.store.getState().listening === id) this.engine.listen(prepared);
    } catch (error) {
      this.store.setState({ listening: LISTENING_PLACES[0]!.id });
      this.messages.report(error);
    }
  }

  /** Matches the loudness of compared settings: a gain in dB behind the effects of a strip; 0 ends it. */
  setTrim(stripId: string, gainDb: number): void {
    const others = Object.entries(this.store.getState().trims).filter(([id]) => id !== stripId);
    this.store.setState({ trims: Object.fromEntries(gainDb === 0 ? others : [...others, [stripId, gainDb]]) });
  }

  /** Plays only the difference that an effect makes; null ends it. */
  hearDifference(insertId: string | null): void {
    this.store.setState({ differenceId: insertId });
  }
}
