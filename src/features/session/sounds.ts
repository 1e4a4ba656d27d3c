import type { SoundStretch } from '@/core/analysis/outline';
import type { PlanInsert, Samples, SoundSource } from '@/core/engine/plan';
import { cancelled, KinetikonError } from '@/core/errors';
import type { PlayedSound, SharedSamples } from '@/core/jobs/kinds';
import { inOne } from '@/core/formats/parts';
import { sidesHeard } from '@/core/formats/speakers';
import { isPaged, LONG_SECONDS, PAGE_FRAMES, type PagedSamples } from '@/core/pages/pagedSamples';
import { soundOf } from '@/core/session/prints';
import type { Asset, Clip } from '@/core/session/records/clips';
import { assetOfSound, secondsOf, soundIdOf } from '@/core/session/records/sounds';
import { fetchAsset, fetchPeaks } from '@/runtime/client/api';
import type { EngineClient } from '@/runtime/client/engineClient';
import type { PagesClient } from '@/runtime/client/pagesClient';
import type { WorkerClient } from '@/runtime/client/workerClient';
import { TOPIC, type Messages } from './messages';
import { SoundAnalyses } from './soundAnalyses';
import { FIRST_SOUNDS, SoundLoader, soundsToLoad, type WantedSound } from './soundLoader';
import type { StudioState, StudioStore } from './state';

const soundMissing = (name: string) =>
  new KinetikonError('asset.missing', `${name} could not be loaded.`, {
    kept: 'Nothing was changed.',
    next: 'Try again, or remove its clips.',
  });

/** Sounds that are whole in memory, in bytes, before even short ones are read by pages. */
const WHOLE_BYTES = 256 * 1024 * 1024;

/** Longest sound that is analysed, in seconds: it is whole in memory for that. */
const LONGEST_ANALYSED = 600;

/** Sounds that nothing uses and that are kept all the same, for Undo. */
const UNUSED_BYTES = 64 * 1024 * 1024;

/** Bytes of a sound that is whole; pages are counted elsewhere. */
function bytesOf(sound: SoundSource): number {
  if (isPaged(sound)) return 0;
  return [...new Set([sound.left, sound.right, ...(sound.more ?? [])])].reduce((sum, one) => sum + one.byteLength, 0);
}

interface Surroundings {
  readonly store: StudioStore;
  readonly engine: Pick<EngineClient, 'setSamples' | 'dropSamples'>;
  /** Reads long sounds. */
  readonly pages: Pick<PagesClient, 'open' | 'close' | 'page'>;
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
  private readonly byId = new Map<string, SoundSource>();
  /** Sounds whose peaks have been asked for. */
  private readonly drawn = new Set<string>();

  constructor(private readonly around: Surroundings) {
    const { store, worker, decoders, messages } = around;
    this.loader = new SoundLoader(decoders, {
      fetchBytes: fetchAsset,
      openPages: (sound) => this.openPages(sound),
      onSound: (soundId, sound) => {
        this.keep(soundId, sound);
        messages.settled(TOPIC.sound(soundId));
      },
      onWaiting: (waiting) => {
        const names = waiting.map(({ asset }) => asset.name);
        if (names.join('\n') !== this.state.missingSounds.join('\n'))
          store.setState({ missingSounds: names, unrolled: 0 });
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

  /** Undefined while the sound is on its way, and for one that is read by pages. */
  get(soundId: string): Samples | undefined {
    const sound = this.byId.get(soundId);
    return sound && !isPaged(sound) ? sound : undefined;
  }

  /** Bytes of the sounds that are whole in memory. */
  private get wholeBytes(): number {
    return [...this.byId.values()].reduce((sum, sound) => sum + bytesOf(sound), 0);
  }

  /** Long sounds are read by pages, and short ones too once there are many; those that effects work with never are. */
  private openPages({ id, asset, isWorkedWith }: WantedSound): Promise<PagedSamples | null> | null {
    const { session } = this.state.document;
    const seconds = secondsOf(asset);
    const bytes = seconds * session.sampleRateHz * 4 * sidesHeard(asset.heard, asset.channels);
    const fits = seconds <= LONG_SECONDS && this.wholeBytes + bytes <= WHOLE_BYTES;
    if (fits || isWorkedWith) return null;
    return this.around.pages.open(id, asset.name, session.sampleRateHz);
  }

  /** Lets sounds go that nothing has use for: those read by pages at once, whole ones oldest first; a few are kept for Undo. */
  private letGo(wanted: ReadonlySet<string>): void {
    const unused = [...this.byId].filter(([id]) => !wanted.has(id) && !this.loader.isAsked(id));
    let bytes = unused.reduce((sum, [, sound]) => sum + bytesOf(sound), 0);
    for (const [id, sound] of unused) {
      if (bytes <= UNUSED_BYTES && !isPaged(sound)) continue;
      bytes -= bytesOf(sound);
      this.drop(id);
    }
  }

  private drop(soundId: string): void {
    this.byId.delete(soundId);
    this.loader.forget(soundId);
    this.around.pages.close(soundId);
    this.around.engine.dropSamples(soundId);
  }

  /** Loads the sounds that are played, and their peaks. */
  load(): void {
    const { document } = this.state;
    const wanted = soundsToLoad(document, 0);
    for (const { asset } of wanted) void this.draw(asset.id);
    // An effect works with a whole sound: one that has been read by pages is loaded anew.
    for (const { id, isWorkedWith } of wanted) {
      const sound = this.byId.get(id);
      if (isWorkedWith && sound && isPaged(sound)) this.drop(id);
    }
    this.loader.want(document, this.around.heardBeat());
    this.letGo(new Set(wanted.map(({ id }) => id)));
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

  private keep(soundId: string, sound: SoundSource): void {
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
  async allPlayed(signal: AbortSignal): Promise<PlayedSound[]> {
    this.retry();
    while (this.state.missingSounds.length > 0) await this.changed(signal);
    const needed = soundsToLoad(this.state.document, 0);
    const lost = needed.find(({ id }) => !this.byId.has(id));
    if (lost) throw soundMissing(lost.asset.name);
    return this.playedNow(needed.map(({ id }) => id));
  }

  /** Sounds that are here, those that are read by pages decoded for this once. */
  private async wholes(soundIds: readonly string[], signal: AbortSignal): Promise<SharedSamples[]> {
    const { assets, session } = this.state.document;
    // Nothing of this may have been let go while one of them is decoded.
    const sounds = soundIds.map((id) => ({ id, sound: this.byId.get(id)!, asset: assets[assetOfSound(id).assetId]! }));
    const all: SharedSamples[] = [];
    for (const { id, sound, asset } of sounds) {
      const whole = isPaged(sound) ? await this.loader.whole({ id, asset }, session.sampleRateHz, { signal }) : sound;
      all.push({ assetId: id, ...whole });
    }
    return all;
  }

  /** A sound can no longer be read; Play loads it again. */
  lost(soundId: string, error: unknown): void {
    this.byId.delete(soundId);
    this.loader.lose(soundId);
    this.around.messages.report(error, TOPIC.sound(soundId));
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
    await this.there(soundIds, signal);
    return this.wholes(soundIds, signal);
  }

  /** The same for work that plays them, and reads long ones by pages itself. */
  async playedOf(soundIds: readonly string[], signal: AbortSignal): Promise<PlayedSound[]> {
    await this.there(soundIds, signal);
    return this.playedNow(soundIds);
  }

  private playedNow(soundIds: readonly string[]): PlayedSound[] {
    const { assets } = this.state.document;
    return soundIds.map((id) => {
      const sound = this.byId.get(id)!;
      if (!isPaged(sound)) return { assetId: id, ...sound };
      return { assetId: id, name: assets[assetOfSound(id).assetId]!.name, isLong: true };
    });
  }

  /**
   * Some frames of a sound, for a drawing.
   * @param from,to in frames at the session's rate
   * @returns null for a sound that is not here yet, and where reading it fails
   */
  async stretch(soundId: string, from: number, to: number): Promise<SoundStretch | null> {
    const sound = this.byId.get(soundId);
    if (!sound || !this.loader.isDone(soundId)) return null;
    if (!isPaged(sound)) {
      const sides = sound.left === sound.right ? [sound.left] : [sound.left, sound.right];
      return { first: from, sides: sides.map((side) => side.subarray(from, to)) };
    }
    const first = Math.floor(from / PAGE_FRAMES);
    const pages: (readonly Float32Array[])[] = [];
    for (let page = first; page * PAGE_FRAMES < Math.min(to, sound.frames); page++) {
      const sides = await this.around.pages.page(soundId, page);
      if (!sides) return null;
      pages.push(sides);
    }
    return { first: first * PAGE_FRAMES, sides: inOne(pages) };
  }

  /** Waits until sounds are there. */
  private async there(soundIds: readonly string[], signal: AbortSignal): Promise<void> {
    const there = () => soundIds.every((id) => this.byId.has(id) && this.loader.isDone(id));
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
    this.loader.served(soundIds);
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

  /** Finds nothing in a sound that is too long to be analysed. */
  async findOnsets(soundId: string): Promise<void> {
    if (!this.isTooLong(soundId)) await this.analyses.onsets(soundId);
  }

  async findPitch(soundId: string): Promise<void> {
    if (!this.isTooLong(soundId)) return this.analyses.pitch(soundId);
    this.around.messages.report(
      new KinetikonError('asset.long', `Pitch is found in sounds of up to ${LONGEST_ANALYSED / 60} minutes.`, {
        next: 'Split the file, or bounce the part that matters.',
      }),
      TOPIC.sound(soundId),
    );
  }

  private isTooLong(soundId: string): boolean {
    const asset = this.state.document.assets[assetOfSound(soundId).assetId];
    return asset !== undefined && secondsOf(asset) > LONGEST_ANALYSED;
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
