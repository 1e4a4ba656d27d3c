import { Arena, type Doubles, type Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { cos, log, sin } from '../math/elementary';
import { keepNewest } from '../math/keepNewest';
import { powerOfTwoFrom } from '../math/powerOfTwo';
import { kaiser, kaiserBeta, sinc } from '../math/windows';
import { FourierTransform } from './fft';

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
 * lower Nyquist frequency, aliases and images under -100 dB. The first frames have no room for the part of the filter
 * that comes before them: they go through its minimum-phase form, less than two input frames late, and keep their highs.
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
  const part = { samples: input, first: 0, frames: input.length };
  stretchOf(part, fromHz, toHz, output.subarray(from, to), from);
}

/** Frames of a channel from `first` on, and how many the whole channel has. */
export interface ChannelPart {
  readonly samples: Float32Array;
  readonly first: number;
  readonly frames: number;
}

/**
 * Frames of a channel that the frames `from` up to `to` of what `resample` gives are worked out from.
 * @param frames of the whole channel
 */
export function inputOf(fromHz: number, toHz: number, from: number, to: number, frames: number): [number, number] {
  if (fromHz === toHz) return [from, Math.min(to, frames)];
  const reach = Math.ceil(ZERO_CROSSINGS / cutoffOf(fromHz, toHz)) + 1;
  const first = Math.floor((from * fromHz) / toHz) - reach;
  const last = Math.ceil((to * fromHz) / toHz) + reach;
  // The head is corrected from the beginning on.
  const isHead = from < headFilterOf(fromHz, toHz).transform.size / 2;
  const headEnd = isHead ? (HEAD_STEPS + 1) * HEAD_STEP_FRAMES : 0;
  return [isHead ? 0 : Math.max(0, first), Math.min(frames, Math.max(last, headEnd))];
}

/**
 * The same bits as `resampleStretch`, from a part of the channel.
 * @param part at least the frames that `inputOf` tells
 */
export function resamplePart(part: ChannelPart, fromHz: number, toHz: number, from: number, to: number): Float32Array {
  checkRates(fromHz, toHz);
  const output = new Float32Array(to - from);
  stretchOf(part, fromHz, toHz, output, from);
  return output;
}

/** @param output of the frames from `from` on */
function stretchOf(part: ChannelPart, fromHz: number, toHz: number, output: Float32Array, from: number): void {
  const { samples, first } = part;
  if (fromHz === toHz) return output.set(samples.subarray(from - first, from - first + output.length));
  const phases = phasesOf(fromHz, toHz);
  if (phases) throughPhases(part, phases, output, from);
  else for (let n = 0; n < output.length; n++) output[n] = throughTable(part, fromHz, toHz, from + n);
  correctHead(part, fromHz, toHz, output, from);
}

const cutoffOf = (fromHz: number, toHz: number) => Math.min(1, toHz / fromHz) * ((1 + PASSBAND) / 2);

/** One output frame from the table: for rates of which one is no simple multiple of the other. */
function throughTable(
  { samples, first: origin, frames }: { samples: ArrayLike<number>; first: number; frames: number },
  fromHz: number,
  toHz: number,
  frame: number,
): number {
  const cutoff = cutoffOf(fromHz, toHz);
  const reach = ZERO_CROSSINGS / cutoff;
  const centre = (frame * fromHz) / toHz;
  const first = Math.max(0, Math.ceil(centre - reach));
  const last = Math.min(frames - 1, Math.floor(centre + reach));
  let sum = 0;
  for (let i = first; i <= last; i++) sum += samples[i - origin]! * tapAt(i - centre, cutoff);
  return sum;
}

/** Steps in which the phase goes from minimum phase to zero phase, and input frames of each. */
const HEAD_STEPS = 8;
const HEAD_STEP_FRAMES = 64;
/** Least magnitude of the low-pass against its passband in the cepstrum: -100 dB. */
const FLOOR = 1e-5;

/** All-pass between the zero-phase low-pass and its minimum-phase form, at the output's rate. */
interface HeadFilter {
  readonly transform: FourierTransform;
  /** Output frames on each side of the low-pass's impulse response. */
  readonly reach: number;
  /** Phase of the all-pass by bin, in radians. */
  readonly phase: Float64Array;
}

const headFilters = new Map<string, HeadFilter>();

/** By the folded cepstrum (Oppenheim and Schafer, "Discrete-time signal processing", 1989, section 12.2). */
function headFilterOf(fromHz: number, toHz: number): HeadFilter {
  const name = `${fromHz}/${toHz}`;
  const known = headFilters.get(name);
  if (known) return known;
  const cutoff = cutoffOf(fromHz, toHz);
  const reach = Math.ceil((ZERO_CROSSINGS / cutoff) * (toHz / fromHz));
  const frames = Math.ceil((HEAD_STEPS * HEAD_STEP_FRAMES * toHz) / fromHz) + 2 * reach;
  const transform = new FourierTransform(powerOfTwoFrom(4 * frames));
  const { size } = transform;
  const re = new Float64Array(size);
  const phase = new Float64Array(size);
  for (let n = -reach; n <= reach; n++) re[(n + size) % size] = tapAt((n * fromHz) / toHz, cutoff);
  transform.forward(re, phase);
  const floor = FLOOR * Math.abs(re[0]!);
  for (let k = 0; k < size; k++) re[k] = log(Math.max(floor, Math.abs(re[k]!))) / size;
  phase.fill(0);
  // The cepstrum of the magnitude, which is even; folded onto the frames from 0 on, it is that of the minimum phase.
  transform.forward(re, phase);
  for (let n = 1; n < size / 2; n++) re[n] = 2 * re[n]!;
  re.fill(0, size / 2 + 1);
  phase.fill(0);
  transform.forward(re, phase);
  const filter = { transform, reach, phase };
  headFilters.set(name, filter);
  keepNewest(headFilters, MOST_KEPT);
  return filter;
}

/**
 * Adds to output frames from `from` on the difference that minimum phase makes to the beginning of the input.
 * The phase goes back to zero in small steps, since a crossfade of the two forms would cancel where their phases differ.
 * The part begins with the channel wherever there is something to correct.
 */
function correctHead(
  { samples, frames }: ChannelPart,
  fromHz: number,
  toHz: number,
  output: Float32Array,
  from: number,
): void {
  const { transform, reach, phase } = headFilterOf(fromHz, toHz);
  const { size } = transform;
  if (from >= size / 2) return;
  const sumRe = new Float64Array(size);
  const sumIm = new Float64Array(size);
  for (let step = 0; step < HEAD_STEPS; step++) {
    const centre = step * HEAD_STEP_FRAMES;
    const head = new Float64Array(Math.min(frames, centre + HEAD_STEP_FRAMES));
    const first = Math.max(0, centre - HEAD_STEP_FRAMES);
    for (let n = first; n < head.length; n++) {
      head[n] = samples[n]! * (0.5 + 0.5 * cos((Math.PI * (n - centre)) / HEAD_STEP_FRAMES));
    }
    if (head.every((x) => x === 0)) continue;
    const re = new Float64Array(size);
    const im = new Float64Array(size);
    const end = Math.ceil((head.length * toHz) / fromHz) + reach;
    for (let n = Math.floor((first * toHz) / fromHz) - reach; n < end; n++) {
      re[(n + size) % size] = throughTable({ samples: head, first: 0, frames: head.length }, fromHz, toHz, n) / size;
    }
    transform.forward(re, im);
    const share = 1 - step / HEAD_STEPS;
    for (let k = 0; k < size; k++) {
      const [c, s] = [cos(share * phase[k]!) - 1, sin(share * phase[k]!)];
      sumRe[k] = sumRe[k]! + re[k]! * c - im[k]! * s;
      sumIm[k] = sumIm[k]! + re[k]! * s + im[k]! * c;
    }
  }
  transform.forward(sumIm, sumRe);
  const end = Math.min(output.length, size / 2 - from);
  for (let n = 0; n < end; n++) output[n] = output[n]! + sumRe[from + n]!;
}

/** Taps of each place between two input frames that an output frame can have. */
interface Phases {
  /** Places between two input frames, and input frames that as many output frames take. */
  readonly up: number;
  readonly down: number;
  /** Taps before the place, and as many after it. */
  readonly side: number;
  readonly taps: Doubles;
  /** Holds all of this. */
  readonly memory: Arena;
  /** Room for the input of a piece, and for the piece. */
  readonly segment: Floats;
  readonly piece: Floats;
}

/** Output frames worked out at a time. */
const PIECE = 2048;
/** The most taps that are laid out. */
const MOST_TAPS = 1 << 20;
/** Pairs of rates for which taps, or filters of a head, are kept. */
const MOST_KEPT = 8;
const laidOut = new Map<string, Phases>();

/** Null for rates that are no whole numbers, or have too many places between their frames. */
function phasesOf(fromHz: number, toHz: number): Phases | null {
  if (!Number.isInteger(fromHz) || !Number.isInteger(toHz)) return null;
  const divisor = greatestDivisor(fromHz, toHz);
  const up = toHz / divisor;
  const down = fromHz / divisor;
  const name = `${up}/${down}`;
  const known = laidOut.get(name);
  if (known) return known;
  const cutoff = cutoffOf(fromHz, toHz);
  const side = Math.ceil(ZERO_CROSSINGS / cutoff);
  if (up * 2 * side > MOST_TAPS) return null;
  const memory = new Arena();
  const taps = memory.doubles(up * 2 * side);
  for (let phase = 0; phase < up; phase++) {
    for (let tap = 0; tap < 2 * side; tap++) {
      taps[phase * 2 * side + tap] = tapAt(tap + 1 - side - phase / up, cutoff);
    }
  }
  const segment = memory.floats(Math.ceil((PIECE * down) / up) + 2 * side + 2);
  const phases = { up, down, side, taps, memory, segment, piece: memory.floats(PIECE) };
  laidOut.set(name, phases);
  keepNewest(laidOut, MOST_KEPT, (oldest) => oldest.memory.free());
  return phases;
}

function greatestDivisor(a: number, b: number): number {
  return b === 0 ? a : greatestDivisor(b, a % b);
}

function throughPhases(part: ChannelPart, phases: Phases, output: Float32Array, from: number): void {
  const { up, down, side, taps, segment, piece } = phases;
  const { kernels } = wasm();
  const to = from + output.length;
  for (let start = from; start < to; start += PIECE) {
    const frames = Math.min(PIECE, to - start);
    const origin = Math.floor((start * down) / up) + 1 - side;
    const end = Math.floor(((start + frames - 1) * down) / up) + side + 1;
    // Around the sound there is silence.
    segment.fill(0, 0, end - origin);
    const first = Math.max(0, origin);
    if (end > first) segment.set(part.samples.subarray(first - part.first, end - part.first), first - origin);
    kernels.polyphase(segment.byteOffset, origin, taps.byteOffset, up, down, side, piece.byteOffset, start, frames);
    output.set(piece.subarray(0, frames), start - from);
  }
}

/** The low-pass at a distance from its middle in input frames. */
function tapAt(distance: number, cutoff: number): number {
  const position = Math.abs(distance) * PHASES * cutoff;
  const slot = Math.floor(position);
  const table = kernelTable();
  if (slot > ZERO_CROSSINGS * PHASES) return 0;
  const low = table[slot]!;
  return cutoff * (low + (position - slot) * (table[slot + 1]! - low));
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
