import type { StoreApi } from 'zustand/vanilla';
import type { JobInputs, SharedSamples } from '@/core/jobs/kinds';
import type { TaskOptions, WorkerClient } from '@/runtime/client/workerClient';
import { SharedTasks } from './sharedTasks';
import type { StudioState } from './state';

type What = 'onsets' | 'pitch';

interface Surroundings {
  readonly store: Pick<StoreApi<StudioState>, 'getState' | 'setState'>;
  readonly worker: Pick<WorkerClient, 'run'>;
  readonly samplesOf: (soundIds: readonly string[], signal: AbortSignal) => Promise<SharedSamples[]>;
  readonly report: (error: unknown, soundId: string) => void;
}

/** Analyses of sounds: each is done once, and again after it failed or was cancelled. */
export class SoundAnalyses {
  private readonly tasks = new SharedTasks<void>(Infinity);

  constructor(private readonly around: Surroundings) {}

  /** Onsets of notes and syllables. */
  onsets(soundId: string): Promise<void> {
    return this.look('onsets', soundId, async (sound, options) => {
      const { seconds } = await this.around.worker.run({ kind: 'onsets', ...sound }, options);
      this.set(({ onsets }) => ({ onsets: { ...onsets, [soundId]: seconds } }));
    });
  }

  /** The pitch of a sound over time; how far that is stands in `pitchSought`. */
  pitch(soundId: string): Promise<void> {
    const told = (percent: number) =>
      this.set(({ pitchSought }) => ({ pitchSought: { ...pitchSought, [soundId]: percent } }));
    return this.look('pitch', soundId, async (sound, options) => {
      let percent = 0;
      told(percent);
      const onProgress = (done: number) => {
        const now = Math.floor(100 * done);
        if (now > percent) told((percent = now));
      };
      const course = await this.around.worker.run({ kind: 'pitch', ...sound }, { ...options, onProgress });
      this.set(({ pitches }) => ({ pitches: { ...pitches, [soundId]: course } }));
    });
  }

  /** Ends a look that nobody waits for any more. */
  giveUp(what: What, soundId: string): void {
    this.tasks.cancel(`${what} ${soundId}`);
  }

  private set(change: (state: StudioState) => Partial<StudioState>): void {
    this.around.store.setState(change);
  }

  private look(
    what: What,
    soundId: string,
    work: (sound: JobInputs['pitch'], options: TaskOptions) => Promise<void>,
  ): Promise<void> {
    const { samplesOf, store, report } = this.around;
    const begin = async (signal: AbortSignal) => {
      try {
        const [sound] = await samplesOf([soundId], signal);
        const { left, right } = sound!;
        const { sampleRateHz } = store.getState().document.session;
        await work({ left, right, sampleRateHz }, { signal });
      } catch (error) {
        if (!signal.aborted) report(error, soundId);
        throw error;
      }
    };
    return this.tasks.ask(`${what} ${soundId}`, begin).catch(() => {});
  }
}
