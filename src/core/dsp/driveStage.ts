import { exp } from '../math/elementary';
import { wasm, type Wasm } from '../wasm/kernels';
import { meanBetween, reachOf, SMOOTHED_CURVES, type SmoothedCurveName } from './antialiasedCurve';
import { DelayLine } from './delayLine';
import { halfBandTaps } from './halfBandTaps';

/** The level whose loudness a drive leaves alone: louder is compressed, softer is lifted. */
const REFERENCE = 0.25;
/** Gain into a curve, less 1, from which on all of the sound goes through it: 3 dB. */
const ALL_DRIVEN = 0.4125;
/** What an uneven curve leaves at 0 Hz is taken away below this. */
const OFFSET_HZ = 4;
/** Time in which the removal of offsets falls by 90 dB: ln(10^4.5) time constants. */
const OFFSET_SECONDS = 10.36 / (2 * Math.PI * OFFSET_HZ);
const TWO_PI = 6.283185307179586;

/** From the outside in: pairs of taps, many where the sound ends close to what must be stopped, few further up. */
export const STAGES = [16, 6, 4] as const;
export const STOPBAND_DB = 92;
/** At eight times the rate: latencies of the stages, one of each curve, and what makes whole frames of it. */
const FILTERS = 8 * (2 * STAGES[0] - 1) + 4 * (2 * STAGES[1] - 1) + 2 * (2 * STAGES[2] - 1);
export const CURVES = 2;
export const PADDING = 8 - ((FILTERS + CURVES) % 8);
/** Frames by which a drive is late, whether it drives or not. */
export const DRIVE_LATENCY = (FILTERS + CURVES + PADDING) / 8;

/** How much of the sound goes through the curve, so that a drive of nothing is the sound itself. */
export function driveAmount(gain: number): number {
  const amount = (gain - 1) / ALL_DRIVEN;
  return amount < 0 ? 0 : amount > 1 ? 1 : amount;
}

/** The level after a drive at which its reference comes out as loud as it went in. */
export function driveLift(curve: SmoothedCurveName, gain: number): number {
  return 1 + driveAmount(gain) * ((gain * REFERENCE) / reachOf(curve, REFERENCE * gain) - 1);
}

/** Seconds for which a drive outlasts its input. */
export function driveTail(curve: SmoothedCurveName): number {
  return curve === 'asymmetric' ? OFFSET_SECONDS : 0.01;
}

const CURVE_PLACES = Object.keys(SMOOTHED_CURVES) as readonly SmoothedCurveName[];
/** How `kernels.as.ts` lays out what a drive holds, in doubles: the stages, three for each curve, the padding. */
const STAGES_HOLD = 6 * STAGES.reduce((sum, pairs) => sum + pairs, 0);
const CURVE_HOLDS = 3;
const HOLDS = STAGES_HOLD + CURVES * CURVE_HOLDS + PADDING + CURVES;
const TAPS = STAGES.flatMap((pairs) => [...halfBandTaps(pairs, STOPBAND_DB)]);

/** Where the loops of a drive find things: a view of what they hold, and places among the doubles of the memory. */
interface Places {
  readonly state: Float64Array;
  readonly block: number;
  readonly gains: readonly [number, number];
}

let places: Places | null = null;

/** The places, once the taps have been put in theirs. */
function placesIn({ exports, doubles }: Wasm): Places {
  if (!places) {
    doubles.set(TAPS, exports.driveTaps() / 8);
    places = {
      state: doubles.subarray(exports.driveState() / 8, exports.driveState() / 8 + HOLDS),
      block: exports.driveBlock() / 8,
      gains: [exports.driveFirstGains() / 8, exports.driveSecondGains() / 8],
    };
  }
  return places;
}

/**
 * One channel of saturation, by one curve or by two in turn, at eight times the rate with antiderivative antialiasing
 * on top: false tones of a full-scale sine stay under -80 dB. A curve is used as curve(gain x) / gain, so that a soft
 * sound passes with the gain 1 whatever the drive: what goes round in a loop neither grows nor fades by it; the loudness
 * is made good outside, by `driveLift`. Offsets that an uneven curve leaves are taken out. The work at eight times the
 * rate is done in WebAssembly; `DriveTwin` does the same in TypeScript.
 */
export class DriveStage {
  private readonly wasm: Wasm;
  private readonly places: Places;
  /** What the stages and curves hold from block to block. */
  private readonly state = new Float64Array(HOLDS);
  private readonly curves = [-1, -1];
  private readonly clean: DelayLine;
  private readonly offsetPole: number;
  private uneven = false;
  private offsetIn = 0;
  private offsetOut = 0;

  /** @param longest longest block in frames, up to 128 */
  constructor(sampleRate: number, longest: number) {
    this.wasm = wasm();
    this.places = placesIn(this.wasm);
    this.clean = new DelayLine(DRIVE_LATENCY + longest);
    this.offsetPole = exp((-TWO_PI * OFFSET_HZ) / sampleRate);
  }

  /** The curves the sound goes through, one after the other; null is none. */
  setCurves(first: SmoothedCurveName | null, second: SmoothedCurveName | null = null): void {
    [first, second].forEach((name, place) => {
      this.curves[place] = name === null ? -1 : CURVE_PLACES.indexOf(name);
      this.meet(place);
    });
    this.uneven = first === 'asymmetric' || second === 'asymmetric';
  }

  /** Goes on with a curve from the last two samples, as `AntialiasedCurve.setCurve`. */
  private meet(place: number): void {
    const { state } = this;
    const curve = this.curves[place]!;
    if (curve < 0) return;
    const at = STAGES_HOLD + place * CURVE_HOLDS;
    state[at + 2] = meanBetween(SMOOTHED_CURVES[CURVE_PLACES[curve]!], state[at]!, state[at + 1]!);
  }

  reset(): void {
    this.state.fill(0);
    for (let place = 0; place < CURVES; place++) this.meet(place);
    this.clean.clear();
    this.offsetIn = this.offsetOut = 0;
  }

  /**
   * Drives a block in place.
   * @param firstGains,secondGains gain into each curve for every frame, above 0
   * @param amounts how much of the sound is driven, 0 to 1, for every frame
   */
  process(
    block: Float64Array,
    frames: number,
    firstGains: Float64Array,
    secondGains: Float64Array,
    amounts: Float64Array,
  ): void {
    const { clean, state, curves, places } = this;
    const { doubles, exports } = this.wasm;
    const { buffer, mask, writeIndex } = clean;
    const { block: blockAt, gains, state: held } = places;
    for (let i = 0; i < frames; i++) {
      const x = block[i]!;
      buffer[(writeIndex + i) & mask] = x;
      doubles[blockAt + i] = x;
    }
    if (curves[0]! >= 0) for (let i = 0; i < frames; i++) doubles[gains[0] + i] = firstGains[i]!;
    if (curves[1]! >= 0) for (let i = 0; i < frames; i++) doubles[gains[1] + i] = secondGains[i]!;
    held.set(state);
    exports.drive(frames, curves[0]!, curves[1]!);
    state.set(held);
    for (let i = 0; i < frames; i++) block[i] = doubles[blockAt + i]!;
    if (this.uneven) this.removeOffset(block, frames);
    for (let i = 0; i < frames; i++) {
      const amount = amounts[i]!;
      if (amount === 1) continue;
      const untouched = buffer[(writeIndex + i - DRIVE_LATENCY) & mask]!;
      block[i] = untouched + amount * (block[i]! - untouched);
    }
    clean.writeIndex = (writeIndex + frames) & mask;
  }

  private removeOffset(block: Float64Array, frames: number): void {
    let { offsetIn, offsetOut } = this;
    const pole = this.offsetPole;
    for (let i = 0; i < frames; i++) {
      const x = block[i]!;
      offsetOut = x - offsetIn + pole * offsetOut + 1e-20 - 1e-20;
      offsetIn = x;
      block[i] = offsetOut;
    }
    this.offsetIn = offsetIn;
    this.offsetOut = offsetOut;
  }
}
