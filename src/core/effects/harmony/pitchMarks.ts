import { formantTie } from '../../dsp/formantTie';
import { PitchTracker } from '../../dsp/pitchTracker';
import { cos, exp, sin } from '../../math/elementary';
import type { Arena } from '../../wasm/arena';

/** Without a pitch there is a mark every so often. */
const PLAIN_SECONDS = 0.006;
/** Time constant of the fundamental's part of the power. */
const SHARE_SECONDS = 0.02;
/** A mark is looked for within this part of a period around where it is expected. */
const SEARCH = 0.1;
export const MARKS = 1024;

/** The place of a period in the sound, in frames from its beginning, and how long that is; both between whole frames. */
export interface Mark {
  at: number;
  period: number;
  voiced: boolean;
  /** `formantTie` at the mark, 0 to 1; 0 without a pitch or an exact mark. */
  tie: number;
}

/**
 * Marks the periods of a voice, each at the same place of its course as the one before: where it is most like that one
 * (Moulines and Charpentier, "Pitch-synchronous waveform processing techniques for text-to-speech synthesis using
 * diphones", Speech Communication 9, 1990).
 */
export class PitchMarks {
  /** The last ones, mark n at n modulo their number. */
  readonly marks: Mark[] = Array.from({ length: MARKS }, () => ({
    at: 0,
    period: 1,
    voiced: false,
    tie: 0,
  }));
  /** Marks there have been. */
  count = 0;
  /** True if the most similar position is searched; by pitch alone the next period is taken. */
  exact = true;
  /** Part of the power that the fundamental holds at the last mark, smoothed; 0 where it is not known. */
  private share = 0;
  private readonly tracker: PitchTracker;
  /** Sound taken in, as a ring of a power of two. */
  private readonly past: Float64Array;
  private readonly mask: number;
  private frames = 0;
  private readonly plain: number;
  /** The last two looks at the pitch: where in the sound, and its period there. */
  private before = { at: 0, period: 0, voiced: false };
  private last = { at: 0, period: 0, voiced: false };

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    lowestHz: number,
  ) {
    this.tracker = new PitchTracker(memory, sampleRate, lowestHz);
    const size = sampleRate > 60000 ? 16384 : 8192;
    this.past = new Float64Array(size);
    this.mask = size - 1;
    this.plain = PLAIN_SECONDS * sampleRate;
    this.reset();
  }

  /** Looks for pitches between these from now on. */
  limit(lowHz: number, highHz: number): void {
    this.tracker.limit(lowHz, highHz);
  }

  reset(): void {
    this.tracker.reset();
    this.past.fill(0);
    this.frames = this.count = 0;
    this.before = { at: -this.tracker.lateFrames, period: this.plain, voiced: false };
    this.last = { ...this.before };
    this.put(0, this.plain, false);
  }

  mark(n: number): Mark {
    return this.marks[n % MARKS]!;
  }

  private put(at: number, period: number, voiced: boolean): void {
    const mark = this.mark(this.count++);
    mark.at = at;
    mark.period = period;
    mark.voiced = voiced;
    this.share = voiced && this.exact ? this.smoothedShare(at, period) : 0;
    mark.tie = formantTie(this.share);
  }

  private smoothedShare(at: number, period: number): number {
    const now = this.fundamentalShare(at, period);
    if (this.share === 0) return now;
    return now + exp(-period / (SHARE_SECONDS * this.sampleRate)) * (this.share - now);
  }

  /** The fundamental's part of the power around a place, by a Hann window of two periods: its zeros are the other partials. */
  private fundamentalShare(at: number, period: number): number {
    const { past, mask } = this;
    const middle = Math.round(at);
    const half = Math.round(period);
    // The window turns half as far in a frame as the partial.
    const turn = Math.PI / period;
    const [stepRe, stepIm] = [cos(turn), sin(turn)];
    let [c, s] = [cos(turn * half), -sin(turn * half)];
    let [re, im, power, weights] = [0, 0, 1e-18, 0];
    for (let i = -half; i < half; i++) {
      const weight = 0.5 + 0.5 * c;
      const x = weight * past[(middle + i) & mask]!;
      re += x * (2 * c * c - 1);
      im += x * 2 * c * s;
      power += x * past[(middle + i) & mask]!;
      weights += weight;
      [c, s] = [c * stepRe - s * stepIm, c * stepIm + s * stepRe];
    }
    return (2 * (re * re + im * im)) / (weights * power);
  }

  /**
   * Takes in sound up to the next look at its pitch, if it is among it, and marks what that tells.
   * @returns frames taken
   */
  take(samples: ArrayLike<number>, from: number, to: number): number {
    const { tracker, past, mask } = this;
    const { looked } = tracker;
    const count = tracker.take(samples, from, to);
    for (let i = 0; i < count; i++) past[(this.frames + i) & mask] = samples[from + i]!;
    this.frames += count;
    if (tracker.looked === looked) return count;
    const { before, last } = this;
    this.before = last;
    this.last = before;
    before.at = tracker.looked - tracker.lateFrames;
    before.voiced = tracker.voiced;
    before.period = tracker.voiced ? this.sampleRate / tracker.hz : this.plain;
    this.extend();
    return count;
  }

  /** The period at a place between the last two looks; 0 where there is none. */
  private periodAt(at: number): number {
    const { before, last } = this;
    const part = Math.min(1, Math.max(0, (at - before.at) / Math.max(1, last.at - before.at)));
    if (before.voiced && last.voiced) {
      // A leap from note to note is no glide.
      const leaps = Math.abs(last.period / before.period - 1) > 0.15;
      return leaps ? (part < 0.5 ? before : last).period : before.period + part * (last.period - before.period);
    }
    const near = part < 0.5 ? before : last;
    return near.voiced ? near.period : 0;
  }

  private extend(): void {
    for (;;) {
      const mark = this.mark(this.count - 1);
      const next = mark.at + (mark.voiced ? mark.period : this.plain);
      if (next > this.last.at) return;
      const period = this.periodAt(next);
      if (period === 0) this.put(next, this.plain, false);
      else if (mark.voiced) {
        const expected = this.periodAt(mark.at) || period;
        const at = mark.at + (this.exact ? this.alike(mark.at, expected) : expected);
        this.put(at, period, true);
      } else this.put(this.strongest(mark.at + 1, next + period), period, true);
    }
  }

  /** Position of the largest sample in a stretch, for the first mark of a voice. */
  private strongest(from: number, to: number): number {
    const { past, mask } = this;
    let best = Math.ceil(from);
    for (let n = best; n <= to; n++) if (Math.abs(past[n & mask]!) > Math.abs(past[best & mask]!)) best = n;
    return best;
  }

  /** Frames from a place to the one about a period on that is most like it. */
  private alike(at: number, period: number): number {
    const from = Math.round(at);
    const reach = Math.max(2, Math.round(SEARCH * period));
    const expected = Math.round(period);
    let best = expected;
    let most = -Infinity;
    for (let lag = expected - reach; lag <= expected + reach; lag++) {
      const likeness = this.likeness(from, lag, period);
      if (likeness > most) {
        most = likeness;
        best = lag;
      }
    }
    const [before, after] = [this.likeness(from, best - 1, period), this.likeness(from, best + 1, period)];
    const bend = before - 2 * most + after;
    const shift = bend < 0 ? Math.max(-0.5, Math.min(0.5, (before - after) / (2 * bend))) : 0;
    return best + shift;
  }

  /** Normalised correlation of the sound around a position with the sound `lag` frames later. */
  private likeness(from: number, lag: number, period: number): number {
    const { past, mask } = this;
    const half = Math.round(period / 2);
    let product = 0;
    let power = 1e-12;
    for (let i = -half; i < half; i++) {
      const a = past[(from + i) & mask]!;
      const b = past[(from + lag + i) & mask]!;
      product += a * b;
      power += a * a + b * b;
    }
    return product / power;
  }
}
