import { TWO_PI } from '../math/circle';
import { exp } from '../math/elementary';
import type { Arena, Doubles, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { CURVE_NAMES, reachOf, type CurveName } from './curves';
import { halfBandTaps } from './halfBandTaps';

/** The level whose loudness a drive leaves alone: louder is compressed, softer is lifted. */
const REFERENCE = 0.25;
/** Gain into a curve, less 1, from which on all of the sound goes through it: 3 dB. */
const ALL_DRIVEN = 0.4125;
/** Corner of the high-pass that removes the offset of an asymmetric curve. */
const OFFSET_HZ = 4;
/** Time in which the removal of offsets falls by 90 dB: ln(10^4.5) time constants. */
const OFFSET_SECONDS = 10.36 / (2 * Math.PI * OFFSET_HZ);

/** From the outside in: pairs of taps, many where the sound ends close to what must be stopped, few further up. */
export const STAGES = [20, 6, 4] as const;
/** The outermost trades some of it for a narrower edge: at 44.1 kHz what folds back lies above 19.1 kHz. */
export const STOPBANDS_DB = [86, 92, 92] as const;
const MOST_CURVES = 2;
/** At eight times the rate: latencies of the stages, one of each curve, and what makes whole frames of it. */
const OUTER_FILTERS = 8 * (2 * STAGES[0] - 1) + 4 * (2 * STAGES[1] - 1);
const FILTERS = OUTER_FILTERS + 2 * (2 * STAGES[2] - 1);
/** Frames by which a drive is late, whether it drives or not. */
export const DRIVE_LATENCY = Math.ceil((FILTERS + MOST_CURVES) / 8);
/** Samples that are held back at four and at eight times the rate, so that the latency is whole and the same. */
export const HELD_BACK = { 4: (8 * DRIVE_LATENCY - OUTER_FILTERS) / 2, 8: 8 * DRIVE_LATENCY - FILTERS } as const;
/** By how much the rate is raised. */
export type Times = keyof typeof HELD_BACK;

/** The most gain, 18 dB, up to which four times the rate keeps false tones of a full-scale 5 kHz tone under -80 dB. */
const GENTLE = 7.95;

/** The rate that a drive needs: curves with a corner, high gains and two curves in a row need more. */
export function timesFor(first: CurveName | null, gain: number, second: CurveName | null): Times {
  return first !== 'hard' && gain <= GENTLE && (first === null || second === null) ? 4 : 8;
}

/** Share of the signal that passes the curve; a drive of 0 dB leaves the signal unchanged. */
export function driveAmount(gain: number): number {
  const amount = (gain - 1) / ALL_DRIVEN;
  return amount < 0 ? 0 : amount > 1 ? 1 : amount;
}

/** The level after a drive at which its reference comes out as loud as it went in. */
export function driveLift(curve: CurveName, gain: number): number {
  return 1 + driveAmount(gain) * ((gain * REFERENCE) / reachOf(curve, REFERENCE * gain) - 1);
}

/** Seconds for which a drive outlasts its input. */
export function driveTail(curve: CurveName): number {
  return curve === 'asymmetric' ? OFFSET_SECONDS : 0.01;
}

/** The pole of what takes away the offset that an uneven curve leaves. */
export function offsetPole(sampleRate: number): number {
  return exp((-TWO_PI * OFFSET_HZ) / sampleRate);
}

/** The taps of all stages in one row. */
const STAGE_TAPS = STAGES.flatMap((pairs, n) => [...halfBandTaps(pairs, STOPBANDS_DB[n]!)]);
/** Lengths are rounded up to four floats, as the WebAssembly kernels copy them. */
const fours = (floats: number) => 4 * Math.ceil(floats / 4);
/**
 * State of a drive, in floats: two doubles of the offset filter, two samples of each curve, the delayed samples, the clean
 * signal, and the stages of up- and downsampling.
 */
const HOLDS =
  4 + 2 * MOST_CURVES + fours(HELD_BACK[4]) + fours(DRIVE_LATENCY) + 6 * STAGES.reduce((sum, pairs) => sum + pairs, 0);

let ready = false;

/**
 * One channel of saturation, by one curve or by two in turn, at four or eight times the rate and antialiased on top: the curve is
 * averaged along straight lines between samples with a triangular weight (Parker, Zavalishin and Le Bivic, "Reducing the
 * aliasing of nonlinear waveshaping using continuous-time convolution", 2016); the fold, which turns many times between two
 * samples, by its second divided difference instead (Bilbao, Esqueda, Parker and Valimaki, "Antiderivative antialiasing for
 * memoryless nonlinearities", 2017). False tones of a full-scale sine stay under
 * -80 dB. A curve is used as curve(gain x) / gain, so that a soft sound passes with the gain 1 whatever the drive: what
 * goes round in a loop neither grows nor fades by it; the loudness is made good outside, by `driveLift`. Offsets that an
 * uneven curve leaves are taken out. In single precision, in WebAssembly; `DriveTwin` does the same in TypeScript.
 */
export class DriveStage {
  private readonly wasmKernels = wasm().kernels;
  private readonly state: Floats;
  private readonly curves: [number, number] = [-1, -1];
  private readonly pole: number;
  private uneven = false;
  private times: Times = 8;

  constructor(memory: Arena, sampleRate: number) {
    if (!ready) new Float32Array(wasm().buffer, this.wasmKernels.driveTaps(), STAGE_TAPS.length).set(STAGE_TAPS);
    ready = true;
    this.state = memory.floats(HOLDS);
    this.pole = offsetPole(sampleRate);
  }

  /**
   * The curves the sound goes through, one after the other; null is none.
   * @param times another rate than before is to begin from silence
   */
  setCurves(first: CurveName | null, second: CurveName | null = null, times: Times = 8): void {
    this.times = times;
    this.curves[0] = first === null ? -1 : CURVE_NAMES.indexOf(first);
    this.curves[1] = second === null ? -1 : CURVE_NAMES.indexOf(second);
    this.uneven = first === 'asymmetric' || second === 'asymmetric';
  }

  reset(): void {
    this.state.fill(0);
  }

  /**
   * Drives a block in place.
   * @param frames 1 to LONGEST_BLOCK
   * @param firstGains,secondGains gain into each curve for every frame, above 0
   * @param amounts how much of the sound is driven, 0 to 1, for every frame
   */
  process(block: Doubles, frames: number, firstGains: Doubles, secondGains: Doubles, amounts: Doubles): void {
    this.wasmKernels.drive(
      this.state.byteOffset,
      block.byteOffset,
      frames,
      this.times,
      this.curves[0],
      this.curves[1],
      firstGains.byteOffset,
      secondGains.byteOffset,
      amounts.byteOffset,
      this.uneven ? this.pole : -1,
    );
  }
}
