/** +6 dBFS: above it something runs away. */
export const GUARD_CEILING = 1.9952623149688795;
const FADE_SECONDS = 0.005;

/**
 * Protects ears and speakers: when what is heard passes +6 dBFS it is faded out within 5 ms and stays silent until
 * somebody resumes. It belongs to listening and has no part in a bounce.
 */
export class OutputGuard {
  on = true;
  /** It has stopped the sound. */
  tripped = false;
  private gain = 1;
  private readonly step: number;

  constructor(sampleRate: number) {
    this.step = 1 / (FADE_SECONDS * sampleRate);
  }

  /** Lets sound through again, softly. */
  resume(): void {
    this.tripped = false;
  }

  /** Looks at a block and lets it through in place, or not. */
  process(left: Float32Array, right: Float32Array, frames: number): void {
    if (!this.on) this.tripped = false;
    if (!this.tripped && this.gain === 1) {
      if (!this.on) return;
      let most = 0;
      for (let i = 0; i < frames; i++) most = Math.max(most, Math.abs(left[i]!), Math.abs(right[i]!));
      if (most <= GUARD_CEILING) return;
    }
    let { gain, tripped } = this;
    for (let i = 0; i < frames; i++) {
      if (this.on && (Math.abs(left[i]!) > GUARD_CEILING || Math.abs(right[i]!) > GUARD_CEILING)) tripped = true;
      gain = tripped ? Math.max(0, gain - this.step) : Math.min(1, gain + this.step);
      left[i] = left[i]! * gain;
      right[i] = right[i]! * gain;
    }
    this.gain = gain;
    this.tripped = tripped;
  }
}
