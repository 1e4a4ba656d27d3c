import { exp } from '../math/elementary';
import type { Arena, Doubles, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';

const FALL_DB_PER_SECOND = 24;

/** Sample peak of a stereo signal, falling by 24 dB a second, and the count of samples beyond full scale. */
export class PeakMeter {
  left = 0;
  right = 0;
  clippedSamples = 0;
  private readonly fallPerFrame: number;
  private usualFrames = 0;
  private fall = 1;

  private readonly peaks: Doubles;

  constructor(memory: Arena, sampleRate: number) {
    this.peaks = memory.doubles(2);
    this.fallPerFrame = (FALL_DB_PER_SECOND * 0.11512925) / sampleRate;
  }

  process(left: Floats, right: Floats, frames: number): void {
    const { peaks } = this;
    wasm().kernels.peakFloats(left.byteOffset, right.byteOffset, peaks.byteOffset, frames);
    const peakLeft = peaks[0]!;
    const peakRight = peaks[1]!;
    this.rest(frames);
    if (peakLeft > this.left) this.left = peakLeft;
    if (peakRight > this.right) this.right = peakRight;
    if (peakLeft <= 1 && peakRight <= 1) return;
    for (let i = 0; i < frames; i++) if (Math.abs(left[i]!) > 1 || Math.abs(right[i]!) > 1) this.clippedSamples++;
  }

  /** Lets the peaks fall as in silence. */
  rest(frames: number): void {
    if (frames !== this.usualFrames) {
      this.usualFrames = frames;
      this.fall = exp(-this.fallPerFrame * frames);
    }
    this.left *= this.fall;
    this.right *= this.fall;
  }
}
