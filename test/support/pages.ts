import { CHUNK_PAGES, PAGE_FRAMES, pageAt, pageCount, type PagedSamples } from '@/core/pages/pagedSamples';

const shared = (bytes: number) => new SharedArrayBuffer(bytes);

/** A sound with all of its pages in memory, in an order that is not theirs. */
export function pagedOf(sides: readonly Float32Array[]): PagedSamples {
  const frames = sides[0]!.length;
  const pages = pageCount(frames) * sides.length;
  const chunks = Array.from(
    { length: Math.ceil(pages / CHUNK_PAGES) },
    () => new Float32Array(shared(CHUNK_PAGES * PAGE_FRAMES * 4)),
  );
  const table = new Int32Array(shared(4 * pages));
  const sound: PagedSamples = {
    frames,
    sides: sides.length as 1 | 2,
    table,
    memory: { chunks, counters: new Int32Array(shared(4)) },
  };
  for (let entry = 0; entry < pages; entry++) {
    const page = Math.floor(entry / sides.length);
    const place = pages - entry;
    const samples = sides[entry % sides.length]!.subarray(page * PAGE_FRAMES, (page + 1) * PAGE_FRAMES);
    pageAt(sound.memory, place).set(samples);
    table[entry] = place;
  }
  return sound;
}
