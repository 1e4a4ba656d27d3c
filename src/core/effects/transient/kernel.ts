import { RampBlock } from '../../dsp/rampBlock';
import { takeSides, type Sides } from '../../dsp/sides';
import { dbToGain, exp } from '../../math/elementary';
import type { Doubles, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { LevelKey } from '../levelKey';
import { transientSpec } from './spec';

const P = parameterIndices(transientSpec, ['attack', 'sustain', 'output']);

/** The two followers that part at beginnings ... */
const RISE_FAST = 0.0008;
const RISE_SLOW = 0.025;
/** ... and those that part while a sound dies away. */
const FALL_FAST = 0.02;
const FALL_SLOW = 0.35;
const FOLLOWERS = 4;
const MOST_DB = 18;
/** Below is noise, not a sound that begins. */
const LEAST_DB = -80;
const NEAR_DB = 0.01;
const SMOOTH_SECONDS = 0.0003;

/**
 * Level-independent shaping by the difference of envelopes in decibels: a fast and a slow riser differ at the
 * beginning of a sound, a slow and a fast faller while it dies away; a steady sound is left alone. Both channels share
 * one gain.
 */
class TransientKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  private readonly level: LevelKey;
  private readonly attack: RampBlock;
  private readonly sustain: RampBlock;
  private readonly output: RampBlock;
  /** The four followers and what they lift by, all in dB, and what is left of their ways after a frame. */
  private readonly state: Doubles;
  private readonly factors: Doubles;
  private readonly sides: Sides;
  private readonly wasmKernels = wasm().kernels;

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, memory } = context;
    this.level = new LevelKey(memory, sampleRate);
    this.sides = [memory.doubles(MAXIMUM_BLOCK), memory.doubles(MAXIMUM_BLOCK)];
    this.attack = new RampBlock(memory, 0);
    this.sustain = new RampBlock(memory, 0);
    this.output = new RampBlock(memory, 1);
    this.state = memory.doubles(FOLLOWERS + 1);
    const factor = (seconds: number) => exp(-1 / (seconds * sampleRate));
    this.factors = memory.doubles(FOLLOWERS + 1);
    this.factors.set([RISE_FAST, RISE_SLOW, FALL_FAST, FALL_SLOW, SMOOTH_SECONDS].map(factor));
    this.reset();
  }

  tailSeconds(): number {
    return 0;
  }

  /** Once its followers are as good as in silence. */
  get canSleep(): boolean {
    const { state } = this;
    for (let n = 0; n < FOLLOWERS; n++) if (Math.abs(state[n]! - LEAST_DB) > NEAR_DB) return false;
    return Math.abs(state[FOLLOWERS]!) < NEAR_DB;
  }

  locate(): void {}

  reset(): void {
    this.level.reset();
    this.state.fill(LevelKey.FLOOR_DB, 0, FOLLOWERS);
    this.state[FOLLOWERS] = 0;
    this.aim(0);
  }

  protected aim(frames: number): void {
    this.attack.moveTo(this.v[P.attack]! / 100, frames);
    this.sustain.moveTo(this.v[P.sustain]! / 100, frames);
    this.output.moveTo(dbToGain(this.v[P.output]!), frames);
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { level, sides, wasmKernels, output } = this;
    takeSides(sides, left, right, frames);
    level.readPeaks(sides[0], sides[1], frames);
    const shaped = level.db.byteOffset;
    wasmKernels.shapeTransients(
      this.state.byteOffset,
      this.factors.byteOffset,
      shaped,
      this.attack.take(frames),
      this.sustain.take(frames),
      LEAST_DB,
      MOST_DB,
      frames,
    );
    wasmKernels.gains(shaped, frames);
    wasmKernels.multiply(shaped, shaped, output.take(frames), frames + (frames & 1), false);
    wasmKernels.scaleSides(left.byteOffset, right.byteOffset, shaped, frames);
  }
}

export const createTransient: KernelFactory = (context) => new TransientKernel(context);
