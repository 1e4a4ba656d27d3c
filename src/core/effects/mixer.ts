import { RampBlock } from '../dsp/rampBlock';
import type { Sides } from '../dsp/sides';
import { HALF_PI } from '../math/circle';
import { cos, sin } from '../math/elementary';
import type { Arena, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';

/**
 * Dry and wet at equal power: dry cos, wet sin of a quarter turn. At 0 % the wet gain and at 100 % the dry gain are
 * exactly zero, so the ends are the input bit for bit and the wet sound alone.
 */
export class EqualPowerMix {
  private readonly dry: RampBlock;
  private readonly wet: RampBlock;
  private readonly wasmKernels = wasm().kernels;

  /** @param percent 0 to 100 */
  constructor(memory: Arena, percent: number) {
    this.dry = new RampBlock(memory, EqualPowerMix.dryGain(percent));
    this.wet = new RampBlock(memory, EqualPowerMix.wetGain(percent));
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
  blend(left: Floats, right: Floats, wet: Sides, frames: number, start = 0): void {
    const dryGains = this.dry.take(frames);
    const wetGains = this.wet.take(frames);
    const at = 4 * start;
    this.wasmKernels.blendFloats(left.byteOffset + at, wet[0].byteOffset, dryGains, wetGains, frames);
    this.wasmKernels.blendFloats(right.byteOffset + at, wet[1].byteOffset, dryGains, wetGains, frames);
  }

  /**
   * Blends wet blocks into a band, and puts that with its rest in the place of the sound that both come from.
   * @param start frame of that sound at which they begin
   */
  blendBand(left: Floats, right: Floats, band: Sides, rest: Sides, wet: Sides, frames: number, start: number): void {
    const dryGains = this.dry.take(frames);
    const wetGains = this.wet.take(frames);
    for (const side of [0, 1] as const) {
      const out = (side === 0 ? left : right).byteOffset + 4 * start;
      const [from, beside, made] = [band[side].byteOffset, rest[side].byteOffset, wet[side].byteOffset];
      this.wasmKernels.blendBand(out, from, beside, made, dryGains, wetGains, frames);
    }
  }

  private static dryGain(percent: number): number {
    return percent <= 0 ? 1 : percent >= 100 ? 0 : cos((percent / 100) * HALF_PI);
  }

  private static wetGain(percent: number): number {
    return percent <= 0 ? 0 : percent >= 100 ? 1 : sin((percent / 100) * HALF_PI);
  }
}
