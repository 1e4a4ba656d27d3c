import { Ramp } from '../dsp/ramp';
import { cos, sin } from '../math/elementary';

const HALF_PI = 1.5707963267948966;

/**
 * Dry and wet at equal power: dry cos, wet sin of a quarter turn. At 0 % the wet gain and at 100 % the dry gain are
 * exactly zero, so the ends are the input bit for bit and the wet sound alone.
 */
export class EqualPowerMix {
  readonly dry: Ramp;
  readonly wet: Ramp;

  /** @param percent 0 to 100 */
  constructor(percent: number) {
    this.dry = new Ramp(EqualPowerMix.dryGain(percent));
    this.wet = new Ramp(EqualPowerMix.wetGain(percent));
  }

  moveTo(percent: number, frames: number): void {
    this.dry.moveTo(EqualPowerMix.dryGain(percent), frames);
    this.wet.moveTo(EqualPowerMix.wetGain(percent), frames);
  }

  private static dryGain(percent: number): number {
    return percent <= 0 ? 1 : percent >= 100 ? 0 : cos((percent / 100) * HALF_PI);
  }

  private static wetGain(percent: number): number {
    return percent <= 0 ? 0 : percent >= 100 ? 1 : sin((percent / 100) * HALF_PI);
  }
}
