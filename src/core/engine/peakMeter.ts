import { exp } from '../math/elementary';

const FALL_DB_PER_SECOND = 24;

/** Sample peak of a stereo signal, falling by 24 dB a second, and the count of samples beyond full scale. */
export class PeakMeter {
  left = 0;
  right = 0;
  overs = 0;
  private readonly fallPerFrame: number;

  constructor(sampleRate: number) {
    this.fallPerFrame = (FALL_DB_PER_SECOND * 0.11512925) / sampleRate;
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    let peakLeft = 0;
    let peakRight = 0;
    let overs = 0;
    for (let i = 0; i < frames; i++) {
      const l = Math.abs(left[i]!);
      const r = Math.abs(right[i]!);
      if (l > peakLeft) peakLeft = l;
      if (r > peakRight) peakRight = r;
      if (l > 1 || r > 1) overs++;
    }
    const fall = exp(-this.fallPerFrame * frames);
    this.left = Math.max(peakLeft, this.left * fall);
    this.right = Math.max(peakRight, this.right * fall);
    this.overs += overs;
  }
}
