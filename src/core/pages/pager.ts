import { CHUNK_PAGES, PAGE_FRAMES, pageAt, pageCount, type PagedSamples, type PageMemory } from './pagedSamples';
import { neededPages, type NeededPage, type PagePlan } from './neededPages';

/** Works out the pages of one sound. */
export interface PageReading {
  readonly frames: number;
  readonly sides: 1 | 2;
  page(n: number): Promise<readonly Float32Array[]>;
  free(): void;
}

/** What the pager tells. */
export interface PagerEvents {
  /** Memory has grown by a chunk. */
  onChunk(chunk: Float32Array): void;
  onProblem(soundId: string, error: unknown): void;
}

/** Pages of memory where sound is played: 128 MiB. */
const LIVE_PAGES = 512;
/** Sounds of which a page is worked out at a time. */
const AT_ONCE = 6;
/** Time after which a page that failed is tried again, in ms. */
const AGAIN_MS = 2000;

interface OpenSound extends PagedSamples {
  readonly reading: PageReading;
  isBusy: boolean;
  /** Drawings that wait until it is not busy. */
  readonly waiting: (() => void)[];
  /** Time before which it is left alone. */
  restsUntil: number;
}

/** What a place in memory holds. */
interface Held {
  readonly soundId: string;
  readonly entry: number;
}

const shared = (numbers: number) => new Int32Array(new SharedArrayBuffer(4 * numbers));

/** Keeps the pages in memory that are heard next; the rest goes when its memory is needed. */
export class Pager {
  private readonly chunks: Float32Array[] = [];
  readonly memory: PageMemory = { chunks: this.chunks, counters: shared(1) };
  private readonly sounds = new Map<string, OpenSound>();
  /** By place, from 1, in the order in which they came in. */
  private readonly held = new Map<number, Held>();
  private readonly free: number[] = [];
  private plan: PagePlan = { clips: [], loop: null };
  private needed: readonly NeededPage[] = [];
  private neededEntries: ReadonlySet<string> = new Set();
  /** Whoever waits for the next page. */
  private waiting: { come(): void; fail(error: unknown): void } | null = null;

  constructor(
    private readonly events: PagerEvents,
    /** In ms, from any beginning. */
    private readonly now: () => number,
    /** Pages of memory that are taken before those of pages that are not needed any more are used again. */
    private readonly keptPages = LIVE_PAGES,
    /** Pages of memory at most. */
    private readonly mostPages = keptPages,
  ) {}

  /** Takes a sound up; none of its pages is there yet. It is freed when it is closed. */
  open(soundId: string, reading: PageReading): PagedSamples {
    this.close(soundId);
    const { frames, sides } = reading;
    const table = shared(pageCount(frames) * sides);
    const sound = { frames, sides, table, memory: this.memory, reading, isBusy: false, waiting: [], restsUntil: 0 };
    this.sounds.set(soundId, sound);
    return { frames, sides, table, memory: this.memory };
  }

  /** Lets a sound go, with its pages. */
  close(soundId: string): void {
    const sound = this.sounds.get(soundId);
    if (!sound) return;
    this.sounds.delete(soundId);
    sound.table.fill(0);
    for (const [place, held] of this.held) {
      if (held.soundId !== soundId) continue;
      this.held.delete(place);
      this.free.push(place);
    }
    if (!sound.isBusy) sound.reading.free();
  }

  /** Lets all sounds go. */
  closeAll(): void {
    for (const soundId of [...this.sounds.keys()]) this.close(soundId);
  }

  setPlan(plan: PagePlan): void {
    this.plan = plan;
  }

  /** Looks what is needed from a position on, and gets what is missing of it. */
  look(position: number, ahead: number): void {
    const frames = new Map([...this.sounds].map(([id, sound]) => [id, sound.frames]));
    this.needed = neededPages(this.plan, frames, position, ahead);
    const entries = new Set<string>();
    for (const { soundId, page } of this.needed) {
      const { sides } = this.sounds.get(soundId)!;
      for (let side = 0; side < sides; side++) entries.add(`${soundId} ${page * sides + side}`);
    }
    this.neededEntries = entries;
    this.work();
  }

  /**
   * The same, for who waits until all of it is there.
   * @throws what reading a page throws
   */
  async reach(position: number, ahead: number): Promise<void> {
    this.look(position, ahead);
    const isMissing = ({ soundId, page }: NeededPage) => {
      const { table, sides } = this.sounds.get(soundId)!;
      return table[page * sides] === 0;
    };
    while (this.needed.some(isMissing)) await new Promise<void>((come, fail) => (this.waiting = { come, fail }));
  }

  /**
   * One page for a drawing, once nothing that is played is waited for.
   * @returns one array a side; null for a sound that is not open
   * @throws what reading it throws
   */
  async page(soundId: string, page: number): Promise<readonly Float32Array[] | null> {
    for (let sound = this.sounds.get(soundId); sound; sound = this.sounds.get(soundId)) {
      if (sound.isBusy) {
        await new Promise<void>((free) => sound!.waiting.push(free));
        continue;
      }
      sound.isBusy = true;
      try {
        return await sound.reading.page(page);
      } finally {
        this.freed(soundId, sound);
      }
    }
    return null;
  }

  /** A sound has been read: what is played goes first, then drawings. */
  private freed(soundId: string, sound: OpenSound): void {
    sound.isBusy = false;
    if (this.sounds.get(soundId) !== sound) sound.reading.free();
    this.work();
    if (!sound.isBusy) for (const free of sound.waiting.splice(0)) free();
  }

  private work(): void {
    let busy = [...this.sounds.values()].filter(({ isBusy }) => isBusy).length;
    const now = this.now();
    for (const { soundId, page } of this.needed) {
      if (busy >= AT_ONCE) return;
      const sound = this.sounds.get(soundId);
      if (!sound || sound.isBusy || sound.restsUntil > now || sound.table[page * sound.sides] !== 0) continue;
      busy++;
      void this.get(soundId, sound, page);
    }
  }

  private async get(soundId: string, sound: OpenSound, page: number): Promise<void> {
    sound.isBusy = true;
    try {
      const sides = await sound.reading.page(page);
      if (this.sounds.get(soundId) === sound) this.put(soundId, sound, page, sides);
      this.waiting?.come();
    } catch (error) {
      sound.restsUntil = this.now() + AGAIN_MS;
      if (this.sounds.get(soundId) === sound) this.events.onProblem(soundId, error);
      this.waiting?.fail(error);
    } finally {
      this.freed(soundId, sound);
    }
  }

  /** Puts a page into memory, if there is room for what is needed. */
  private put(soundId: string, sound: OpenSound, page: number, sides: readonly Float32Array[]): void {
    const places = sides.map(() => this.place());
    if (places.includes(null)) {
      this.free.push(...places.filter((place) => place !== null));
      // All memory holds what is needed sooner.
      sound.restsUntil = this.now() + AGAIN_MS;
      return;
    }
    sides.forEach((samples, side) => {
      const place = places[side]!;
      pageAt(this.memory, place).set(samples);
      this.held.set(place, { soundId, entry: page * sound.sides + side });
    });
    // The first side is set last: where it is there, both are.
    for (let side = sides.length - 1; side >= 0; side--)
      Atomics.store(sound.table, page * sound.sides + side, places[side]!);
  }

  /** A place in memory: a free one, more memory, or that of the oldest page that is not needed. */
  private place(): number | null {
    const free = this.free.pop();
    if (free !== undefined) return free;
    const taken = this.chunks.length * CHUNK_PAGES;
    if (taken < this.keptPages) return this.more();
    for (const [place, { soundId, entry }] of this.held) {
      if (this.neededEntries.has(`${soundId} ${entry}`)) continue;
      const { table, sides } = this.sounds.get(soundId)!;
      // Both sides go, so that a page is there whole or not at all.
      const page = Math.floor(entry / sides);
      for (let side = 0; side < sides; side++) {
        const one = Atomics.exchange(table, page * sides + side, 0);
        if (one === 0) continue;
        this.held.delete(one);
        if (one !== place) this.free.push(one);
      }
      return place;
    }
    return taken < this.mostPages ? this.more() : null;
  }

  /** Takes more memory; gives its first place. */
  private more(): number {
    const taken = this.chunks.length * CHUNK_PAGES;
    const chunk = new Float32Array(new SharedArrayBuffer(4 * CHUNK_PAGES * PAGE_FRAMES));
    this.chunks.push(chunk);
    this.events.onChunk(chunk);
    for (let n = CHUNK_PAGES; n > 1; n--) this.free.push(taken + n);
    return taken + 1;
  }
}
