import { atan2, cos, exp, log, sin } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { BlockFourier } from './blockFourier';

const PI = 3.141592653589793;
const TWO_PI = 2 * PI;
const OVERLAP = 4;
/** The energy of a peak lies this part of a window after its middle while an attack is still to come. */
const COMING = 0.1;
/** So much stronger than in the frame before it is an attack: 6 dB. */
const RISE = 4;
/** Part of what an envelope is made of that counts in full. */
const FLAT = 0.65;
/** Times that the envelope is raised to the peaks. */
const ENVELOPE_ROUNDS = 5;
/** Power of a peak that counts, against the strongest: -30 dB. */
const AUDIBLE = 1e-3;
const FLOOR = 1e-12;

/** How a voice is to sound from the next window on. */
export interface Shift {
  /** Pitch and formants over those of the source. */
  ratio: number;
  formants: number;
}

interface VoiceState {
  /** Turns of each bin beyond the source's, in radians. */
  readonly turns: Float64Array;
  readonly next: Float64Array;
  /** What is summed up of its windows, from where the next ones begin. */
  readonly sum: Float64Array;
}

/**
 * Voices at other pitches than a sound of any number of notes: peaks of its spectrum are moved, each with the bins around it
 * (Laroche and Dolson, "New phase-vocoder techniques for pitch-shifting, harmonizing and other exotic effects", 1999), with
 * phases locked to the peak's. Where an attack comes in, its peaks wait until it stands in the middle of the window and begin
 * there with the source's own phases (Roebel, "A new approach to transient processing in the phase vocoder", DAFx 2003).
 * Formants stay, or move by themselves, by the spectrum's envelope.
 */
export class SpectralVoices {
  /** Frames by which what comes out is behind what goes in. */
  readonly lateFrames: number;
  private readonly hop: number;
  private readonly half: number;
  private readonly transform: BlockFourier;
  private readonly window: Float64Array;
  private readonly past: Float64Array;
  private at = 0;
  private due: number;
  private readonly re: Doubles;
  private readonly im: Doubles;
  private readonly momentRe: Doubles;
  private readonly momentIm: Doubles;
  private readonly outRe: Doubles;
  private readonly outIm: Doubles;
  private readonly reBefore: Float64Array;
  private readonly imBefore: Float64Array;
  private readonly powers: Float64Array;
  private readonly powersBefore: Float64Array;
  /** Logarithm of the envelope by bin. */
  private readonly envelope: Float64Array;
  /** Of each bin the peak that it belongs to, and of each peak whether its attack is coming, is here, or is none. */
  private readonly peaks: Int32Array;
  private peakCount = 0;
  private readonly edges: Int32Array;
  /** Of each peak, in radians a frame, and where its energy lies in the window, in frames from the middle. */
  private readonly frequencies: Float64Array;
  private readonly centres: Float64Array;
  private readonly coming: Uint8Array;
  private readonly comingBefore: Uint8Array;
  private readonly arrived: Uint8Array;
  private lifter = 1;
  private readonly voices: readonly VoiceState[];
  private first = true;

  constructor(memory: Arena, sampleRate: number, voices: number) {
    const size = sampleRate > 60000 ? 8192 : 4096;
    this.hop = size / OVERLAP;
    this.half = size / 2;
    this.lateFrames = size;
    this.transform = new BlockFourier(size);
    // Hann windows, at both ends, overlapping by three quarters, sum to 3/2 of a window.
    this.window = Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * cos((TWO_PI * n) / size));
    this.past = new Float64Array(size);
    this.due = this.hop;
    [this.re, this.im, this.momentRe, this.momentIm, this.outRe, this.outIm] = Array.from({ length: 6 }, () =>
      memory.doubles(size),
    ) as [Doubles, Doubles, Doubles, Doubles, Doubles, Doubles];
    const bins = this.half + 1;
    this.reBefore = new Float64Array(bins);
    this.imBefore = new Float64Array(bins);
    this.centres = new Float64Array(bins);
    this.powers = new Float64Array(bins);
    this.powersBefore = new Float64Array(bins);
    this.envelope = new Float64Array(bins);
    this.peaks = new Int32Array(bins);
    this.edges = new Int32Array(bins + 1);
    this.frequencies = new Float64Array(bins);
    this.coming = new Uint8Array(bins);
    this.comingBefore = new Uint8Array(bins);
    this.arrived = new Uint8Array(bins);
    this.voices = Array.from({ length: voices }, () => ({
      turns: new Float64Array(bins),
      next: new Float64Array(bins),
      sum: new Float64Array(size),
    }));
  }

  reset(): void {
    this.past.fill(0);
    this.at = 0;
    this.due = this.hop;
    this.first = true;
    this.powersBefore.fill(0);
    this.comingBefore.fill(0);
    for (const { turns, sum } of this.voices) {
      turns.fill(0);
      sum.fill(0);
    }
  }

  /** Frames until the next window is worked on. */
  get untilWindow(): number {
    return this.due;
  }

  /**
   * Takes in frames, no more than `untilWindow`, and works on a window when they complete it.
   * @param shifts of each voice; null for one that is silent
   * @param envelopeFrames what of a spectrum's shape is faster is no formant: less than the shortest period in the sound
   */
  take(
    samples: ArrayLike<number>,
    from: number,
    frames: number,
    shifts: readonly (Shift | null)[],
    envelopeFrames: number,
  ): void {
    this.lifter = Math.max(1, Math.round(envelopeFrames));
    const { past } = this;
    const size = past.length;
    for (let i = 0; i < frames; i++) {
      past[this.at] = samples[from + i]!;
      this.at = this.at + 1 === size ? 0 : this.at + 1;
    }
    this.due -= frames;
    if (this.due > 0) return;
    this.due = this.hop;
    this.analyse();
    for (let n = 0; n < this.voices.length; n += 2) this.work(n, shifts[n] ?? null, shifts[n + 1] ?? null);
    this.reBefore.set(this.re.subarray(0, this.half + 1));
    this.imBefore.set(this.im.subarray(0, this.half + 1));
    this.powersBefore.set(this.powers);
    this.first = false;
  }

  /** Adds what a voice has for the frames that `take` is given next. */
  read(voice: number, out: Doubles, frames: number): void {
    const { sum } = this.voices[voice]!;
    const start = this.hop - this.due;
    for (let i = 0; i < frames; i++) out[i] = out[i]! + sum[start + i]!;
  }

  private analyse(): void {
    const { re, im, momentRe, momentIm, window, past, at, half, transform, powers } = this;
    const size = 2 * half;
    for (let n = 0; n < size; n++) {
      const x = window[n]! * past[(at + n) % size]!;
      // Turned so that the middle of the window is the place that phases count from.
      const to = (n + half) % size;
      re[to] = x;
      momentRe[to] = x * ((n - half) / size);
      im[to] = momentIm[to] = 0;
    }
    transform.forward(re, im);
    transform.forward(momentRe, momentIm);
    for (let k = 0; k <= half; k++) powers[k] = re[k]! * re[k]! + im[k]! * im[k]!;
    this.findPeaks();
    this.followEnvelope();
  }

  private findPeaks(): void {
    const { powers, powersBefore, reBefore, imBefore, peaks, edges, frequencies, centres } = this;
    const { coming, comingBefore, arrived, re, im, momentRe, momentIm, half, hop } = this;
    const size = 2 * half;
    let count = 0;
    for (let k = 1; k < half; k++) {
      const here = powers[k]!;
      if (here < FLOOR || here < powers[k - 1]! || here <= powers[k + 1]!) continue;
      if (k > 1 && here < powers[k - 2]!) continue;
      if (k < half - 1 && here < powers[k + 2]!) continue;
      peaks[count++] = k;
    }
    this.peakCount = count;
    comingBefore.set(coming);
    coming.fill(0);
    arrived.fill(0);
    for (let n = 0; n < count; n++) {
      const k = peaks[n]!;
      // Regions of influence meet where the spectrum is weakest between two peaks.
      let edge = n === 0 ? 0 : peaks[n - 1]! + 1;
      if (n > 0) for (let l = edge; l < k; l++) if (powers[l]! < powers[edge]!) edge = l;
      edges[n] = edge;
      const [x, y, u, v] = [re[k]!, im[k]!, reBefore[k]!, imBefore[k]!];
      const centre = (momentRe[k]! * x + momentIm[k]! * y) / powers[k]!;
      const rises = powers[k]! > RISE * powersBefore[k]!;
      if (centre > COMING && (rises || comingBefore[k] === 1)) coming[k] = 1;
      else if (comingBefore[k] === 1 || (rises && Math.abs(centre) <= COMING)) arrived[k] = 1;
      // How far its phase has gone beyond that of its bin; what has just begun tells nothing of it.
      const middle = (TWO_PI * k) / size;
      const known = !this.first && arrived[k] === 0;
      const beyond = known ? wrapped(atan2(y * u - x * v, x * u + y * v) - hop * middle) : 0;
      frequencies[n] = middle + beyond / hop;
      centres[n] = centre * size;
    }
    edges[count] = half;
    // What a peak is, all bins of its region are, so that the next window finds it by any of them.
    for (let n = 0; n < count; n++) {
      const k = peaks[n]!;
      if (coming[k] === 1) coming.fill(1, edges[n]!, edges[n + 1]!);
    }
  }

  /**
   * The envelope over the peaks of the spectrum: its logarithm without what is faster than formants, again with what lay under
   * that raised to it (Roebel and Rodet, "Efficient spectral envelope estimation and its application to pitch shifting and
   * envelope preservation", DAFx 2005).
   */
  private followEnvelope(): void {
    const { outRe, outIm, powers, envelope, half, transform, lifter } = this;
    const size = 2 * half;
    // Under the lowest note there is nothing to tell a shape by: it is level there.
    const lowest = this.lowestPeak();
    for (let round = 0; round < ENVELOPE_ROUNDS; round++) {
      for (let k = 0; k <= half; k++) {
        const own = 0.5 * log(powers[Math.max(k, lowest)]! + FLOOR);
        const level = round === 0 ? own : Math.max(own, envelope[k]!);
        outRe[k] = level;
        if (k > 0 && k < half) outRe[size - k] = level;
      }
      outIm.fill(0);
      transform.forward(outRe, outIm);
      for (let n = 0; n <= half; n++) {
        const part = Math.max(0, (n / lifter - FLAT) / (1 - FLAT));
        const weight = part >= 1 ? 0 : (0.5 + 0.5 * cos(PI * part)) / size;
        outRe[n]! *= weight;
        outIm[n] = 0;
        if (n === 0 || n === half) continue;
        outRe[size - n]! *= weight;
        outIm[size - n] = 0;
      }
      transform.forward(outRe, outIm);
      for (let k = 0; k <= half; k++) envelope[k] = outRe[k]!;
    }
  }

  private lowestPeak(): number {
    const { powers, peaks, peakCount } = this;
    let most = 0;
    for (let n = 0; n < peakCount; n++) most = Math.max(most, powers[peaks[n]!]!);
    for (let n = 0; n < peakCount; n++) if (powers[peaks[n]!]! > AUDIBLE * most) return peaks[n]!;
    return 0;
  }

  /** Two voices in one transform, one as its real part and one as its imaginary one. */
  private work(voice: number, first: Shift | null, second: Shift | null): void {
    const { outRe, outIm, half, hop, transform, window, voices } = this;
    const size = 2 * half;
    for (const one of [voices[voice], voices[voice + 1]]) {
      if (!one) continue;
      one.sum.copyWithin(0, hop);
      one.sum.fill(0, size - hop);
    }
    if (!first && !second) return;
    outRe.fill(0);
    outIm.fill(0);
    if (first) this.moveInto(voices[voice]!, first, false);
    if (second && voices[voice + 1]) this.moveInto(voices[voice + 1]!, second, true);
    // The inverse transform is the forward one with both parts exchanged.
    transform.forward(outIm, outRe);
    const gain = 1 / (1.5 * size);
    for (let n = 0; n < size; n++) {
      const from = (n + half) % size;
      const weight = gain * window[n]!;
      if (first) voices[voice]!.sum[n]! += weight * outRe[from]!;
      if (second && voices[voice + 1]) voices[voice + 1]!.sum[n]! += weight * outIm[from]!;
    }
  }

  /** Adds the moved spectrum of a voice to the transform, turned by a quarter for one that is to be its imaginary part. */
  private moveInto({ turns, next }: VoiceState, { ratio, formants }: Shift, quarter: boolean): void {
    const { re, im, powers, powersBefore, peaks, edges, frequencies, centres, coming, arrived } = this;
    const { half, hop, outRe, outIm } = this;
    const size = 2 * half;
    next.fill(0);
    for (let n = 0; n < this.peakCount; n++) {
      const k = peaks[n]!;
      const away = (ratio - 1) * frequencies[n]!;
      const bins = Math.round((away * size) / TWO_PI);
      const fresh = this.first || arrived[k]! === 1;
      // What begins has the phases that leave it where it is.
      const turn = fresh ? -away * centres[n]! : turns[k]! + hop * away;
      const [from, to] = [edges[n]!, edges[n + 1]!];
      next.fill(turn - TWO_PI * Math.floor(turn / TWO_PI), from, to);
      const held = coming[k]! === 1 ? Math.min(1, Math.sqrt(powersBefore[k]! / powers[k]!)) : 1;
      if (held < 1e-4) continue;
      const shape = held * exp(this.envelopeAt((k + bins) / formants) - this.envelope[k]!);
      const [c, s] = [shape * cos(turn), shape * sin(turn)];
      for (let l = Math.max(from, 1 - bins); l < to && l + bins < half; l++) {
        const [x, y] = [re[l]!, im[l]!];
        const [a, b] = [c * x - s * y, c * y + s * x];
        const up = l + bins;
        const down = size - up;
        if (quarter) {
          outRe[up]! -= b;
          outIm[up]! += a;
          outRe[down]! += b;
          outIm[down]! += a;
        } else {
          outRe[up]! += a;
          outIm[up]! += b;
          outRe[down]! += a;
          outIm[down]! -= b;
        }
      }
    }
    turns.set(next);
  }

  private envelopeAt(place: number): number {
    const { envelope, half } = this;
    const inside = Math.min(half - 1, Math.max(0, place));
    const below = Math.floor(inside);
    return envelope[below]! + (inside - below) * (envelope[below + 1]! - envelope[below]!);
  }
}

const wrapped = (angle: number) => angle - TWO_PI * Math.round(angle / TWO_PI);
