import { scratchOf, SpectrumPair } from './spectra';

/** Taps of an impulse that are worked out straight, so that it sounds at once. */
export const HEAD_TAPS = 128;

/**
 * The rest in parts whose length grows (Gardner, "Efficient convolution without input-output delay", 1995; Wefers,
 * "Partitioned convolution algorithms for real-time auralization", 2015). The first of a kind begin as late as the work on
 * them takes: those of 128 frames at once, all others over the time of one part.
 */
export const PART_KINDS = [
  { block: 128, from: HEAD_TAPS, to: 2048 },
  { block: 1024, from: 2048, to: 16384 },
  { block: 8192, from: 16384, to: Infinity },
] as const;

/** Parts of each kind that an impulse of so many frames has. */
export const partsOf = (frames: number): number[] =>
  PART_KINDS.map(({ block, from, to }) => Math.max(0, Math.ceil((Math.min(frames, to) - from) / block)));

/**
 * Ways from left and right in to left and right out: one for both sides alike, one for each side, or from each to each in
 * the order left to left, left to right, right to left, right to right.
 */
export type Paths = 1 | 2 | 4;

/** A prepared impulse: `[paths, frames]`, then for each path its head and its partitions of each size. */
export type ImpulseSpectra = readonly Float32Array[];

const PER_PATH = 1 + PART_KINDS.length;

export const pathsIn = (spectra: ImpulseSpectra): Paths => spectra[0]![0] as Paths;
export const framesIn = (spectra: ImpulseSpectra): number => spectra[0]![1]!;
export const headIn = (spectra: ImpulseSpectra, path: number): Float32Array => spectra[1 + path * PER_PATH]!;
/** @param kind a place in PART_KINDS */
export const partsIn = (spectra: ImpulseSpectra, path: number, kind: number): Float32Array =>
  spectra[2 + path * PER_PATH + kind]!;

/** @param paths samples of each path, as many of each */
export function impulseSpectra(paths: readonly Float32Array[]): ImpulseSpectra {
  const frames = paths[0]!.length;
  const kinds = PART_KINDS.map(({ block }) => new SpectrumPair(2 * block));
  const counts = partsOf(frames);
  const out: Float32Array[] = [Float32Array.of(paths.length, frames)];
  const scratch = scratchOf(2 * PART_KINDS.at(-1)!.block);
  for (const samples of paths) {
    const head = new Float32Array(HEAD_TAPS);
    head.set(samples.subarray(0, HEAD_TAPS));
    out.push(head);
    kinds.forEach((pair, kind) => {
      const { block, from } = PART_KINDS[kind]!;
      const spectra = new Float32Array(counts[kind]! * pair.size);
      const found = scratch.memory.floats(2 * pair.size);
      for (let part = 0; part < counts[kind]!; part++) {
        scratch.re.fill(0);
        scratch.im.fill(0);
        const start = from + part * block;
        scratch.re.set(samples.subarray(start, start + block));
        pair.forward(scratch.re, scratch.im);
        pair.part(scratch.re, scratch.im, found.byteOffset);
        // The inverse leaves sounds times the size.
        for (let n = 0; n < pair.size; n++) spectra[part * pair.size + n] = found[n]! / pair.size;
      }
      out.push(spectra);
    });
  }
  scratch.memory.free();
  return out;
}
