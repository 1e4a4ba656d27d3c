/** Frames of a page: 1.4 s at 48 kHz. */
export const PAGE_FRAMES = 65536;

/** Sounds longer than this are read by pages, in seconds. */
export const LONG_SECONDS = 60;

/** Pages of memory that are taken at a time: 16 MiB. */
export const CHUNK_PAGES = 64;

/** Places of the counters that threads share. */
export const PAGE_COUNTER = { late: 0 } as const;

/** Memory for pages, in shared memory: it grows by chunks. */
export interface PageMemory {
  /** CHUNK_PAGES pages each. */
  readonly chunks: readonly Float32Array[];
  /** By PAGE_COUNTER: blocks in which a page was not there. */
  readonly counters: Int32Array;
}

/**
 * A sound of which only some pages are in memory. Whoever fills them writes a page before it sets its entry in the table,
 * and clears the entry before the memory is used for another page.
 */
export interface PagedSamples {
  readonly frames: number;
  /** 1 for a sound that is the same on both sides. */
  readonly sides: 1 | 2;
  /** For each page one entry a side: the place of the page in memory, from 1; 0 while it is not there. In shared memory. */
  readonly table: Int32Array;
  readonly memory: PageMemory;
}

/** True for a sound that is read by pages. */
export const isPaged = (sound: object): sound is PagedSamples => 'table' in sound;

export const pageCount = (frames: number): number => Math.ceil(frames / PAGE_FRAMES);

export const pageAt = ({ chunks }: PageMemory, place: number): Float32Array => {
  const at = (place - 1) % CHUNK_PAGES;
  return chunks[Math.floor((place - 1) / CHUNK_PAGES)]!.subarray(at * PAGE_FRAMES, (at + 1) * PAGE_FRAMES);
};

/**
 * Copies frames of one side to the beginning of `out`; silence for what lies beyond the sound and for pages that are not
 * there. Takes no memory.
 * @param from may lie before the sound
 * @returns false if a page was missing
 */
function readSide(sound: PagedSamples, side: number, from: number, count: number, out: Float32Array): boolean {
  const { table, sides, frames, memory } = sound;
  let isWhole = true;
  for (let done = 0; done < count;) {
    const at = from + done;
    if (at < 0 || at >= frames) {
      out[done++] = 0;
      continue;
    }
    const page = Math.floor(at / PAGE_FRAMES);
    const entry = page * sides + side;
    const end = Math.min(count, (page + 1) * PAGE_FRAMES - from, frames - from);
    const place = Atomics.load(table, entry);
    const chunk = place === 0 ? undefined : memory.chunks[Math.floor((place - 1) / CHUNK_PAGES)];
    if (chunk) {
      const shift = ((place - 1) % CHUNK_PAGES) * PAGE_FRAMES + (from - page * PAGE_FRAMES);
      for (let i = done; i < end; i++) out[i] = chunk[i + shift]!;
    }
    // What was taken for another page meanwhile counts as missing.
    if (!chunk || Atomics.load(table, entry) !== place) {
      out.fill(0, done, end);
      isWhole = false;
    }
    done = end;
  }
  return isWhole;
}

/**
 * Copies frames `from` up to `from + count` of both sides to the beginnings of `left` and `right`, and counts it if a page
 * was missing.
 */
export function readPages(
  sound: PagedSamples,
  from: number,
  count: number,
  left: Float32Array,
  right: Float32Array,
): void {
  let isWhole = readSide(sound, 0, from, count, left);
  if (sound.sides === 2) isWhole = readSide(sound, 1, from, count, right) && isWhole;
  else for (let i = 0; i < count; i++) right[i] = left[i]!;
  if (!isWhole) Atomics.add(sound.memory.counters, PAGE_COUNTER.late, 1);
}
