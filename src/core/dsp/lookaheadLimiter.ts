import { powerOfTwoFrom } from '../math/powerOfTwo';
import { dbToGain, exp, gainToDb } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { Ramp } from './ramp';
import { LONGEST_BLOCK } from './longestBlock';
import { HIGHEST_RISE, PEAK_LATENCY, readyPeaks } from './truePeak';

/** Aimed below the ceiling for what the peak estimate and the moving gain leave over. */
const MARGIN_DB = 0.15;
const RINGS = 5;
/** Places of the state in `limiter.as.ts`. */
const enum At {
  size,
  longestWindow,
  wantedWindow,
  release,
  highestRise,
  most,
  frame,
  head,
  tail,
  unseen,
  window,
  sum,
  released,
  releasing,
}

/**
 * Look-ahead limiter on the true peak. The gain each frame needs is held at its minimum over the look-ahead window and as
 * long after it as samples have a part in a peak, released exponentially in decibels as the compressor releases, and smoothed
 * by a moving average as long as the window, so that it has arrived when the peak does (after Giannoulis, Massberg and Reiss,
 * "Digital dynamic range compressor design", 2012). Both channels share one gain. Peaks are the highest that the interpolator
 * of ITU-R BS.1770-4 annex 2 or one of two longer ones reads (`truePeak.ts`). Of any sound 0.1 dB at most passes the ceiling
 * under the standard's meter and under windowed interpolators of up to 128 taps, and 0.5 dB under an endless one of noise, tones
 * up to 0.49 of the rate and bursts at half the rate of up to 64 frames; longer bursts there can pass by more, as no finite
 * filter hears them whole. Latency: the longest look-ahead plus that of the longest interpolator. Peaks are worked out in single
 * precision, where a sound comes near the ceiling; in WebAssembly.
 */
export class LookaheadLimiter {
  readonly latencyFrames: number;
  /** Level taken away at the deepest point of the last block, in dB, 0 and down. */
  reductionDb = 0;
  private readonly wasmKernels = wasm().kernels;
  private readonly maximumWindow: number;
  private readonly ceiling = new Ramp(1);
  private readonly ceilings: Doubles;
  /** Peaks under this are not worked out. */
  private floor = 1;
  private readonly state: Doubles;
  private readonly rings: readonly Float64Array[];

  /** @param maximumMs longest look-ahead */
  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    maximumMs: number,
  ) {
    const { wasmKernels } = this;
    readyPeaks();
    this.maximumWindow = this.windowFrames(maximumMs);
    this.latencyFrames = this.maximumWindow + PEAK_LATENCY;
    const size = powerOfTwoFrom(Math.max(256, this.latencyFrames + 8));
    const head = wasmKernels.limiterBytes() / 8;
    this.ceilings = memory.doubles(LONGEST_BLOCK);
    this.state = memory.doubles(head + RINGS * size);
    this.rings = Array.from({ length: RINGS }, (_, n) => this.state.subarray(head + n * size, head + (n + 1) * size));
    this.state[At.size] = size;
    this.state[At.longestWindow] = this.maximumWindow;
    this.state[At.wantedWindow] = this.maximumWindow;
    this.state[At.highestRise] = HIGHEST_RISE;
    this.reset();
  }

  private windowFrames(ms: number): number {
    return Math.max(2, Math.round((ms / 1000) * this.sampleRate));
  }

  /**
   * @param ceilingDb true peak that is not passed
   * @param frames in which the ceiling moves there
   */
  configure(ceilingDb: number, releaseMs: number, lookaheadMs: number, frames: number): void {
    const ceiling = dbToGain(ceilingDb - MARGIN_DB);
    this.ceiling.moveTo(ceiling, frames);
    // While the ceiling comes down its old place still counts as the lower bound of what matters.
    this.floor = Math.min(ceiling, this.ceiling.value);
    this.state[At.release] = exp(-1000 / (releaseMs * this.sampleRate));
    this.state[At.wantedWindow] = this.windowFrames(lookaheadMs);
  }

  reset(): void {
    const { state, rings } = this;
    const [, , needed, , held] = rings;
    state.fill(0, At.most);
    needed!.fill(1);
    held!.fill(1);
    state[At.tail] = 1;
    state[At.unseen] = 1 - this.maximumWindow;
    state[At.window] = state[At.sum] = state[At.wantedWindow]!;
    state[At.released] = 1;
    this.reductionDb = 0;
  }

  /** True if it applies no gain reduction and is not recovering from one. */
  get idle(): boolean {
    return this.reductionDb > -1e-6 && this.state[At.releasing] === 0;
  }

  /** Limits in place; what comes out is late by `latencyFrames`. */
  process(left: Doubles, right: Doubles, frames: number): void {
    const { state, ceilings } = this;
    this.ceiling.fill(ceilings, frames);
    this.wasmKernels.limit(
      state.byteOffset,
      left.byteOffset,
      right.byteOffset,
      ceilings.byteOffset,
      this.floor,
      frames,
    );
    const most = state[At.most]!;
    this.reductionDb = most < 1 ? gainToDb(most) : 0;
  }
}
