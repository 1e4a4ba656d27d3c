import { Ramp } from '../dsp/ramp';
import type { Sides } from '../dsp/sides';
import { cos, sin } from '../math/elementary';
import type { Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { MAXIMUM_BLOCK } from './kernel';

const HALF_PI = 1.5707963267948966;

/**
 * Dry and wet at equal power: dry cos, wet sin of a quarter turn. At 0 % the wet gain and at 100 % the dry gain are
 * exactly zero, so the ends are the input bit for bit and the wet sound alone.
 */
export class EqualPowerMix {
  private readonly dry: Ramp;
  private readonly wet: Ramp;
  private readonly dryGains = new Float64Array(MAXIMUM_BLOCK);
  private readonly wetGains = new Float64Array(MAXIMUM_BLOCK);

  /** @param percent 0 to 100 */
  constructor(percent: number) {
    this.dry = new Ramp(EqualPowerMix.dryGain(percent));
    this.wet = new Ramp(EqualPowerMix.wetGain(percent));
  }

  moveTo(percent: number, frames: number): void {
    this.dry.moveTo(EqualPowerMix.dryGain(percent), frames);
    this.wet.moveTo(EqualPowerMix.wetGain(percent), frames);
  }

  /** The gain of the wet sound now. */
  get wetGain(): number {
    return this.wet.value;
  }

  /**
   * Blends wet blocks into the dry ones.
   * @param start frame of the dry blocks that the wet ones begin at
   */
  blend(left: Floats, right: Floats, [wetLeft, wetRight]: Sides, frames: number, start = 0): void {
    const { dry, wet, dryGains, wetGains } = this;
    if (dry.settled && wet.settled) {
      const { loops } = wasm();
      loops.blendFloats(left.byteOffset + 4 * start, wetLeft.byteOffset, dry.value, wet.value, frames);
      loops.blendFloats(right.byteOffset + 4 * start, wetRight.byteOffset, dry.value, wet.value, frames);
      return;
    }
    dry.fill(dryGains, frames);
    wet.fill(wetGains, frames);
    for (let i = 0; i < frames; i++) {
      left[start + i] = left[start + i]! * dryGains[i]! + wetLeft[i]! * wetGains[i]!;
      right[start + i] = right[start + i]! * dryGains[i]! + wetRight[i]! * wetGains[i]!;
    }
  }

  private static dryGain(percent: number): number {
    return percent <= 0 ? 1 : percent >= 100 ? 0 : cos((percent / 100) * HALF_PI);
  }

  private static wetGain(percent: number): number {
    return percent <= 0 ? 0 : percent >= 100 ? 1 : sin((percent / 100) * HALF_PI);
  }
}
