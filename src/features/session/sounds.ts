import type { PlanInsert, Samples } from '@/core/engine/plan';
import { cancelled, KinetikonError } from '@/core/errors';
import type { SharedSamples } from '@/core/jobs/kinds';
import { soundOf } from '@/core/session/prints';
import type { Asset, Clip } from '@/core/session/records/clips';
import { assetOfSound, soundIdOf } from '@/core/session/records/sounds';
import { fetchAsset, fetchPeaks } from '@/runtime/client/api';
import type { EngineClient } from '@/runtime/client/engineClient';
import type { WorkerClient } from '@/runtime/client/workerClient';
import { TOPIC, type Messages } from './messages';
import { SoundAnalyses } from './soundAnalyses';
import { FIRST_SOUNDS, SoundLoader, soundsToLoad } from './soundLoader';
import type { StudioState, StudioStore } from './state';

const soundMissing = (name: string) =>
  new KinetikonError('asset.missing', `${name} could not be loaded.`, {
    kept: 'Nothing was changed.',
    next: 'Try again, or remove its clips.',
  });

interface Surroundings {
  readonly store: StudioStore;
  readonly engine: Pick<EngineClient, 'setSamples'>;
  /** For analyses. */
  readonly worker: WorkerClient;
  readonly decoders: readonly WorkerClient[];
  readonly messages: Messages;
  heardBeat(): number;
  /** A sound has come in, whole or from its beginning on. */
  onSound(): void;
}

/** The sounds of an open session at its sample rate: loading, drawing and analysing them. */
export class Sounds {
  private readonly loader: SoundLoader;
  private readonly analyses: SoundAnalyses;
  private readonly byId = new Map<string, Samples>();
  /** Sounds whose peaks have been asked for. */
  private readonly drawn = new Set<string>();

  constructor(private readonly around: Surroundings) {
    const { store, worker, decoders, messages } = around;
    this.loader = new SoundLoader(decoders, {
      fetchBytes: fetchAsset,
      onSound: (soundId, sound) => {
        this.keep(soundId, sound);
        messages.settled(TOPIC.sound(soundId));
      },
      onWaiting: (waiting) => {
        const names = waiting.map(({ asset }) => asset.name);
        if (names.join('\n') !== this.state.missingSounds.join('\n')) store.setState({ missingSounds: names });
      },
      onProblem: (error, soundId) => {
        this.byId.delete(soundId);
        messages.report(error, TOPIC.sound(soundId));
      },
    });
    this.analyses = new SoundAnalyses({
      store,
      worker,
      samplesOf: (soundIds, signal) => this.samplesOf(soundIds, signal),
      report: (error, soundId) => messages.report(error, TOPIC.sound(soundId)),
    });
  }

  private get state(): StudioState {
    return this.around.store.getState();
  }

  /** Undefined while the sound is on its way. */
  get(soundId: string): Samples | undefined {
    return this.byId.get(soundId);
  }

  /** Loads the sounds that are played, and their peaks. */
  load(): void {
    const { document } = this.state;
    for (const { asset } of soundsToLoad(document, 0)) void this.draw(asset.id);
    this.loader.want(document, this.around.heardBeat());
  }

  /** Asks once more for sounds that could not be loaded. */
  retry(): void {
    this.loader.again(this.state.document, this.around.heardBeat());
  }

  /** Takes a sound that was decoded here already. */
  async add(asset: Pick<Asset, 'id' | 'heard'>, sound: Samples): Promise<void> {
    const soundId = soundIdOf(asset);
    this.loader.has(soundId);
    this.keep(soundId, sound);
    await this.draw(asset.id);
  }

  private keep(soundId: string, sound: Samples): void {
    this.byId.set(soundId, sound);
    this.around.engine.setSamples(soundId, sound);
    this.around.onSound();
  }

  private async draw(assetId: string): Promise<void> {
    if (this.drawn.has(assetId)) return;
    this.drawn.add(assetId);
    try {
      const peaks = await fetchPeaks(assetId);
      this.around.store.setState((state) => ({ peaks: { ...state.peaks, [assetId]: peaks } }));
    } catch {
      // The same fault is reported when the sound itself is loaded.
      this.drawn.delete(assetId);
    }
  }

  /**
   * All sounds of the session, for work that renders it; waits for those that are still on their way.
   * @throws KinetikonError asset.missing for a sound that could not be loaded, work.cancelled
   */
  async allSamples(signal: AbortSignal): Promise<SharedSamples[]> {
    this.retry();
    while (this.state.missingSounds.length > 0) await this.changed(signal);
    const { document } = this.state;
    const lost = soundsToLoad(document, 0).find(({ id }) => !this.byId.has(id));
    if (lost) throw soundMissing(lost.asset.name);
    return [...this.byId].map(([assetId, sound]) => ({ assetId, ...sound }));
  }

  /** The sounds that effects work with, such as impulses. */
  samplesFor(inserts: readonly PlanInsert[], signal: AbortSignal): Promise<SharedSamples[]> {
    return this.samplesOf(
      inserts.flatMap(({ resource }) => resource?.assetId ?? []),
      signal,
    );
  }

  /**
   * Some sounds of the session; waits for those that are still on their way.
   * @throws KinetikonError asset.missing for one that could not be loaded, work.cancelled
   */
  async samplesOf(soundIds: readonly string[], signal: AbortSignal): Promise<SharedSamples[]> {
    const there = () => soundIds.every((id) => this.byId.has(id));
    if (!there()) {
      this.loader.ask(soundIds);
      this.retry();
    }
    while (!there()) {
      const lost = soundIds.find((id) => this.loader.isLost(id));
      if (lost !== undefined) {
        const asset = this.state.document.assets[assetOfSound(lost).assetId];
        throw soundMissing(asset?.name ?? 'A sound');
      }
      await this.changed(signal);
    }
    return soundIds.map((id) => ({ assetId: id, ...this.byId.get(id)! }));
  }

  /** Waits until what is played first can be heard, so that other work does not hold it up. */
  async firstSounds(signal: AbortSignal): Promise<void> {
    const waits = () =>
      soundsToLoad(this.state.document, this.around.heardBeat())
        .slice(0, FIRST_SOUNDS)
        .some(({ id }) => !this.byId.has(id) && !this.loader.isLost(id));
    while (this.state.missingSounds.length > 0 && waits()) await this.changed(signal);
  }

  /** The next change of state. */
  private changed(signal: AbortSignal): Promise<void> {
    return new Promise((resolve, reject) => {
      const end = () => {
        leave();
        signal.removeEventListener('abort', end);
        if (signal.aborted) reject(cancelled());
        else resolve();
      };
      const leave = this.around.store.subscribe(end);
      signal.addEventListener('abort', end);
    });
  }

  /** Onsets of notes and syllables in the sound of a clip, in seconds; null until they have been found. */
  onsetsOf(clip: Clip): readonly number[] | null {
    return this.state.onsets[soundOf(this.state.document, clip.source) ?? ''] ?? null;
  }

  findOnsets(soundId: string): Promise<void> {
    return this.analyses.onsets(soundId);
  }

  findPitch(soundId: string): Promise<void> {
    return this.analyses.pitch(soundId);
  }

  /** Shows the pitch on the clips of a track, or hides it and cancels the analyses that nobody waits for then. */
  showPitch(trackId: string, shown: boolean): void {
    const pitchShown = this.state.pitchShown.filter((id) => id !== trackId);
    if (shown) pitchShown.push(trackId);
    this.around.store.setState({ pitchShown });
    const { document, pitches } = this.state;
    const soundsOf = (tracks: readonly string[]) =>
      Object.values(document.clips).flatMap((clip) =>
        tracks.includes(clip.trackId) ? (soundOf(document, clip.source) ?? []) : [],
      );
    const wanted = new Set(soundsOf(pitchShown));
    for (const soundId of soundsOf([trackId])) {
      if (!wanted.has(soundId) && !pitches[soundId]) this.analyses.giveUp('pitch', soundId);
    }
  }
}
