import type { Sides } from './sides';
import { exp } from '../math/elementary';
import type { Arena } from '../wasm/arena';
import { KWeighting } from './kWeighting';

/** Frames between two looks at the levels. */
const TICK = 16;
/** Over so long levels are taken, and so slowly the gain follows, in seconds. */
const LEVEL_SECONDS = 0.4;
const GAIN_SECONDS = 0.2;
/** Below this mean square, about -70 LUFS, nothing is followed. */
const GATE = 1e-7;
const FURTHEST = 16;

/** Brings what comes out of something to the loudness of what went in, within 24 dB; slowly, and not in pauses. */
export class LoudnessMatch {
  private readonly weighting: readonly [KWeighting, KWeighting];
  private readonly levelShare: number;
  private readonly gainShare: number;
  private readonly powers = new Float64Array(2);
  private readonly sums = new Float64Array(2);
  private gain = 1;
  private step = 0;
  private offset = 0;
  private listens = false;

  constructor(memory: Arena, sampleRate: number) {
    this.weighting = [new KWeighting(memory, sampleRate), new KWeighting(memory, sampleRate)];
    this.levelShare = 1 - exp(-TICK / (LEVEL_SECONDS * sampleRate));
    this.gainShare = 1 - exp(-TICK / (GAIN_SECONDS * sampleRate));
  }

  reset(): void {
    this.begin();
    this.listens = false;
    this.gain = 1;
    this.step = 0;
    this.offset = 0;
  }

  /** Knows nothing of levels yet. */
  private begin(): void {
    for (const one of this.weighting) one.reset();
    this.powers.fill(0);
    this.sums.fill(0);
  }

  /**
   * Writes the gains that bring `after` to the loudness of `before`, whose blocks it weights in place.
   * @param follows `off` goes back to 0 dB, `held` stays
   */
  follow(before: Sides, after: Sides, gains: Float64Array, frames: number, follows: 'off' | 'on' | 'held'): void {
    const { weighting, sums } = this;
    if (follows === 'on') {
      if (!this.listens) this.begin();
      weighting[0].process(before[0], before[1], frames);
      weighting[1].process(after[0], after[1], frames);
    }
    this.listens = follows === 'on' || (follows === 'held' && this.listens);
    for (let i = 0; i < frames; i++) {
      if (follows === 'off' && this.stands) {
        gains[i] = 1;
        this.offset = 0;
        continue;
      }
      if (this.offset === 0) this.look(follows);
      this.offset = (this.offset + 1) % TICK;
      gains[i] = this.gain;
      this.gain += this.step;
      if (follows !== 'on') continue;
      sums[0] = sums[0]! + before[0][i]! * before[0][i]! + before[1][i]! * before[1][i]!;
      sums[1] = sums[1]! + after[0][i]! * after[0][i]! + after[1][i]! * after[1][i]!;
    }
  }

  /** Nothing is left to follow: it stands at 0 dB. */
  get stands(): boolean {
    return this.gain === 1 && this.step === 0;
  }

  private look(follows: 'off' | 'on' | 'held'): void {
    const { powers, sums } = this;
    let target = follows === 'off' ? 1 : this.gain;
    if (follows === 'on') {
      for (const n of [0, 1]) powers[n] = powers[n]! + this.levelShare * (sums[n]! / TICK - powers[n]!);
      if (powers[0]! > GATE && powers[1]! > GATE / (FURTHEST * FURTHEST)) {
        target = Math.min(FURTHEST, Math.max(1 / FURTHEST, Math.sqrt(powers[0]! / powers[1]!)));
      }
    }
    sums.fill(0);
    const near = Math.abs(target - this.gain) < 1e-6;
    if (near && follows !== 'on') {
      this.gain = follows === 'off' ? 1 : this.gain;
      this.step = 0;
    } else {
      this.step = (this.gainShare * (target - this.gain)) / TICK;
    }
  }
}
