/** By so much later than the sound it makes the audio thread must come for the sound to have broken off, in seconds. */
const LATE_SECONDS = 0.04;
/** Longer without a call is no drop-out: the context was held back. */
const HELD_SECONDS = 1;

/**
 * Counts how often sound broke off. The audio thread is called as its sound is used up: over time as many seconds pass on
 * the clock as it makes. When the clock gets ahead of that, the device has played nothing for so long.
 */
export class DropOuts {
  count = 0;
  /** Seconds by which the clock was ahead of the sound when it was least. */
  private least = Infinity;
  private begin = NaN;
  private last = NaN;
  private made = 0;

  constructor(private readonly sampleRate: number) {}

  /**
   * @param nowMs the clock at the beginning of a call, in milliseconds
   * @param frames made in it
   */
  take(nowMs: number, frames: number): void {
    const now = nowMs / 1000;
    if (!(now - this.last < HELD_SECONDS)) {
      this.begin = now;
      this.made = 0;
      this.least = Infinity;
    }
    this.last = now;
    const ahead = now - this.begin - this.made / this.sampleRate;
    if (ahead < this.least) this.least = ahead;
    if (ahead - this.least > LATE_SECONDS) {
      this.count++;
      this.least = ahead;
    }
    this.made += frames;
  }

  /** Nothing plays: what comes late now is not missed. */
  rest(): void {
    this.last = NaN;
  }
}
