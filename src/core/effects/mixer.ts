import { Ramp } from '../dsp/ramp';
import { cos, sin } from '../math/elementary';
import type { Doubles, Floats } from '../wasm/arena';
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

  /** Blends the wet blocks into the dry ones. */
  blend(left: Float32Array, wetLeft: Float64Array, right: Float32Array, wetRight: Float64Array, frames: number): void {
    const { dry, wet, dryGains, wetGains } = this;
    if (dry.settled && wet.settled) {
      const dryGain = dry.value;
      const wetGain = wet.value;
      for (let i = 0; i < frames; i++) {
        left[i] = left[i]! * dryGain + wetLeft[i]! * wetGain;
        right[i] = right[i]! * dryGain + wetRight[i]! * wetGain;
      }
      return;
    }
    dry.fill(dryGains, frames);
    wet.fill(wetGains, frames);
    for (let i = 0; i < frames; i++) {
      left[i] = left[i]! * dryGains[i]! + wetLeft[i]! * wetGains[i]!;
      right[i] = right[i]! * dryGains[i]! + wetRight[i]! * wetGains[i]!;
    }
  }

  /**
   * As `blend`, of dry blocks that are kept in the memory of the loops as well.
   * @param keptLeft,keptRight what the dry blocks hold, written over
   */
  blendKept(
    left: Float32Array,
    keptLeft: Floats,
    wetLeft: Doubles,
    right: Float32Array,
    keptRight: Floats,
    wetRight: Doubles,
    frames: number,
  ): void {
    const { dry, wet } = this;
    if (!dry.settled || !wet.settled) {
      this.blend(left, wetLeft, right, wetRight, frames);
      return;
    }
    const { loops } = wasm();
    loops.blendFloats(keptLeft.byteOffset, wetLeft.byteOffset, dry.value, wet.value, frames);
    loops.blendFloats(keptRight.byteOffset, wetRight.byteOffset, dry.value, wet.value, frames);
    left.set(frames === keptLeft.length ? keptLeft : keptLeft.subarray(0, frames));
    right.set(frames === keptRight.length ? keptRight : keptRight.subarray(0, frames));
  }

  private static dryGain(percent: number): number {
    return percent <= 0 ? 1 : percent >= 100 ? 0 : cos((percent / 100) * HALF_PI);
  }

  private static wetGain(percent: number): number {
    return percent <= 0 ? 0 : percent >= 100 ? 1 : sin((percent / 100) * HALF_PI);
  }
}
