import { exp } from '../math/elementary';

const FALL_DB_PER_SECOND = 24;

/** Sample peak of a stereo signal, falling by 24 dB a second, and the count of samples beyond full scale. */
export class PeakMeter {
  left = 0;
  right = 0;
  overs = 0;
  private readonly fallPerFrame: number;
  private usualFrames = 0;
  private fall = 1;

  constructor(sampleRate: number) {
    this.fallPerFrame = (FALL_DB_PER_SECOND * 0.11512925) / sampleRate;
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    let peakLeft = 0;
    let peakRight = 0;
    for (let i = 0; i < frames; i++) {
      const l = left[i]! < 0 ? -left[i]! : left[i]!;
      const r = right[i]! < 0 ? -right[i]! : right[i]!;
      if (l > peakLeft) peakLeft = l;
      if (r > peakRight) peakRight = r;
    }
    this.rest(frames);
    if (peakLeft > this.left) this.left = peakLeft;
    if (peakRight > this.right) this.right = peakRight;
    if (peakLeft <= 1 && peakRight <= 1) return;
    for (let i = 0; i < frames; i++) if (Math.abs(left[i]!) > 1 || Math.abs(right[i]!) > 1) this.overs++;
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
