import { TWO_PI } from '../math/circle';
import { atan2, cos, exp, sin } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { BlockFourier } from './blockFourier';
import { formantTie, tiedFormants } from './formantTie';
import { PeakEnvelope, type Peaks } from './peakEnvelope';

const OVERLAP = 4;
/** Two voices are worked on after every so many frames, so that no block has to do it all. */
const STEP = 64;
/** The energy of a peak lies this part of a window after its middle while an attack is still to come. */
const COMING = 0.1;
/** So much stronger than in the frame before it is an attack: 6 dB. */
const RISE = 4;
/** Time constant with which formants take up how far they follow the pitch, in seconds. */
const TIE_SECONDS = 0.05;
const FLOOR = 1e-12;

/** Pitch and formant ratios of a voice from the next window on. */
export interface Shift {
  /** Pitch and formants over those of the source. */
  ratio: number;
  formants: number;
}

type FourBlocks = [Doubles, Doubles, Doubles, Doubles];

interface VoiceState {
  /** Turns of each bin beyond the source's, in radians. */
  readonly turns: Float64Array;
  readonly next: Float64Array;
  /** Overlap-add ring of its windows. */
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
  /** Frames taken in, and those at which the window under work ended. */
  private frames = 0;
  private windowEnd = 0;
  /** The voice that comes next, and frames until then. */
  private turn: number;
  private untilTurn = STEP;
  private readonly re: Doubles;
  private readonly im: Doubles;
  private readonly momentRe: Float64Array;
  private readonly momentIm: Float64Array;
  private readonly outRe: Doubles;
  private readonly outIm: Doubles;
  private readonly reBefore: Float64Array;
  private readonly imBefore: Float64Array;
  private readonly powers: Float64Array;
  private readonly powersBefore: Float64Array;
  private readonly envelope: PeakEnvelope;
  private readonly peaks: Peaks;
  /** First bin of each peak's region. */
  private readonly edges: Int32Array;
  /** Per peak: frequency in radians a frame, and centre of energy in frames from the middle of the window. */
  private readonly frequencies: Float64Array;
  private readonly centres: Float64Array;
  private readonly coming: Uint8Array;
  private readonly comingBefore: Uint8Array;
  private readonly arrived: Uint8Array;
  /** Smoothed `formantTie` of the frame, 0 to 1. */
  private tie = 0;
  private readonly tieShare: number;
  private lifter = 1;
  private readonly voices: readonly VoiceState[];
  private first = true;

  constructor(memory: Arena, sampleRate: number, voices: number) {
    const size = sampleRate > 60000 ? 8192 : 4096;
    this.hop = size / OVERLAP;
    this.half = size / 2;
    this.turn = voices;
    this.lateFrames = size + STEP * (Math.ceil(voices / 2) + 1);
    this.transform = new BlockFourier(size);
    // Hann windows, at both ends, overlapping by three quarters, sum to 3/2 of a window.
    this.window = Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * cos((TWO_PI * n) / size));
    this.past = new Float64Array(size);
    this.due = this.hop;
    const bins = this.half + 1;
    this.envelope = new PeakEnvelope(memory, sampleRate, size);
    [this.re, this.im, this.outRe, this.outIm] = [1, 2, 3, 4].map(() => memory.doubles(size)) as FourBlocks;
    [this.momentRe, this.momentIm] = [new Float64Array(bins), new Float64Array(bins)];
    this.reBefore = new Float64Array(bins);
    this.imBefore = new Float64Array(bins);
    this.centres = new Float64Array(bins);
    this.powers = new Float64Array(bins);
    this.powersBefore = new Float64Array(bins);
    this.peaks = { bins: new Int32Array(bins), count: 0, strongest: -1 };
    this.edges = new Int32Array(bins + 1);
    this.tieShare = 1 - exp(-this.hop / (TIE_SECONDS * sampleRate));
    this.frequencies = new Float64Array(bins);
    this.coming = new Uint8Array(bins);
    this.comingBefore = new Uint8Array(bins);
    this.arrived = new Uint8Array(bins);
    this.voices = Array.from({ length: voices }, () => ({
      turns: new Float64Array(bins),
      next: new Float64Array(bins),
      sum: new Float64Array(2 * size),
    }));
  }

  reset(): void {
    this.past.fill(0);
    this.at = 0;
    this.due = this.hop;
    this.first = true;
    this.frames = this.windowEnd = 0;
    this.turn = this.voices.length;
    this.tie = 0;
    this.powersBefore.fill(0);
    this.comingBefore.fill(0);
    for (const { turns, sum } of this.voices) {
      turns.fill(0);
      sum.fill(0);
    }
  }

  /**
   * Takes in frames, and works on what they complete.
   * @param frames up to `STEP`
   * @param shifts of each voice; null for one that is silent
   * @param envelopeFrames what of a spectrum's shape is faster is no formant: less than the shortest period in the sound
   */
  take(samples: ArrayLike<number>, frames: number, shifts: readonly (Shift | null)[], envelopeFrames: number): void {
    const { past } = this;
    this.lifter = Math.max(1, Math.round(envelopeFrames));
    for (let from = 0; from < frames;) {
      const works = this.turn < this.voices.length;
      const count = Math.min(frames - from, this.due, works ? this.untilTurn : frames);
      for (let i = from; i < from + count; i++) {
        past[this.at] = samples[i]!;
        this.at = this.at + 1 === past.length ? 0 : this.at + 1;
      }
      from += count;
      this.frames += count;
      this.due -= count;
      if (works) this.untilTurn -= count;
      if (works && this.untilTurn === 0) this.workOnNext(shifts);
      if (this.due === 0) this.begin();
    }
  }

  private begin(): void {
    const { half, re, im, reBefore, imBefore, powers, powersBefore } = this;
    if (this.windowEnd > 0) {
      reBefore.set(re.subarray(0, half + 1));
      imBefore.set(im.subarray(0, half + 1));
      powersBefore.set(powers);
      this.first = false;
    }
    this.due = this.hop;
    this.windowEnd = this.frames;
    this.turn = 0;
    this.untilTurn = STEP;
    this.analyse();
  }

  private workOnNext(shifts: readonly (Shift | null)[]): void {
    this.work(this.turn, shifts[this.turn] ?? null, shifts[this.turn + 1] ?? null);
    this.turn += 2;
    this.untilTurn = STEP;
  }

  /** Writes what a voice has for the frames that `take` is given next; each can be had once. */
  read(voice: number, out: Doubles, frames: number): void {
    const { sum } = this.voices[voice]!;
    const mask = sum.length - 1;
    const start = this.frames - this.lateFrames;
    for (let i = 0; i < frames; i++) {
      const place = (start + i) & mask;
      out[i] = sum[place]!;
      sum[place] = 0;
    }
  }

  private analyse(): void {
    const { re, im, momentRe, momentIm, window, past, at, half, transform, powers } = this;
    const size = 2 * half;
    const mask = size - 1;
    for (let n = 0; n < size; n++) {
      const x = window[n]! * past[(at + n) & mask]!;
      // Turned so that the middle of the window is the place that phases count from.
      const to = (n + half) & mask;
      re[to] = x;
      im[to] = x * ((n - half) / size);
    }
    // Both are real, and told apart by their symmetry.
    transform.forward(re, im);
    for (let k = 0; k <= half; k++) {
      const l = (size - k) & mask;
      const a = re[k]!;
      const b = im[k]!;
      const c = re[l]!;
      const d = im[l]!;
      re[k] = (a + c) / 2;
      im[k] = (b - d) / 2;
      momentRe[k] = (b + d) / 2;
      momentIm[k] = (c - a) / 2;
      powers[k] = re[k]! * re[k]! + im[k]! * im[k]!;
    }
    this.findPeaks();
    this.followShare();
    this.envelope.follow(powers, this.peaks, this.lifter);
  }

  private findPeaks(): void {
    const { powers, powersBefore, reBefore, imBefore, peaks, edges, frequencies, centres } = this;
    const { bins } = peaks;
    const { coming, comingBefore, arrived, re, im, momentRe, momentIm, half, hop } = this;
    const size = 2 * half;
    let count = 0;
    let strongest = -1;
    for (let k = 1; k < half; k++) {
      const here = powers[k]!;
      if (here < FLOOR || here < powers[k - 1]! || here <= powers[k + 1]!) continue;
      if (k > 1 && here < powers[k - 2]!) continue;
      if (k < half - 1 && here < powers[k + 2]!) continue;
      if (strongest < 0 || here > powers[bins[strongest]!]!) strongest = count;
      bins[count++] = k;
    }
    peaks.count = count;
    peaks.strongest = strongest;
    comingBefore.set(coming);
    coming.fill(0);
    arrived.fill(0);
    for (let n = 0; n < count; n++) {
      const k = bins[n]!;
      // Regions of influence meet where the spectrum is weakest between two peaks.
      let edge = n === 0 ? 0 : bins[n - 1]! + 1;
      if (n > 0) for (let l = edge; l < k; l++) if (powers[l]! < powers[edge]!) edge = l;
      edges[n] = edge;
      const x = re[k]!;
      const y = im[k]!;
      const u = reBefore[k]!;
      const v = imBefore[k]!;
      const centre = (momentRe[k]! * x + momentIm[k]! * y) / powers[k]!;
      const rises = powers[k]! > RISE * powersBefore[k]!;
      if (centre > COMING && (rises || comingBefore[k] === 1)) coming[k] = 1;
      else if (comingBefore[k] === 1 || (rises && Math.abs(centre) <= COMING)) arrived[k] = 1;
      // Phase advance beyond that of the bin's centre; unknown for a peak that has just begun.
      const middle = (TWO_PI * k) / size;
      const known = !this.first && arrived[k] === 0;
      const beyond = known ? wrapped(atan2(y * u - x * v, x * u + y * v) - hop * middle) : 0;
      frequencies[n] = middle + beyond / hop;
      centres[n] = centre * size;
    }
    edges[count] = half;
    // All bins of a peak's region are marked, so that the next window finds it by any of them.
    for (let n = 0; n < count; n++) {
      const k = bins[n]!;
      if (coming[k] === 1) coming.fill(1, edges[n]!, edges[n + 1]!);
    }
  }

  /** Ties the formants to the pitch as far as one partial holds nearly all of the power. */
  private followShare(): void {
    const { powers, edges, half } = this;
    const { strongest } = this.peaks;
    if (strongest < 0) return;
    let total = 0;
    for (let k = 1; k < half; k++) total += powers[k]!;
    let held = 0;
    for (let k = edges[strongest]!; k < edges[strongest + 1]!; k++) held += powers[k]!;
    const wanted = formantTie(held / total);
    this.tie = this.first ? wanted : this.tie + this.tieShare * (wanted - this.tie);
  }

  /** Two voices in one transform, one as its real part and one as its imaginary one. */
  private work(voice: number, first: Shift | null, second: Shift | null): void {
    const { outRe, outIm, half, transform, voices } = this;
    const [one, other] = [voices[voice]!, voices[voice + 1]];
    if (!first && !second) return;
    outRe.fill(0);
    outIm.fill(0);
    if (first) this.moveInto(one, first, false);
    if (second && other) this.moveInto(other, second, true);
    // The inverse transform is the forward one with both parts exchanged.
    transform.forward(outIm, outRe);
    if (first) this.addWindow(one, outRe, half);
    if (second && other) this.addWindow(other, outIm, half);
  }

  private addWindow({ sum }: VoiceState, made: Doubles, half: number): void {
    const { window, windowEnd } = this;
    const size = 2 * half;
    const mask = sum.length - 1;
    const gain = 1 / (1.5 * size);
    for (let n = 0; n < size; n++) {
      const place = (windowEnd - size + n) & mask;
      sum[place] = sum[place]! + gain * window[n]! * made[(n + half) & (size - 1)]!;
    }
  }

  /** Adds the moved spectrum of a voice to the transform, turned by a quarter for one that is to be its imaginary part. */
  private moveInto({ turns, next }: VoiceState, { ratio, formants: own }: Shift, quarter: boolean): void {
    const { re, im, powers, powersBefore, peaks, edges, frequencies, centres, coming, arrived } = this;
    const { half, hop, outRe, outIm, envelope } = this;
    const size = 2 * half;
    const formants = tiedFormants(own, ratio, this.tie);
    next.fill(0);
    for (let n = 0; n < peaks.count; n++) {
      const k = peaks.bins[n]!;
      const away = (ratio - 1) * frequencies[n]!;
      const bins = Math.round((away * size) / TWO_PI);
      const fresh = this.first || arrived[k]! === 1;
      // A new peak starts with the phase that leaves it in place.
      const turn = fresh ? -away * centres[n]! : turns[k]! + hop * away;
      const from = edges[n]!;
      const to = edges[n + 1]!;
      next.fill(turn - TWO_PI * Math.floor(turn / TWO_PI), from, to);
      const held = coming[k]! === 1 ? Math.min(1, Math.sqrt(powersBefore[k]! / powers[k]!)) : 1;
      if (held < 1e-4) continue;
      const shape = held * exp(envelope.at((k + bins) / formants) - envelope.at(k));
      const [c, s] = [shape * cos(turn), shape * sin(turn)];
      for (let l = Math.max(from, 1 - bins); l < to && l + bins < half; l++) {
        const x = re[l]!;
        const y = im[l]!;
        const a = c * x - s * y;
        const b = c * y + s * x;
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
}

const wrapped = (angle: number) => angle - TWO_PI * Math.round(angle / TWO_PI);
