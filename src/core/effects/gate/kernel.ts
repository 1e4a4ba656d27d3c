import { Ramp } from '../../dsp/ramp';
import { dbToGain, exp, gainToDb, log } from '../../math/elementary';
import { KeyInput } from '../keyInput';
import type { Kernel, KernelContext, KernelFactory, Inputs } from '../kernel';
import { placesOf } from '../places';
import { LevelKey } from '../levelKey';
import { gateSpec } from './spec';

const P = placesOf(gateSpec, [
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

const RAMP_SECONDS = 0.02;
/** The range at which nothing is left. */
const SILENT_DB = -100;

/**
 * Gate with hysteresis and hold. It opens along a straight line of the gain and closes along a straight line of
 * decibels, each in the time given for the whole way. Both channels share one gain.
 */
class GateKernel implements Kernel {
  private readonly sampleRate: number;
  readonly latencyFrames = 0;
  private readonly v: number[];
  private readonly rampFrames: number;
  private readonly key: KeyInput;
  private readonly level: LevelKey;
  private readonly listen = new Ramp(0);
  private readonly floor = new Ramp(0);
  private open = false;
  private held = 0;
  private gain = 0;
  private openingStep = 0;
  private closingFactor = 1;

  constructor({ sampleRate, values, memory }: KernelContext) {
    this.sampleRate = sampleRate;
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.key = new KeyInput(memory, sampleRate);
    this.level = new LevelKey(memory, sampleRate);
    this.reset();
  }

  tell(out: Float64Array): void {
    out[0] = this.gain >= 1 ? 0 : Math.max(SILENT_DB, gainToDb(this.gain));
  }

  tailSeconds(): number {
    return 0;
  }

  setParameter(index: number, value: number, frames = this.rampFrames): void {
    this.v[index] = value;
    this.aim(frames);
  }

  locate(): void {}

  reset(): void {
    this.key.reset();
    this.level.reset();
    this.open = false;
    this.held = 0;
    this.aim(0);
    this.gain = this.floor.value;
  }

  private aim(frames: number): void {
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

  process(left: Float32Array, right: Float32Array, frames: number, inputs?: Inputs): void {
    const { key, v } = this;
    const opensAt = v[P.threshold]!;
    const closesAt = opensAt - v[P.hysteresis]!;
    const holdFrames = Math.round((v[P.hold]! / 1000) * this.sampleRate);
    key.take(left, right, frames, inputs?.[0]);
    this.level.readPeaks(key.left, key.right, frames);
    const levels = this.level.db;
    for (let i = 0; i < frames; i++) {
      const keyLeft = key.left[i]!;
      const keyRight = key.right[i]!;
      const db = levels[i]!;
      if (db >= opensAt) {
        this.open = true;
        this.held = holdFrames;
      } else if (this.open && db >= closesAt) {
        this.held = holdFrames;
      } else if (this.open) {
        if (this.held > 0) this.held--;
        else this.open = false;
      }
      const floor = this.floor.next();
      if (this.open) {
        this.gain += this.openingStep;
        if (this.gain > 1) this.gain = 1;
      } else if (this.gain > floor) {
        this.gain *= this.closingFactor;
        if (this.gain < floor || this.gain < 1e-5) this.gain = floor;
      } else {
        this.gain = floor;
      }
      const gain = this.gain;
      const listen = this.listen.next();
      left[i] = left[i]! * gain + listen * (keyLeft - left[i]! * gain);
      right[i] = right[i]! * gain + listen * (keyRight - right[i]! * gain);
    }
  }
}

export const createGate: KernelFactory = (context) => new GateKernel(context);
