import { FilterPair } from '../../dsp/filterPair';
import { Ramp } from '../../dsp/ramp';
import { exp, log } from '../../math/elementary';
import type { Arena, Doubles } from '../../wasm/arena';
import { HIGH_CUT_OFF, LOW_CUT_OFF } from './spec';

/** What a path is to be: as its parameters say, scaled by the amount. */
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
  readonly lowCut = new Ramp(0);
  readonly highCut = new Ramp(0);
  readonly gentle = new Ramp(0);
  readonly damping = new Ramp(1);
  /** How much there is of each cut, 0 to 1. */
  readonly low = new Ramp(0);
  readonly high = new Ramp(0);
  private readonly shape = [this.lowCut, this.highCut, this.gentle, this.damping, this.low, this.high];

  aim({ gain, lowCut, highCut, gentle, q }: PathAim, frames: number): void {
    this.gain.moveTo(gain, frames);
    letIn(this.low, this.lowCut, lowCut > LOW_CUT_OFF ? lowCut : null, frames);
    letIn(this.high, this.highCut, highCut < HIGH_CUT_OFF ? highCut : null, frames);
    this.gentle.moveTo(gentle, frames);
    this.damping.moveTo(1 / q, frames);
  }

  get still(): boolean {
    return this.shape.every(({ settled }) => settled);
  }

  skip(frames: number): void {
    for (const one of this.shape) one.skip(frames);
  }
}

/** Lets a cut in where it is to be, moves it when it is in, and lets it out where it was. */
function letIn(share: Ramp, logHz: Ramp, hz: number | null, frames: number): void {
  const out = share.settled && share.value === 0;
  if (hz !== null) logHz.moveTo(log(hz), out ? 0 : frames);
  share.moveTo(hz === null ? 0 : 1, frames);
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
  /** Where everything is that moves, the cuts have got. */
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
    const heard = (share: Ramp) => share.value > 0 || !share.settled;
    const lowCuts = heard(one.low) || heard(other.low);
    const highCuts = heard(one.high) || heard(other.high);
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
      const { lowCut, highCut, gentle, damping, low, high } = this.courses[n];
      // Between its two slopes a filter goes through those of two poles with more damping.
      const k = damping.value + gentle.value * (2 - damping.value);
      const band = damping.value + gentle.value * (1 - damping.value);
      if (lows) this.lowCut.shape(n, exp(lowCut.value), k, 1, -low.value * band, -low.value, over);
      if (highs) {
        this.highCut.shape(n, exp(highCut.value), k, 1 - high.value, high.value * gentle.value, high.value, over);
      }
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

function ringOf({ lowCut, highCut, damping, low, high }: Course): number {
  const slowest = Math.min(low.value > 0 ? lowCut.value : Infinity, high.value > 0 ? highCut.value : Infinity);
  if (slowest === Infinity) return 0;
  // The slower pole of one that is damped beyond critical is nearer to zero than its cutoff.
  return (DECAY * Math.max(1 / damping.value, damping.value)) / (Math.PI * exp(slowest)) + 0.005;
}
