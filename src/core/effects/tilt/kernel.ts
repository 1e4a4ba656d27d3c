import { Ramp } from '../../dsp/ramp';
import { putSides, takeSides, type Sides } from '../../dsp/sides';
import { dbToGain, pow, tan } from '../../math/elementary';
import { settled } from '../../math/settled';
import type { Floats } from '../../wasm/arena';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { tiltSpec } from './spec';

const P = parameterIndices(tiltSpec, ['slope', 'pivot', 'output']);

/** Decibels by which a first-order filter rises in an octave. */
const FULL_SLOPE_DB = 6.020599913279624;
const LOWEST_PAIR_HZ = 10;
/** Pairs lie an octave apart, below this part of the sample rate. */
const HIGHEST_PAIR = 0.3;
/** Frames between two looks at what moves. */
const TICK = 16;

/**
 * A slope of any number of decibels an octave from pairs of real poles and zeros, an octave apart (Smith and Smith,
 * "Closed Form Fractional Integration and Differentiation via Real Exponentially Spaced Pole-Zero Pairs", 2016). Pole
 * and zero of a pair part from one place, so that the slope can be turned while sound runs. Each is mapped to the sample
 * rate at its own frequency; the level at the pivot is kept exactly.
 */
class TiltKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  readonly canSleep = true;
  private readonly slope = new Ramp(0);
  private readonly pivot = new Ramp(0);
  private readonly output = new Ramp(0);
  private readonly pairs: readonly number[];
  /** For each pair: the coefficient of its low-pass, its weight beside the sound, and the steps of both. */
  private readonly shares: Float64Array;
  private readonly shareSteps: Float64Array;
  private readonly weights: Float64Array;
  private readonly weightSteps: Float64Array;
  /** Low-pass states, left and right by turns. */
  private readonly states: Float64Array;
  private readonly sides: Sides;
  /** All has arrived. */
  private still = false;
  private gain = 1;
  private gainStep = 0;
  private offset = 0;

  constructor(context: KernelContext) {
    super(context);
    const { memory } = context;
    this.sides = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    const pairs: number[] = [];
    for (let hz = LOWEST_PAIR_HZ; hz < HIGHEST_PAIR * this.sampleRate; hz *= 2) pairs.push(hz);
    this.pairs = pairs;
    this.shares = new Float64Array(pairs.length);
    this.shareSteps = new Float64Array(pairs.length);
    this.weights = new Float64Array(pairs.length);
    this.weightSteps = new Float64Array(pairs.length);
    this.states = new Float64Array(2 * pairs.length);
    this.reset();
  }

  /** The lowest pair falls by 90 dB in this time, lifted by the steepest slope as it may be. */
  tailSeconds(): number {
    return 0.3;
  }

  locate(): void {}

  reset(): void {
    this.aim(0);
    this.states.fill(0);
    this.offset = 0;
    this.turn(0);
  }

  protected aim(frames: number): void {
    this.still = false;
    this.slope.moveTo(this.v[P.slope]!, frames);
    this.pivot.moveTo(this.v[P.pivot]!, frames);
    this.output.moveTo(this.v[P.output]!, frames);
  }

  private warp(hz: number): number {
    return tan((Math.PI * hz) / this.sampleRate);
  }

  /** Sends everything to where slope, pivot and output are after `frames` frames; 0 for at once. */
  private turn(frames: number): void {
    const slope = this.slope.skip(frames);
    const u = this.warp(this.pivot.skip(frames));
    const half = pow(2, slope / FULL_SLOPE_DB / 2);
    let power = 1;
    for (let n = 0; n < this.pairs.length; n++) {
      const pole = this.warp(this.pairs[n]! * half);
      const zero = this.warp(this.pairs[n]! / half);
      power *= (u * u + pole * pole) / (u * u + zero * zero);
      aim(this.shares, this.shareSteps, n, pole / (1 + pole), frames);
      aim(this.weights, this.weightSteps, n, zero / pole - 1, frames);
    }
    const gain = Math.sqrt(power) * dbToGain(this.output.skip(frames));
    this.gainStep = frames === 0 ? 0 : (gain - this.gain) / frames;
    if (frames === 0) this.gain = gain;
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { sides } = this;
    const [l, r] = sides;
    takeSides(sides, left, right, frames);
    for (let from = 0; from < frames;) {
      if (this.offset === 0 && !this.still) {
        this.still = this.slope.settled && this.pivot.settled && this.output.settled;
        this.turn(this.still ? 0 : TICK);
      }
      const to = this.still ? frames : Math.min(frames, from + TICK - this.offset);
      for (let pair = 0; pair < this.pairs.length; pair++) this.pass(pair, from, to);
      for (let i = from; i < to; i++) {
        l[i] = l[i]! * this.gain;
        r[i] = r[i]! * this.gain;
        this.gain += this.gainStep;
      }
      this.offset = (this.offset + to - from) % TICK;
      from = to;
    }
    putSides(left, right, sides, frames);
  }

  /** Sends a stretch of the block through one pair. */
  private pass(pair: number, from: number, to: number): void {
    const { states } = this;
    const [left, right] = this.sides;
    const shareStep = this.shareSteps[pair]!;
    const weightStep = this.weightSteps[pair]!;
    let share = this.shares[pair]!;
    let weight = this.weights[pair]!;
    let stateLeft = states[2 * pair]!;
    let stateRight = states[2 * pair + 1]!;
    for (let i = from; i < to; i++) {
      const toLeft = share * (left[i]! - stateLeft);
      const toRight = share * (right[i]! - stateRight);
      left[i] = left[i]! + weight * (stateLeft + toLeft);
      right[i] = right[i]! + weight * (stateRight + toRight);
      stateLeft = settled(stateLeft + 2 * toLeft);
      stateRight = settled(stateRight + 2 * toRight);
      share += shareStep;
      weight += weightStep;
    }
    this.shares[pair] = share;
    this.weights[pair] = weight;
    states[2 * pair] = stateLeft;
    states[2 * pair + 1] = stateRight;
  }
}

/** Lets a value reach a target in `frames` frames; 0 for at once. */
function aim(values: Float64Array, steps: Float64Array, n: number, target: number, frames: number): void {
  steps[n] = frames === 0 ? 0 : (target - values[n]!) / frames;
  if (frames === 0) values[n] = target;
}

export const createTilt: KernelFactory = (context) => new TiltKernel(context);
