import { CutShare } from '../../dsp/cutShare';
import { FilterPair } from '../../dsp/filterPair';
import { Ramp } from '../../dsp/ramp';
import type { Arena, Doubles } from '../../wasm/arena';
import { HIGH_CUT_OFF, LOW_CUT_OFF } from './spec';

/** Target of a path: its parameters, scaled by the amount. */
export interface PathAim {
  /** With its sign. */
  readonly gain: number;
  /** Hz; 20 and 20000 are off. */
  readonly lowCut: number;
  readonly highCut: number;
  /** 0 for 12 dB an octave, 1 for 6. */
  readonly gentle: number;
  readonly q: number;
}

/** Everything of a path that moves. */
class Course {
  readonly gain = new Ramp(0);
  readonly low = new CutShare();
  readonly high = new CutShare();
  readonly gentle = new Ramp(0);
  readonly damping = new Ramp(1);

  aim({ gain, lowCut, highCut, gentle, q }: PathAim, frames: number): void {
    this.gain.moveTo(gain, frames);
    this.low.aim(lowCut > LOW_CUT_OFF ? lowCut : null, frames);
    this.high.aim(highCut < HIGH_CUT_OFF ? highCut : null, frames);
    this.gentle.moveTo(gentle, frames);
    this.damping.moveTo(1 / q, frames);
  }

  get still(): boolean {
    return this.low.settled && this.high.settled && this.gentle.settled && this.damping.settled;
  }

  skip(frames: number): void {
    this.low.skip(frames);
    this.high.skip(frames);
    this.gentle.skip(frames);
    this.damping.skip(frames);
  }
}

/**
 * Two of the four paths, side by side: both cuts of each, and its gain. A cut of 6 dB an octave is one of two poles of
 * which a zero takes one away, so that both slopes are one filter and one can be turned into the other.
 */
export class PathPair {
  readonly courses = [new Course(), new Course()] as const;
  private readonly lowCut: FilterPair;
  private readonly highCut: FilterPair;
  private lowCuts = false;
  private highCuts = false;
  private still = false;
  /** Targets that the filters have reached. */
  private there = false;

  constructor(memory: Arena, sampleRate: number) {
    this.lowCut = new FilterPair(memory, sampleRate, true);
    this.highCut = new FilterPair(memory, sampleRate, true);
  }

  reset(): void {
    this.lowCut.reset();
    this.highCut.reset();
    this.still = this.there = false;
    this.tick(0);
  }

  aim(path: 0 | 1, aim: PathAim, frames: number): void {
    this.courses[path].aim(aim, frames);
    this.still = this.there = false;
  }

  /** Sends the cuts on by some frames, to where they are then. */
  tick(frames: number): void {
    if (this.there) return;
    // When nothing moves any more the cuts are set to just there, and left alone.
    this.there = this.still;
    this.still = this.courses.every(({ still }) => still);
    const over = this.there ? 0 : frames;
    const [one, other] = this.courses;
    const lowCuts = one.low.heard || other.low.heard;
    const highCuts = one.high.heard || other.high.heard;
    if (lowCuts && !this.lowCuts) this.lowCut.reset();
    if (highCuts && !this.highCuts) this.highCut.reset();
    // One that is let in begins from where it is, unheard.
    if (lowCuts && !this.lowCuts) this.turn(0, true, false);
    if (highCuts && !this.highCuts) this.turn(0, false, true);
    this.lowCuts = lowCuts;
    this.highCuts = highCuts;
    for (const course of this.courses) course.skip(frames);
    this.turn(over, true, true);
  }

  private turn(over: number, lows: boolean, highs: boolean): void {
    for (const n of [0, 1] as const) {
      const { gentle, damping, low, high } = this.courses[n];
      // Between its two slopes a filter goes through those of two poles with more damping.
      const k = damping.value + gentle.value * (2 - damping.value);
      const band = damping.value + gentle.value * (1 - damping.value);
      if (lows) this.lowCut.shape(n, low.hz, k, 1, -low.share * band, -low.share, over);
      if (highs) this.highCut.shape(n, high.hz, k, 1 - high.share, high.share * gentle.value, high.share, over);
    }
  }

  /** Its cuts stand where they are. */
  get stands(): boolean {
    return this.there;
  }

  /** Filters both blocks in place. */
  filter(one: Doubles, other: Doubles, frames: number): void {
    if (this.lowCuts) this.lowCut.process(one, other, frames);
    if (this.highCuts) this.highCut.process(one, other, frames);
  }

  /** Seconds until what rings in its cuts has fallen by 90 dB. */
  ringSeconds(): number {
    return Math.max(...this.courses.map((course) => ringOf(course)));
  }
}

/** Nepers that 90 dB are. */
const DECAY = 10.36;

function ringOf({ damping, low, high }: Course): number {
  const slowest = Math.min(low.share > 0 ? low.hz : Infinity, high.share > 0 ? high.hz : Infinity);
  if (slowest === Infinity) return 0;
  // The slower pole of one that is damped beyond critical is nearer to zero than its cutoff.
  return (DECAY * Math.max(1 / damping.value, damping.value)) / (Math.PI * slowest) + 0.005;
}
