import { kaiser, kaiserBeta, sinc } from '../math/windows';

const PAIRS = 6;
const STOPBAND_DB = 80;

/**
 * The taps of a half-band filter that are not zero, from the centre outwards on one side, the centre tap of 0.5 left
 * out; the filter has 4 * pairs - 1 taps.
 */
export function halfBandTaps(pairs: number, stopbandDb: number): Float64Array {
  const half = Float64Array.from({ length: pairs }, (_, i) => {
    const n = 2 * i + 1;
    return 0.5 * sinc(n / 2) * kaiser(n / (2 * pairs), kaiserBeta(stopbandDb));
  });
  const sum = half.reduce((total, tap) => total + tap, 0) * 2;
  return half.map((tap) => (tap * 0.5) / sum);
}

const SIDE_TAPS = halfBandTaps(PAIRS, STOPBAND_DB);
const RING = 4 * PAIRS;

/**
 * Twofold oversampling around a memoryless stage with a linear-phase half-band filter each way (Crochiere and
 * Rabiner, "Multirate Digital Signal Processing", 1983). Images and aliases of signals below 0.17 of the rate fall
 * by more than 75 dB.
 */
export class TwofoldOversampler {
  /** Frames by which the stage delays the signal, exactly. */
  static readonly LATENCY = 2 * PAIRS - 1;

  private readonly up = new Float64Array(RING * 2);
  private readonly odd = new Float64Array(RING * 2);
  private readonly even = new Float64Array(RING * 2);
  private index = 0;

  reset(): void {
    this.up.fill(0);
    this.odd.fill(0);
    this.even.fill(0);
  }

  /** Runs `frames` samples of `block`, from `start` on, in place through `stage` at twice the rate. */
  process(block: Float64Array, frames: number, stage: (sample: number) => number, start = 0): void {
    const { up, odd, even } = this;
    let index = this.index;
    for (let i = start; i < start + frames; i++) {
      index = index === 0 ? RING - 1 : index - 1;
      up[index] = up[index + RING] = block[i]!;
      let between = 0;
      for (let tap = 0; tap < PAIRS; tap++) {
        between += SIDE_TAPS[tap]! * (up[index + PAIRS - 1 - tap]! + up[index + PAIRS + tap]!);
      }
      const onFrame = stage(up[index + PAIRS]!);
      const halfLater = stage(2 * between);
      even[index] = even[index + RING] = onFrame;
      odd[index] = odd[index + RING] = halfLater;
      let sum = 0.5 * even[index + PAIRS - 1]!;
      for (let tap = 0; tap < PAIRS; tap++) {
        sum += SIDE_TAPS[tap]! * (odd[index + PAIRS - 1 - tap]! + odd[index + PAIRS + tap]!);
      }
      block[i] = sum;
    }
    this.index = index;
  }
}
