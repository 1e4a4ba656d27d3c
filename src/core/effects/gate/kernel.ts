import { Ramp } from '../../dsp/ramp';
import { RampBlock } from '../../dsp/rampBlock';
import { crossSides } from '../../dsp/sides';
import { dbToGain, exp, gainToDb, log } from '../../math/elementary';
import type { Doubles, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { KeyInput } from '../keyInput';
import type { Kernel, KernelContext, KernelFactory, Inputs } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { LevelKey } from '../levelKey';
import { gateSpec } from './spec';

const P = parameterIndices(gateSpec, [
  'threshold',
  'hysteresis',
  'range',
  'attack',
  'hold',
  'release',
  'keyLowCut',
  'keyHighCut',
  'keyListen',
]);

/** Places in the state of `gateGains`. */
const OPEN = 0;
const GAIN = 2;
/** The range at which nothing is left. */
const SILENT_DB = -100;

/**
 * Gate with hysteresis and hold. It opens along a straight line of the gain and closes along a straight line of
 * decibels, each in the time given for the whole way. Both channels share one gain.
 */
class GateKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  private readonly key: KeyInput;
  private readonly level: LevelKey;
  private readonly listen = new Ramp(0);
  private readonly floor: RampBlock;
  /** State of the gate: open or not, frames of hold left, and its gain. */
  private readonly state: Doubles;
  private readonly wasmKernels = wasm().kernels;
  private openingStep = 0;
  private closingFactor = 1;

  constructor(context: KernelContext) {
    super(context);
    const { sampleRate, memory } = context;
    this.key = new KeyInput(memory, sampleRate);
    this.level = new LevelKey(memory, sampleRate);
    this.floor = new RampBlock(memory, 0);
    this.state = memory.doubles(3);
    this.reset();
  }

  readMeters(out: Float64Array): void {
    const gain = this.state[GAIN]!;
    out[0] = gain >= 1 ? 0 : Math.max(SILENT_DB, gainToDb(gain));
  }

  tailSeconds(): number {
    return 0;
  }

  /** Once it is closed. */
  get canSleep(): boolean {
    const { state, floor } = this;
    return state[OPEN] === 0 && floor.settled && state[GAIN] === floor.value;
  }

  locate(): void {}

  reset(): void {
    this.key.reset();
    this.level.reset();
    this.state.fill(0);
    this.aim(0);
    this.state[GAIN] = this.floor.value;
  }

  protected aim(frames: number): void {
    const { v, sampleRate } = this;
    const range = v[P.range]!;
    const floor = range <= SILENT_DB ? 0 : dbToGain(range);
    this.floor.moveTo(floor, frames);
    this.openingStep = (1 - floor) / Math.max(1, (v[P.attack]! / 1000) * sampleRate);
    // To nothing it falls by the whole range of decibels, then stops.
    const fall = Math.max(range, SILENT_DB) * log(10) * 0.05;
    this.closingFactor = exp(fall / Math.max(1, (v[P.release]! / 1000) * sampleRate));
    this.listen.moveTo(v[P.keyListen]!, frames);
    this.key.configure(v[P.keyLowCut]!, v[P.keyHighCut]!);
  }

  process(left: Floats, right: Floats, frames: number, inputs?: Inputs): void {
    const { key, v, level, wasmKernels, state, listen } = this;
    const [keyLeft, keyRight] = key.sides;
    key.take(left, right, frames, inputs?.[0]);
    level.readPeaks(keyLeft, keyRight, frames);
    wasmKernels.gateGains(
      state.byteOffset,
      level.db.byteOffset,
      this.floor.take(frames),
      v[P.threshold]!,
      v[P.threshold]! - v[P.hysteresis]!,
      Math.round((v[P.hold]! / 1000) * this.sampleRate),
      this.openingStep,
      this.closingFactor,
      frames,
    );
    wasmKernels.scaleSides(left.byteOffset, right.byteOffset, level.db.byteOffset, frames);
    if (!listen.idle) crossSides(left, right, key.sides, listen, frames);
  }
}

export const createGate: KernelFactory = (context) => new GateKernel(context);
