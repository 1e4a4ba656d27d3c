import { KWeighting } from './kWeighting';
import { LoudnessGain, STEADY, type Follows } from './loudnessGain';
import type { Sides } from './sides';
import type { Arena } from '../wasm/arena';

/** Frames between two looks at the levels. */
const TICK = 16;

/** Brings what comes out of something to the loudness of what went in, within 24 dB; slowly, and not in pauses. */
export class LoudnessMatch {
  private readonly weighting: readonly [KWeighting, KWeighting];
  private readonly sums = new Float64Array(2);
  private readonly gain: LoudnessGain;
  private offset = 0;
  private listens = false;

  constructor(memory: Arena, sampleRate: number) {
    this.weighting = [new KWeighting(memory, sampleRate), new KWeighting(memory, sampleRate)];
    this.gain = new LoudnessGain(sampleRate, TICK, STEADY);
  }

  reset(): void {
    this.begin();
    this.listens = false;
    this.gain.reset();
  }

  /** Knows nothing of levels yet. */
  private begin(): void {
    for (const one of this.weighting) one.reset();
    this.sums.fill(0);
    this.offset = 0;
    this.gain.forget();
  }

  /**
   * Writes the gains that bring `after` to the loudness of `before`, whose blocks it weights in place.
   * @param follows `off` goes back to 0 dB, `held` stays
   */
  follow(before: Sides, after: Sides, gains: Float64Array, frames: number, follows: Follows): void {
    const { weighting, sums, gain } = this;
    if (follows === 'on') {
      if (!this.listens) this.begin();
      weighting[0].process(before[0], before[1], frames);
      weighting[1].process(after[0], after[1], frames);
    }
    this.listens = follows === 'on' || (follows === 'held' && this.listens);
    for (let start = 0; start < frames;) {
      if (follows === 'off' && this.stands) {
        gains.fill(1, start, frames);
        this.offset = 0;
        return;
      }
      if (this.offset === 0) {
        gain.look(follows, sums[0]! / TICK, sums[1]! / TICK);
        sums.fill(0);
      }
      const end = Math.min(frames, start + TICK - this.offset);
      gain.fill(gains, start, end);
      if (follows === 'on') {
        sums[0] = plusPower(sums[0]!, before, start, end);
        sums[1] = plusPower(sums[1]!, after, start, end);
      }
      this.offset = (this.offset + end - start) % TICK;
      start = end;
    }
  }

  /** The gain now. */
  get value(): number {
    return this.gain.value;
  }

  /** Nothing is left to follow: it stands at 0 dB. */
  get stands(): boolean {
    return this.gain.stands;
  }
}

/** A sum of squares and what the frames `start` up to `end` of both sides add to it. */
function plusPower(sum: number, [left, right]: Sides, start: number, end: number): number {
  let whole = sum;
  for (let i = start; i < end; i++) whole = whole + left[i]! * left[i]! + right[i]! * right[i]!;
  return whole;
}
