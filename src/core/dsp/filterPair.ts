import { tan } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';
import type { FilterType } from './stateVariableFilter';

/** Floats of the two integrators; behind them, by pairs: a1, a2, a3, and the gains of input, band and low. */
const INTEGRATORS = 4;
const COEFFICIENTS = 12;

/** Two channels of the filter of `StateVariableFilter`, of one type and each with its own cutoff. */
export class FilterPair {
  private readonly wasmKernels = wasm().kernels;
  private readonly state: Doubles;
  private readonly coefficients: Doubles;
  /** Steps of the coefficients per frame; null for a filter without ramps. */
  private readonly steps: Doubles | null;
  private gliding = false;
  /** The cutoff last asked for, and what the bilinear transform makes of it. */
  private warpedHz = NaN;
  private warped = 0;

  /** @param glides whether it can be sent to another response over some frames */
  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    glides = false,
  ) {
    this.state = memory.doubles(INTEGRATORS + COEFFICIENTS);
    this.coefficients = this.state.subarray(INTEGRATORS) as Doubles;
    this.steps = glides ? memory.doubles(COEFFICIENTS) : null;
    this.configureBoth('lowPass', 1000, Math.SQRT1_2);
  }

  /**
   * @param cutoffHz 1 Hz to 0.49 of the rate (clamped)
   * @param q 0.1 and up; 0.7071 is a Butterworth response
   */
  configure(channel: 0 | 1, type: FilterType, cutoffHz: number, q: number): void {
    const k = 1 / q;
    const input = type === 'highPass' || type === 'notch' ? 1 : 0;
    const band = type === 'bandPass' ? k : type === 'lowPass' ? 0 : -k;
    this.shape(channel, cutoffHz, k, input, band, type === 'lowPass' ? 1 : type === 'highPass' ? -1 : 0);
  }

  /**
   * Any response of two poles: so much of the input, of its band (of gain 1/k at the cutoff) and of its lows.
   * @param cutoffHz 1 Hz to 0.49 of the rate (clamped)
   * @param k damping, 1/Q
   * @param frames over which one that glides gets there, as many for both channels; 0 at once
   */
  shape(channel: 0 | 1, cutoffHz: number, k: number, input: number, band: number, low: number, frames = 0): void {
    if (cutoffHz !== this.warpedHz) {
      const limited = Math.min(Math.max(cutoffHz, 1), 0.49 * this.sampleRate);
      this.warped = tan((Math.PI * limited) / this.sampleRate);
      this.warpedHz = cutoffHz;
    }
    const g = this.warped;
    const a1 = 1 / (1 + g * (g + k));
    this.gliding = frames > 0;
    this.put(channel, a1, frames);
    this.put(2 + channel, g * a1, frames);
    this.put(4 + channel, g * (g * a1), frames);
    this.put(6 + channel, input, frames);
    this.put(8 + channel, band, frames);
    this.put(10 + channel, low, frames);
  }

  private put(at: number, value: number, frames: number): void {
    const { coefficients, steps } = this;
    if (frames > 0) steps![at] = (value - coefficients[at]!) / frames;
    else coefficients[at] = value;
  }

  configureBoth(type: FilterType, cutoffHz: number, q: number): void {
    this.configure(0, type, cutoffHz, q);
    this.configure(1, type, cutoffHz, q);
  }

  reset(): void {
    this.state.fill(0, 0, INTEGRATORS);
  }

  /** Filters both blocks in place. */
  process(left: Doubles, right: Doubles, frames: number): void {
    const { wasmKernels, state, steps } = this;
    if (this.gliding) {
      wasmKernels.filterGliding(state.byteOffset, steps!.byteOffset, left.byteOffset, right.byteOffset, frames);
    } else {
      wasmKernels.filterPair(state.byteOffset, left.byteOffset, right.byteOffset, frames);
    }
  }

  /**
   * Filters both blocks, adds them to two others at a gain that moves by `step` with each frame, and leaves nothing in them.
   * @param outLeft,outRight where those lie
   * @param offset of the first frame from where the gain is `gain`
   */
  spend(
    left: Doubles,
    right: Doubles,
    outLeft: number,
    outRight: number,
    gain: number,
    step: number,
    offset: number,
    frames: number,
  ): void {
    const { wasmKernels, state } = this;
    const [l, r] = [left.byteOffset, right.byteOffset];
    if (!this.gliding) {
      wasmKernels.filterSpent(state.byteOffset, outLeft, outRight, l, r, gain, step, offset, frames);
      return;
    }
    this.process(left, right, frames);
    wasmKernels.spendSides(outLeft, outRight, l, r, gain, step, offset, frames);
  }
}
