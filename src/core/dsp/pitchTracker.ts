import type { Arena, Doubles } from '../wasm/arena';
import { FilterPair } from './filterPair';
import { Yin, type PeriodCandidate } from './yin';

/** Frames taken in at a time, at most. */
const PIECE = 128;
/** Seconds between two looks. */
export const HOP_SECONDS = 1 / 187.5;
/** A low point under this is taken at once, the first from the shortest lag on. */
const CLEAR = 0.12;
/** Pitch begins where the difference is under the first, and ends where it is over the second. */
const VOICED = 0.22;
const UNVOICED = 0.38;
/** A period within this part of the last one is kept while it is no more unlike than the best by this. */
const NEAR = 0.12;
const LOYALTY = 0.12;
/** Low-pass ahead of the search: higher frequencies do not help to find periods. */
export const DULL_HZ = 2500;
/** RMS under which there is silence: -66 dBFS. */
export const QUIET = 5e-4;

/**
 * Follows the pitch of a sound as it comes, by YIN, with a preference for going on where it was. What it says at a time
 * is about the middle of the window that ends there: `lateFrames` before.
 */
export class PitchTracker {
  /** In Hz; where there is none, that of before. */
  hz = 0;
  voiced = false;
  /** 1 for a perfect period, 0 for none. */
  clarity = 0;
  /** Frames taken in up to the last look. */
  looked = 0;
  private readonly yin: Yin;
  private readonly hop: number;
  private readonly dull: FilterPair;
  private readonly left: Doubles;
  private readonly right: Doubles;
  /** The last frames, twice in a row so that any stretch of them is one piece. */
  private readonly past: Float64Array;
  private at = 0;
  private due: number;
  private frames = 0;

  /** @param lowestHz the lowest pitch that it will ever look for */
  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    lowestHz: number,
  ) {
    this.yin = new Yin(memory, sampleRate, lowestHz);
    this.hop = Math.round(HOP_SECONDS * sampleRate);
    this.due = this.hop;
    this.past = new Float64Array(2 * this.yin.mostLength);
    this.left = memory.doubles(PIECE);
    this.right = memory.doubles(PIECE);
    this.dull = new FilterPair(memory, sampleRate);
    this.dull.configureBoth('lowPass', DULL_HZ, Math.SQRT1_2);
  }

  /** Frames from the middle of what is looked at to its end. */
  get lateFrames(): number {
    return Math.round(this.yin.length / 2);
  }

  get hopFrames(): number {
    return this.hop;
  }

  /** Looks for pitches between these from now on. */
  limit(lowHz: number, highHz: number): void {
    this.yin.limit(lowHz, highHz);
  }

  reset(): void {
    this.past.fill(0);
    this.dull.reset();
    this.at = 0;
    this.due = this.hop;
    this.frames = this.looked = 0;
    this.hz = this.clarity = 0;
    this.voiced = false;
  }

  /**
   * Takes in frames up to the next look, if it is among them.
   * @returns how many it has taken; `looked` tells whether it has looked
   */
  take(samples: ArrayLike<number>, from: number, to: number): number {
    const count = Math.min(to - from, this.due, PIECE);
    const { left, right, past } = this;
    const { mostLength } = this.yin;
    for (let i = 0; i < count; i++) left[i] = samples[from + i]!;
    this.dull.process(left, right, count);
    for (let i = 0; i < count; i++) {
      past[this.at] = past[this.at + mostLength] = left[i]!;
      this.at = this.at + 1 === mostLength ? 0 : this.at + 1;
    }
    this.frames += count;
    this.due -= count;
    if (this.due === 0) {
      this.due = this.hop;
      this.look();
    }
    return count;
  }

  private look(): void {
    const { yin, past } = this;
    const from = this.at + yin.mostLength - yin.length;
    this.looked = this.frames;
    let power = 0;
    for (let n = from; n < from + yin.length; n++) power += past[n]! * past[n]!;
    if (power < QUIET * QUIET * yin.length) {
      this.voiced = false;
      this.clarity = 0;
      return;
    }
    yin.compare(past, from);
    const { frames, unlike } = this.choose();
    this.clarity = Math.max(0, 1 - unlike);
    this.voiced = unlike < (this.voiced ? UNVOICED : VOICED);
    if (this.voiced) this.hz = this.sampleRate / frames;
  }

  private choose(): PeriodCandidate {
    const { yin } = this;
    const { difference, shortest, longest } = yin;
    let best = shortest;
    let first = 0;
    for (let lag = shortest; lag <= longest; lag++) {
      if (difference[lag]! < difference[best]!) best = lag;
      if (first === 0 && difference[lag]! < CLEAR && yin.isLow(lag)) first = lag;
    }
    const found = yin.around(first > 0 ? first : best);
    if (!this.voiced) return found;
    const last = this.sampleRate / this.hz;
    if (Math.abs(found.frames - last) < NEAR * last) return found;
    let near: PeriodCandidate | null = null;
    const from = Math.max(shortest, Math.ceil(last * (1 - NEAR)));
    const to = Math.min(longest, Math.floor(last * (1 + NEAR)));
    for (let lag = from; lag <= to; lag++) {
      if (yin.isLow(lag) && (near === null || difference[lag]! < near.unlike)) near = yin.around(lag);
    }
    return near !== null && near.unlike < found.unlike + LOYALTY && near.unlike < VOICED ? near : found;
  }
}
