import { dbToGain, exp } from '../math/elementary';
import { Ramp } from './ramp';

/** Time constants of the mean powers, and of the gain, in seconds. */
const POWER_SECONDS = 0.4;
const GAIN_SECONDS = 0.3;
/** Mean power of the source under which the gain rests: -80 dBFS. */
const GATE = 1e-8;

/** A slow gain that brings a processed signal to the RMS level of its source. It rests in pauses. */
export class MakeUpGain {
  private readonly ramp = new Ramp(1);
  private readonly powerShare: number;
  private readonly gainShare: number;
  private readonly highest: number;
  private source = 0;
  private processed = 0;
  private sourceSum = 0;
  private processedSum = 0;

  /**
   * @param tickFrames frames between two calls of `tick`
   * @param rangeDb most that it lifts or lowers
   */
  constructor(
    sampleRate: number,
    private readonly tickFrames: number,
    rangeDb: number,
  ) {
    this.powerShare = 1 - exp(-tickFrames / (POWER_SECONDS * sampleRate));
    this.gainShare = 1 - exp(-tickFrames / (GAIN_SECONDS * sampleRate));
    this.highest = dbToGain(rangeDb);
  }

  reset(): void {
    this.source = this.processed = this.sourceSum = this.processedSum = 0;
    this.ramp.moveTo(1, 0);
  }

  /**
   * Measures up to a tick of the processed signal and applies the gain to it, in place.
   * @param sourcePower sum of squares of the source over the same frames
   */
  process(block: Float64Array, frames: number, sourcePower: number): void {
    const { ramp } = this;
    let power = 0;
    for (let i = 0; i < frames; i++) {
      const x = block[i]!;
      power += x * x;
      block[i] = ramp.next() * x;
    }
    this.sourceSum += sourcePower;
    this.processedSum += power;
  }

  /** Aims the gain by what was measured since the last tick. */
  tick(): void {
    const { powerShare, tickFrames, highest, ramp } = this;
    this.source += powerShare * (this.sourceSum / tickFrames - this.source);
    this.processed += powerShare * (this.processedSum / tickFrames - this.processed);
    this.sourceSum = this.processedSum = 0;
    if (this.source < GATE) return;
    const wanted = Math.sqrt(this.source / Math.max(this.processed, this.source / (highest * highest)));
    const gain = Math.max(1 / highest, wanted);
    ramp.moveTo(ramp.value + this.gainShare * (gain - ramp.value), tickFrames);
  }
}
