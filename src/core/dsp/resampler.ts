import { kaiser, kaiserBeta, sinc } from '../math/windows';

/** Zero crossings of the sinc on each side: with the Kaiser window below, over 100 dB of stopband. */
const ZERO_CROSSINGS = 48;
const PHASES = 512;
const BETA = kaiserBeta(110);
/** Start of the transition band as a part of the lower Nyquist frequency. */
const PASSBAND = 0.93;
/** Frames between two reports of progress. */
const STRETCH = 65536;

/**
 * Converts a whole channel between sample rates by windowed-sinc interpolation (Smith, "Digital audio resampling
 * home page", 2002). Length becomes round(frames * to / from); no delay is added. Flat within 0.05 dB to 0.9 of the
 * lower Nyquist frequency, aliases and images under -100 dB.
 * @param input samples at `fromHz`
 * @param onProgress called with 0 to 1 about every 65536 output frames; return false to stop, which yields null
 */
export function resample(
  input: Float32Array,
  fromHz: number,
  toHz: number,
  onProgress?: (done: number) => boolean,
): Float32Array | null {
  checkRates(fromHz, toHz);
  const output = new Float32Array(resampledLength(input.length, fromHz, toHz));
  for (let frame = 0; frame < output.length; frame += STRETCH) {
    if (onProgress && !onProgress(frame / output.length)) return null;
    resampleStretch(input, fromHz, toHz, output, frame, Math.min(output.length, frame + STRETCH));
  }
  return output;
}

function checkRates(fromHz: number, toHz: number): void {
  if (!(fromHz > 0 && toHz > 0)) throw new Error(`resample: rates must be positive, got ${fromHz} and ${toHz}`);
}

/** Frames that a channel has at another rate. */
export function resampledLength(frames: number, fromHz: number, toHz: number): number {
  return Math.round((frames * toHz) / fromHz);
}

/** Works out the frames `from` up to `to` of what `resample` gives, into `output`; for work that is done bit by bit. */
export function resampleStretch(
  input: Float32Array,
  fromHz: number,
  toHz: number,
  output: Float32Array,
  from: number,
  to: number,
): void {
  checkRates(fromHz, toHz);
  if (fromHz === toHz) return output.set(input.subarray(from, to), from);
  const cutoff = Math.min(1, toHz / fromHz) * ((1 + PASSBAND) / 2);
  const reach = ZERO_CROSSINGS / cutoff;
  const table = kernelTable();
  const tableScale = PHASES * cutoff;
  const step = fromHz / toHz;
  for (let frame = from; frame < to; frame++) {
    const centre = frame * step;
    const first = Math.max(0, Math.ceil(centre - reach));
    const last = Math.min(input.length - 1, Math.floor(centre + reach));
    let sum = 0;
    for (let i = first; i <= last; i++) {
      const position = Math.abs(i - centre) * tableScale;
      const slot = Math.floor(position);
      const low = table[slot]!;
      sum += input[i]! * (low + (position - slot) * (table[slot + 1]! - low));
    }
    output[frame] = sum * cutoff;
  }
}

let cachedTable: Float64Array | null = null;

/** One side of the windowed sinc, PHASES points to a zero crossing; built on first use. */
function kernelTable(): Float64Array {
  cachedTable ??= Float64Array.from({ length: ZERO_CROSSINGS * PHASES + 2 }, (_, i) => {
    const x = i / PHASES;
    return sinc(x) * kaiser(x / ZERO_CROSSINGS, BETA);
  });
  return cachedTable;
}
