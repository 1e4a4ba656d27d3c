/** Time constants in seconds of the levels and of the gain. */
export interface Pace {
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
export const STEADY: Pace = { level: 0.4, gain: 0.2, begin: Infinity, wait: 0, alarm: Infinity, pause: -1 };
/** For a gain that is not to be heard moving; it is there within a second of the first sound. */
export const UNHEARD: Pace = { level: 1, gain: 1.2, begin: 0.3, wait: 0.1, alarm: 0.03, pause: 1e-7 };
/** Below this mean square, about -70 LUFS, nothing is followed. */
const GATE = 1e-7;
/** Highest gain, and inverse of the lowest: 24 dB. */
const FURTHEST = 16;
/** Power ratio of output to input at which the gain gives way at once: 12 dB. */
const ALARM = 16;

/** `off` goes back to 0 dB, `held` stays. */
export type Follows = 'off' | 'on' | 'held';

/** Gain that brings an output to the loudness of its input, within 24 dB, from weighted powers of both. */
export class LoudnessGain {
  private readonly powers = new Float64Array(2);
  /** Mean powers of the last hundredths of a second. */
  private readonly sudden = new Float64Array(2);
  private gain = 1;
  private step = 0;
  private givesUp = false;
  /** Seconds for which it has heard something. */
  private heard = 0;

  /** @param frames between two looks */
  constructor(
    private readonly sampleRate: number,
    private readonly frames: number,
    private readonly pace: Pace,
  ) {}

  reset(): void {
    this.forget();
    this.gain = 1;
    this.step = 0;
  }

  /** Forgets levels; the gain stays for now. */
  forget(): void {
    this.powers.fill(0);
    this.sudden.fill(0);
    this.heard = 0;
    this.givesUp = false;
  }

  /** Gives up what it has lifted, within some hundredths of a second: what comes out is about to be something else. */
  giveUp(): void {
    this.givesUp = this.gain > 1;
  }

  /** The gain now. */
  get value(): number {
    return this.gain;
  }

  /** Nothing is left to follow: it stands at 0 dB. */
  get stands(): boolean {
    return this.gain === 1 && this.step === 0;
  }

  /** Writes the gains of the frames `from` up to `to`. */
  fill(gains: Float64Array, from: number, to: number): void {
    for (let i = from; i < to; i++) {
      gains[i] = this.gain;
      this.gain += this.step;
    }
  }

  /**
   * Looks where the gain is to go, every so many frames.
   * @param before,after mean squares since the last look, both sides summed, of what goes in and of what comes out
   */
  look(follows: Follows, before: number, after: number): void {
    // A pause tells nothing.
    const hears = follows === 'on' && before > this.pace.pause;
    const target = hears ? this.hear(before, after) : follows === 'off' ? 1 : this.gain;
    if (this.givesUp && this.gain < 1.1) this.forget();
    const near = Math.abs(target - this.gain) < 1e-6;
    if (near && follows !== 'on') {
      this.gain = follows === 'off' ? 1 : this.gain;
      this.step = 0;
    } else {
      const atOnce = this.givesUp ? 1 : follows === 'on' ? this.suddenGain : null;
      const share = this.share(atOnce === null ? this.grown(this.pace.gain) : this.pace.alarm);
      this.step = (share * ((atOnce ?? target) - this.gain)) / this.frames;
    }
  }

  /** Part of the way that is gone between two looks by what takes so long. */
  private share(seconds: number): number {
    return this.frames / (seconds * this.sampleRate);
  }

  /** A time as it is now: short at the beginning, where that is asked for. */
  private grown(seconds: number): number {
    return Math.min(seconds, Math.max(this.pace.begin, this.heard / 2));
  }

  /** The gain that a sudden rise of the output asks for at once; null without one. */
  private get suddenGain(): number | null {
    const { gain, powers, sudden } = this;
    const before = Math.max(powers[0]!, sudden[0]!, GATE);
    return gain * gain * sudden[1]! > ALARM * before ? Math.sqrt(before / sudden[1]!) : null;
  }

  /** Takes powers into the levels. Returns the gain that they ask for. */
  private hear(before: number, after: number): number {
    const { powers, sudden, pace } = this;
    const slow = this.share(this.grown(pace.level));
    const quick = this.share(pace.alarm);
    powers[0] = powers[0]! + slow * (before - powers[0]!);
    powers[1] = powers[1]! + slow * (after - powers[1]!);
    sudden[0] = sudden[0]! + quick * (before - sudden[0]!);
    sudden[1] = sudden[1]! + quick * (after - sudden[1]!);
    if (powers[0]! <= GATE || powers[1]! <= GATE / (FURTHEST * FURTHEST)) return this.gain;
    this.heard += this.frames / this.sampleRate;
    if (this.heard <= pace.wait) return this.gain;
    return Math.min(FURTHEST, Math.max(1 / FURTHEST, Math.sqrt(powers[0]! / powers[1]!)));
  }
}
