import { KinetikonError } from '@/core/errors';
import type { Plan, PlanClip } from '@/core/engine/plan';
import { neededPages } from '@/core/pages/neededPages';
import { keepNewest } from '@/core/math/keepNewest';
import { PAGE_COUNTER, type PagedSamples, type PageMemory } from '@/core/pages/pagedSamples';
import { receivedError } from '@/core/protocol/sentError';
import type { FromPages, ToPages } from '@/core/protocol/pages';
import { compiledKernels } from './kernels';

export interface PagesEvents {
  /** Memory for pages has grown: the audio thread needs it too. */
  onMemory(memory: PageMemory): void;
  /** A sound is being unrolled before it can be opened: how far that is, 0 to 1. */
  onUnrolling(done: number): void;
  /** A page could not be had; it is tried again. */
  onProblem(error: unknown, soundId: string): void;
  /** A sound is no longer read; it can be opened again. */
  onLost(error: unknown, soundId: string): void;
}

/** Pages that are kept for drawings: up to 16 MiB. */
const DRAWN_PAGES = 32;

interface DrawnPage {
  readonly promise: Promise<readonly Float32Array[] | null>;
  resolve(sides: readonly Float32Array[] | null): void;
}

const pageKey = ({ soundId, page }: { readonly soundId: string; readonly page: number }) => `${soundId} ${page}`;

/** Frames from a place on that must be there before it is played. */
const FIRST_SECONDS = 0.5;

/** How often it is looked whether pages have come. */
const LOOK_MS = 15;

const rest = () => new Promise<void>((resolve) => setTimeout(resolve, LOOK_MS));

/** Long sounds, of which a worker keeps the pages in memory that are heard next. It is started with the first of them. */
export class PagesClient {
  private worker: Worker | null = null;
  private starting: Promise<void> | null = null;
  /** Taken anew by each worker. */
  private chunks: Float32Array[] = [];
  private memory: PageMemory = { chunks: this.chunks, counters: new Int32Array(1) };
  private readonly sounds = new Map<string, PagedSamples>();
  private readonly opening = new Map<
    string,
    { resolve: (sound: PagedSamples | null) => void; reject: (e: Error) => void }
  >();
  /** Pages that drawings have asked for, the newest last. */
  private readonly drawn = new Map<string, DrawnPage>();
  private plan: Plan | null = null;
  /** Clips and loop that the worker has. */
  private sent: { readonly clips: readonly PlanClip[]; readonly loop: Plan['loop'] } | null = null;

  constructor(
    private readonly meters: SharedArrayBuffer,
    private readonly events: PagesEvents,
    private readonly create: () => Worker = () => new Worker('/audio/pages.js', { type: 'module' }),
    private readonly kernels: () => Promise<WebAssembly.Module> = compiledKernels,
  ) {}

  /** Blocks in which a page was not there in time. */
  get lateBlocks(): number {
    return this.memory.counters[PAGE_COUNTER.late]!;
  }

  /**
   * Opens a sound; its pages come as it is played.
   * @param soundId an asset, or what is heard of one
   * @returns null for a sound that can only be read as a whole
   * @throws KinetikonError asset.missing, asset.damaged, file.broken, database.failed
   */
  async open(soundId: string, name: string, sampleRateHz: number): Promise<PagedSamples | null> {
    this.starting ??= this.start().catch((error: unknown) => {
      this.starting = null;
      throw error;
    });
    await this.starting;
    return new Promise((resolve, reject) => {
      this.opening.set(soundId, { resolve, reject });
      this.post({ kind: 'open', soundId, name, sampleRateHz });
    });
  }

  private async start(): Promise<void> {
    const kernels = await this.kernels();
    const worker = this.create();
    this.worker = worker;
    worker.onmessage = ({ data }: MessageEvent<FromPages>) => this.receive(data);
    worker.onerror = (event) => this.died(event.message || 'the worker could not be loaded');
    this.post({ kind: 'begin', kernels, meters: this.meters });
    this.sendPlan();
  }

  private post(message: ToPages): void {
    this.worker?.postMessage(message);
  }

  private receive(message: FromPages): void {
    switch (message.kind) {
      case 'counters':
        this.memory = { chunks: this.chunks, counters: message.counters };
        return this.events.onMemory(this.memory);
      case 'chunk':
        this.chunks.push(message.chunk);
        return this.events.onMemory(this.memory);
      case 'opened': {
        const sound = message.sound && { ...message.sound, memory: this.memory };
        if (sound) this.sounds.set(message.soundId, sound);
        this.opening.get(message.soundId)?.resolve(sound);
        this.opening.delete(message.soundId);
        return this.sendPlan();
      }
      case 'page': {
        const key = pageKey(message);
        this.drawn.get(key)?.resolve(message.sides);
        // One that could not be had is asked for again.
        if (!message.sides) this.drawn.delete(key);
        return;
      }
      case 'unrolling':
        return this.events.onUnrolling(message.done);
      case 'failed':
        this.opening.get(message.soundId)?.reject(receivedError(message.error));
        this.opening.delete(message.soundId);
        return;
      case 'problem':
        return this.events.onProblem(receivedError(message.error), message.soundId);
    }
  }

  private died(reason: string): void {
    const error = new KinetikonError('engine.stopped', `Reading long sounds stopped: ${reason}.`, {
      kept: 'The session is untouched.',
      next: 'Press play to begin again.',
    });
    this.dispose();
    this.starting = null;
    this.sent = null;
    this.chunks = [];
    const lost = [...this.sounds.keys()];
    const opening = [...this.opening.values()];
    this.sounds.clear();
    this.opening.clear();
    keepNewest(this.drawn, 0, (left) => left.resolve(null));
    for (const { reject } of opening) reject(error);
    for (const soundId of lost) this.events.onLost(error, soundId);
  }

  /** One page of an open sound, for a drawing: one array a side, or null if it cannot be had. */
  page(soundId: string, page: number): Promise<readonly Float32Array[] | null> {
    const key = pageKey({ soundId, page });
    const known = this.drawn.get(key);
    if (known) return known.promise;
    let resolve: (sides: readonly Float32Array[] | null) => void = () => {};
    const promise = new Promise<readonly Float32Array[] | null>((settle) => (resolve = settle));
    this.drawn.set(key, { promise, resolve });
    keepNewest(this.drawn, DRAWN_PAGES, (left) => left.resolve(null));
    this.post({ kind: 'page', soundId, page });
    return promise;
  }

  /** Lets a sound go. */
  close(soundId: string): void {
    if (!this.sounds.delete(soundId)) return;
    for (const key of [...this.drawn.keys()].filter((one) => one.startsWith(`${soundId} `))) this.drawn.delete(key);
    this.post({ kind: 'close', soundId });
  }

  /** What is going to be played. */
  setPlan(plan: Plan): void {
    this.plan = plan;
    if (this.sounds.size > 0) this.sendPlan();
  }

  private sendPlan(): void {
    if (!this.plan) return;
    const { strips, loop } = this.plan;
    const clips = strips.flatMap((strip) => strip.clips.filter(({ assetId }) => this.sounds.has(assetId)));
    const { sent } = this;
    const isSame = clips.length === sent?.clips.length && clips.every((clip, n) => clip === sent.clips[n]);
    // Most plans differ in values of effects alone; a clip that has not changed is the same object.
    if (isSame && loop?.startFrame === sent?.loop?.startFrame && loop?.endFrame === sent?.loop?.endFrame) return;
    this.sent = { clips, loop };
    const paged = clips.map(({ assetId, startFrame, offsetFrame, lengthFrames, reversed }) => ({
      ...{ assetId, startFrame, offsetFrame, lengthFrames },
      ...(reversed ? { reversed } : {}),
    }));
    this.post({ kind: 'plan', plan: { clips: paged, loop } });
  }

  /** True if everything is there that is heard from a frame on at first. */
  isReady(frame: number): boolean {
    if (this.opening.size > 0) return false;
    if (!this.plan || this.sounds.size === 0) return true;
    const { strips, loop, sampleRate } = this.plan;
    const frames = new Map([...this.sounds].map(([id, sound]) => [id, sound.frames]));
    const clips = strips.flatMap((strip) => strip.clips);
    return neededPages({ clips, loop }, frames, frame, FIRST_SECONDS * sampleRate).every(({ soundId, page }) => {
      const { table, sides } = this.sounds.get(soundId)!;
      return Atomics.load(table, page * sides) !== 0;
    });
  }

  /** Waits for what is heard from a frame on at first, no longer than is told. */
  async ready(frame: () => number, mostMs: number): Promise<void> {
    const until = performance.now() + mostMs;
    while (!this.isReady(frame()) && performance.now() < until) await rest();
  }

  /**
   * Gets what is heard from a frame on at first, where the playhead is going to jump; waits no longer than is told.
   * @param isWanted false once it jumps elsewhere
   */
  async reach(frame: number, mostMs: number, isWanted: () => boolean): Promise<void> {
    if (this.isReady(frame)) return;
    this.post({ kind: 'reach', frame });
    const until = performance.now() + mostMs;
    while (isWanted() && !this.isReady(frame) && performance.now() < until) await rest();
  }

  /** The playhead has jumped by itself. */
  jumped(): void {
    if (this.sounds.size > 0) this.post({ kind: 'reach', frame: null });
  }

  /** Ends the worker. */
  dispose(): void {
    this.worker?.terminate();
    this.worker = null;
  }
}
