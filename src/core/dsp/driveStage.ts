import { exp } from '../math/elementary';
import { AntialiasedCurve, reachOf, SMOOTHED_CURVES, type SmoothedCurveName } from './antialiasedCurve';
import { DelayLine } from './delayLine';
import { HalfBandStage } from './halfBandStage';

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
const STAGES = [16, 6, 4] as const;
const STOPBAND_DB = 92;
/** At eight times the rate: latencies of the stages, one of each curve, and what makes whole frames of it. */
const FILTERS = 8 * (2 * STAGES[0] - 1) + 4 * (2 * STAGES[1] - 1) + 2 * (2 * STAGES[2] - 1);
const CURVES = 2;
const PADDING = 8 - ((FILTERS + CURVES) % 8);
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

/**
 * One channel of saturation, by one curve or by two in turn, at eight times the rate with antiderivative antialiasing
 * on top: false tones of a full-scale sine stay under -80 dB. A curve is used as curve(gain x) / gain, so that a soft
 * sound passes with the gain 1 whatever the drive: what goes round in a loop neither grows nor fades by it; the loudness
 * is made good outside, by `driveLift`. Offsets that an uneven curve leaves are taken out.
 */
export class DriveStage {
  private readonly outer: HalfBandStage;
  private readonly middle: HalfBandStage;
  private readonly inner: HalfBandStage;
  private readonly curves = [new AntialiasedCurve(), new AntialiasedCurve()] as const;
  private readonly used = [false, false];
  private readonly twice: Float64Array;
  private readonly four: Float64Array;
  private readonly eight: Float64Array;
  /** The end of the last block at eight times the rate, as far as it is still to come out. */
  private readonly held = new Float64Array(PADDING + CURVES);
  private readonly last = new Float64Array(PADDING + CURVES);
  private readonly clean: DelayLine;
  private readonly offsetPole: number;
  private uneven = false;
  private offsetIn = 0;
  private offsetOut = 0;

  /** @param longest longest block in frames */
  constructor(sampleRate: number, longest: number) {
    this.outer = new HalfBandStage(STAGES[0], STOPBAND_DB, longest);
    this.middle = new HalfBandStage(STAGES[1], STOPBAND_DB, 2 * longest);
    this.inner = new HalfBandStage(STAGES[2], STOPBAND_DB, 4 * longest);
    this.twice = new Float64Array(2 * longest);
    this.four = new Float64Array(4 * longest);
    this.eight = new Float64Array(8 * longest);
    this.clean = new DelayLine(DRIVE_LATENCY + longest);
    this.offsetPole = exp((-TWO_PI * OFFSET_HZ) / sampleRate);
  }

  /** The curves the sound goes through, one after the other; null is none. */
  setCurves(first: SmoothedCurveName | null, second: SmoothedCurveName | null = null): void {
    [first, second].forEach((name, place) => {
      this.used[place] = name !== null;
      if (name !== null) this.curves[place as 0 | 1].setCurve(SMOOTHED_CURVES[name]);
    });
    this.uneven = first === 'asymmetric' || second === 'asymmetric';
  }

  reset(): void {
    for (const stage of [this.outer, this.middle, this.inner]) stage.reset();
    for (const curve of this.curves) curve.reset();
    this.held.fill(0);
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
    const { twice, four, eight, clean } = this;
    const { buffer, mask } = clean;
    let at = clean.writeIndex;
    for (let i = 0; i < frames; i++) buffer[(at + i) & mask] = block[i]!;
    this.outer.up(block, frames, twice);
    this.middle.up(twice, 2 * frames, four);
    this.inner.up(four, 4 * frames, eight);
    let padding = PADDING + CURVES;
    for (let place = 0; place < CURVES; place++) {
      if (!this.used[place]) continue;
      this.bend(this.curves[place as 0 | 1], frames, place === 0 ? firstGains : secondGains);
      padding--;
    }
    this.pad(8 * frames, padding);
    this.inner.down(eight, 4 * frames, four);
    this.middle.down(four, 2 * frames, twice);
    this.outer.down(twice, frames, block);
    if (this.uneven) this.removeOffset(block, frames);
    for (let i = 0; i < frames; i++) {
      const amount = amounts[i]!;
      if (amount < 1) {
        const untouched = buffer[(at + i - DRIVE_LATENCY) & mask]!;
        block[i] = untouched + amount * (block[i]! - untouched);
      }
    }
    at = (at + frames) & mask;
    clean.writeIndex = at;
  }

  private bend(curve: AntialiasedCurve, frames: number, gains: Float64Array): void {
    const { eight } = this;
    for (let i = 0, to = 0; i < frames; i++) {
      const gain = gains[i]!;
      for (let n = 0; n < 8; n++, to++) eight[to] = eight[to]! * gain;
    }
    curve.process(eight, 8 * frames);
    for (let i = 0, to = 0; i < frames; i++) {
      const back = 1 / gains[i]!;
      for (let n = 0; n < 8; n++, to++) eight[to] = eight[to]! * back;
    }
  }

  /** Delays the block at eight times the rate by `by`, so that the whole latency is one of whole frames. */
  private pad(length: number, by: number): void {
    const { eight, held, last } = this;
    const most = held.length;
    // The newest samples come last in `held`, so that another padding takes up where this one was.
    for (let i = 0; i < most; i++) last[i] = eight[length - most + i]!;
    for (let i = length - 1; i >= by; i--) eight[i] = eight[i - by]!;
    for (let i = 0; i < by; i++) eight[i] = held[most - by + i]!;
    for (let i = 0; i < most; i++) held[i] = last[i]!;
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
