import type { Sides } from './sides';
import type { Arena } from '../wasm/arena';
import { KWeighting } from './kWeighting';

/** Frames between two looks at the levels. */
const TICK = 16;
/** Times in seconds over which levels are taken, and in which a gain gets there. */
interface Pace {
  readonly level: number;
  readonly gain: number;
  /** Both of these when it begins; they grow from there. */
  readonly begin: number;
  /** Seconds of sound before the gain moves at all. */
  readonly wait: number;
  /** Time in which the gain gives way to a sudden rise of the output. */
  readonly alarm: number;
  /** Mean square of the input under which levels and gain rest. */
  readonly pause: number;
}
const STEADY: Pace = { level: 0.4, gain: 0.2, begin: Infinity, wait: 0, alarm: Infinity, pause: -1 };
/** For a gain that is not to be heard moving; it is there within a second of the first sound. */
export const UNHEARD: Pace = { level: 1, gain: 1.2, begin: 0.3, wait: 0.1, alarm: 0.03, pause: 1e-7 };
/** Below this mean square, about -70 LUFS, nothing is followed. */
const GATE = 1e-7;
const FURTHEST = 16;
/** Power over that of what goes in at which it gives way at once: 12 dB. */
const ALARM = 16;

/** Brings what comes out of something to the loudness of what went in, within 24 dB; slowly, and not in pauses. */
export class LoudnessMatch {
  private readonly weighting: readonly [KWeighting, KWeighting];
  private readonly powers = new Float64Array(2);
  private readonly sums = new Float64Array(2);
  /** Mean powers of the last hundredths of a second. */
  private readonly sudden = new Float64Array(2);
  private gain = 1;
  private step = 0;
  private offset = 0;
  private listens = false;
  private givesUp = false;
  /** Seconds for which it has heard something. */
  private heard = 0;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    private readonly pace = STEADY,
  ) {
    this.weighting = [new KWeighting(memory, sampleRate), new KWeighting(memory, sampleRate)];
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
    this.sums.fill(0);
    this.offset = 0;
    this.forget();
  }

  /** Forgets levels, between two frames of a block. */
  private forget(): void {
    this.powers.fill(0);
    this.sudden.fill(0);
    this.heard = 0;
    this.givesUp = false;
  }

  /** Gives up what it has lifted, within some hundredths of a second: what comes out is about to be something else. */
  giveUp(): void {
    this.givesUp = this.gain > 1;
  }

  /** Part of the way that is gone in a tick by what takes so long. */
  private share(seconds: number): number {
    return TICK / (seconds * this.sampleRate);
  }

  /** A time as it is now: short at the beginning, where that is asked for. */
  private grown(seconds: number): number {
    return Math.min(seconds, Math.max(this.pace.begin, this.heard / 2));
  }

  /**
   * Writes the gains that bring `after` to the loudness of `before`, whose blocks it weights in place.
   * @param follows `off` goes back to 0 dB, `held` stays
   */
  follow(before: Sides, after: Sides, gains: Float64Array, frames: number, follows: 'off' | 'on' | 'held'): void {
    const { weighting } = this;
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
      if (this.offset === 0) this.look(follows);
      const end = Math.min(frames, start + TICK - this.offset);
      for (let i = start; i < end; i++) {
        gains[i] = this.gain;
        this.gain += this.step;
      }
      if (follows === 'on') {
        this.sums[0] = plusPower(this.sums[0]!, before, start, end);
        this.sums[1] = plusPower(this.sums[1]!, after, start, end);
      }
      this.offset = (this.offset + end - start) % TICK;
      start = end;
    }
  }

  /** The gain now. */
  get value(): number {
    return this.gain;
  }

  /** Nothing is left to follow: it stands at 0 dB. */
  get stands(): boolean {
    return this.gain === 1 && this.step === 0;
  }

  /** The gain that a sudden rise of the output asks for at once; null without one. */
  private get suddenGain(): number | null {
    const { gain, powers, sudden } = this;
    const before = Math.max(powers[0]!, sudden[0]!, GATE);
    return gain * gain * sudden[1]! > ALARM * before ? Math.sqrt(before / sudden[1]!) : null;
  }

  private look(follows: 'off' | 'on' | 'held'): void {
    const { sums, pace } = this;
    // A pause tells nothing.
    const target = follows === 'on' && sums[0]! > pace.pause * TICK ? this.hear() : follows === 'off' ? 1 : this.gain;
    sums.fill(0);
    if (this.givesUp && this.gain < 1.1) this.forget();
    const near = Math.abs(target - this.gain) < 1e-6;
    if (near && follows !== 'on') {
      this.gain = follows === 'off' ? 1 : this.gain;
      this.step = 0;
    } else {
      const atOnce = this.givesUp ? 1 : follows === 'on' ? this.suddenGain : null;
      const share = this.share(atOnce === null ? this.grown(pace.gain) : pace.alarm);
      this.step = (share * ((atOnce ?? target) - this.gain)) / TICK;
    }
  }

  /** Takes the last tick into the levels. Returns the gain that they ask for. */
  private hear(): number {
    const { powers, sums, sudden, pace } = this;
    const slow = this.share(this.grown(pace.level));
    const quick = this.share(pace.alarm);
    for (const n of [0, 1]) {
      const power = sums[n]! / TICK;
      powers[n] = powers[n]! + slow * (power - powers[n]!);
      sudden[n] = sudden[n]! + quick * (power - sudden[n]!);
    }
    if (powers[0]! <= GATE || powers[1]! <= GATE / (FURTHEST * FURTHEST)) return this.gain;
    this.heard += TICK / this.sampleRate;
    if (this.heard <= pace.wait) return this.gain;
    return Math.min(FURTHEST, Math.max(1 / FURTHEST, Math.sqrt(powers[0]! / powers[1]!)));
  }
}

/** A sum of squares and what the frames `start` up to `end` of both sides add to it. */
function plusPower(sum: number, [left, right]: Sides, start: number, end: number): number {
  let whole = sum;
  for (let i = start; i < end; i++) whole = whole + left[i]! * left[i]! + right[i]! * right[i]!;
  return whole;
}
