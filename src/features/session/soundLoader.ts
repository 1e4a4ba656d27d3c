import type { Samples, SoundSource } from '@/core/engine/plan';
import { LONG_SECONDS, type PagedSamples } from '@/core/pages/pagedSamples';
import { frozenSound, soundOf, soundsOf } from '@/core/session/prints';
import { channels } from '@/core/session/records/queries';
import type { Asset } from '@/core/session/records/clips';
import { assetOfSound, secondsOf } from '@/core/session/records/sounds';
import type { SessionDocument } from '@/core/session/records/document';
import type { TaskOptions, WorkerClient } from '@/runtime/client/workerClient';

/** By how much of its own length a sound stands back behind one that is needed as soon. */
const WEIGHT_OF_LENGTH = 0.25;

/** Sounds that are played first: the first sound waits for these. */
export const FIRST_SOUNDS = 2;

/** A sound that is needed: all of an asset, or what is heard of it. */
export interface WantedSound {
  readonly id: string;
  readonly asset: Asset;
  /** An effect works with it, and needs it whole. */
  readonly isWorkedWith: boolean;
}

/** Source of sound files, and listener for their progress. */
export interface SoundLoaderPort {
  fetchBytes(asset: Asset): Promise<ArrayBuffer>;
  /** Opens a sound that is read by pages; null for one that is held whole, which may turn out on opening. */
  openPages(sound: WantedSound): Promise<PagedSamples | null> | null;
  /** A sound can be played; a long one is still being filled from its beginning on. */
  onSound(soundId: string, sound: SoundSource): void;
  /** The sounds that are not whole yet, in the order in which they come. */
  onWaiting(waiting: readonly WantedSound[]): void;
  onProblem(error: unknown, soundId: string): void;
}

/** The worker with the least to do. */
export const idlestOf = (workers: readonly WorkerClient[]): WorkerClient =>
  workers.reduce((idlest, one) => (one.load < idlest.load ? one : idlest));

/**
 * Sounds that something plays, soonest needed and shortest first.
 * @param more sounds that are needed beside those
 */
export function soundsToLoad(document: SessionDocument, fromBeat: number, more: Iterable<string> = []): WantedSound[] {
  const perBeat = 60 / document.session.tempoBpm;
  const needed = new Map<string, number>();
  const need = (soundId: string, seconds: number) =>
    needed.set(soundId, Math.min(seconds, needed.get(soundId) ?? Infinity));
  const end = Math.max(0, ...Object.values(document.clips).map((clip) => clip.startBeat * perBeat));
  for (const clip of Object.values(document.clips)) {
    const ahead = (clip.startBeat - fromBeat) * perBeat;
    // Sounds before the playhead are needed last.
    const soundId = soundOf(document, clip.source);
    if (soundId !== null)
      need(soundId, ahead >= 0 ? ahead : -ahead < clip.lengthSeconds ? 0 : end + clip.startBeat * perBeat);
  }
  const workedWith = new Set(Object.values(document.inserts).flatMap(soundsOf));
  for (const id of workedWith) need(id, 0);
  for (const id of soundsOfPrints(document)) need(id, end);
  for (const id of more) need(id, 0);
  for (const { id } of channels(document)) {
    const frozen = frozenSound(document, id);
    if (frozen !== null) need(frozen, 0);
  }
  const order = (sound: WantedSound) => needed.get(sound.id)! + WEIGHT_OF_LENGTH * secondsOf(sound.asset);
  return [...needed.keys()]
    .flatMap((id) => {
      const asset = document.assets[assetOfSound(id).assetId];
      return asset ? { id, asset, isWorkedWith: workedWith.has(id) } : [];
    })
    .sort((a, b) => order(a) - order(b));
}

/** Sounds that prints are made from, beside those of clips and effects. */
function soundsOfPrints(document: SessionDocument): string[] {
  return Object.values(document.prints).flatMap(({ recipe }) => {
    if (recipe.kind === 'repair' && recipe.source.kind === 'sound') return soundOf(document, recipe.source) ?? [];
    return recipe.kind === 'swell' && recipe.space.kind === 'own' ? recipe.space.inserts.flatMap(soundsOf) : [];
  });
}

/** Brings the sounds in that are used, a few at a time. Sounds that nothing plays stay where they are. */
export class SoundLoader {
  private readonly done = new Set<string>();
  /** Sounds that could not be had; they are asked for again when somebody plays. */
  private readonly failed = new Set<string>();
  private readonly asked = new Set<string>();
  private readonly underWay = new Map<string, WantedSound>();
  private queue: readonly WantedSound[] = [];

  constructor(
    private readonly decoders: readonly WorkerClient[],
    private readonly port: SoundLoaderPort,
  ) {}

  /** Looks at what is used now; what is under way goes on. */
  want(document: SessionDocument, fromBeat: number): void {
    this.queue = soundsToLoad(document, fromBeat, this.asked).filter(
      ({ id }) => !this.done.has(id) && !this.underWay.has(id) && !this.failed.has(id),
    );
    this.next(document.session.sampleRateHz);
    this.tell();
  }

  /** A sound is there already, as after it was brought in. */
  has(soundId: string): void {
    this.done.add(soundId);
  }

  /** A sound has been let go: it is loaded again when it is wanted. */
  forget(soundId: string): void {
    this.done.delete(soundId);
  }

  /** A sound that was there is lost: it is asked for again when somebody plays. */
  lose(soundId: string): void {
    this.done.delete(soundId);
    this.failed.add(soundId);
  }

  /** Sounds that were asked for have been taken. */
  served(soundIds: readonly string[]): void {
    for (const id of soundIds) if (this.done.has(id)) this.asked.delete(id);
  }

  /** Sounds are needed although nothing plays them. */
  ask(soundIds: readonly string[]): void {
    for (const id of soundIds) this.asked.add(id);
  }

  /** True if all of a sound is there. */
  isDone(soundId: string): boolean {
    return this.done.has(soundId);
  }

  /** True while somebody waits for a sound that nothing plays. */
  isAsked(soundId: string): boolean {
    return this.asked.has(soundId);
  }

  /** True if a sound could not be loaded. */
  isLost(soundId: string): boolean {
    return this.failed.has(soundId);
  }

  /** Asks once more for what could not be had. */
  again(document: SessionDocument, fromBeat: number): void {
    this.failed.clear();
    this.want(document, fromBeat);
  }

  private tell(): void {
    this.port.onWaiting([...this.underWay.values(), ...this.queue]);
  }

  private next(sampleRateHz: number): void {
    // Long sounds are decoded one at a time, so that short ones never wait behind two of them.
    const long = ({ asset }: WantedSound) => secondsOf(asset) > LONG_SECONDS;
    while (this.underWay.size < this.decoders.length) {
      const longUnderWay = [...this.underWay.values()].some(long);
      const wanted = this.queue.find((one) => !longUnderWay || !long(one));
      if (!wanted) return;
      this.queue = this.queue.filter((one) => one !== wanted);
      this.underWay.set(wanted.id, wanted);
      void this.load(wanted, idlestOf(this.decoders), sampleRateHz);
    }
  }

  /** Fetches a sound and decodes all of it. */
  async whole(
    { id, asset }: Pick<WantedSound, 'id' | 'asset'>,
    sampleRateHz: number,
    options: TaskOptions,
    decoder = idlestOf(this.decoders),
  ): Promise<Samples> {
    const bytes = await this.port.fetchBytes(asset);
    const { heard } = assetOfSound(id);
    const task = { kind: 'decode' as const, bytes, name: asset.name, sampleRateHz, heard };
    const { left, right, more } = await decoder.run(task, options);
    return { left, right, ...(more ? { more } : {}) };
  }

  private async load(wanted: WantedSound, decoder: WorkerClient, sampleRateHz: number): Promise<void> {
    const { id } = wanted;
    try {
      const opening = this.port.openPages(wanted);
      const paged = opening && (await opening);
      if (paged) {
        this.done.add(id);
        this.port.onSound(id, paged);
        return;
      }
      const onBegun = (left: Float32Array, right: Float32Array) => this.port.onSound(id, { left, right });
      const sound = await this.whole(wanted, sampleRateHz, { onBegun }, decoder);
      this.done.add(id);
      this.port.onSound(id, sound);
    } catch (error) {
      this.failed.add(id);
      this.port.onProblem(error, id);
    } finally {
      this.underWay.delete(id);
      this.next(sampleRateHz);
      this.tell();
    }
  }
}
