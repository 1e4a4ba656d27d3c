import { powerOfTwoFrom } from '../math/powerOfTwo';

/**
 * The largest of the last `window` values, in constant time a value on average (Lemire, "Streaming maximum-minimum
 * filter using no more than three comparisons per element", 2006).
 */
export class SlidingMaximum {
  private readonly values: Float64Array;
  private readonly frames: Float64Array;
  private readonly mask: number;
  private head = 0;
  private tail = 0;
  private frame = 0;
  private window = 1;

  /** @param longest longest window in values */
  constructor(longest: number) {
    const size = powerOfTwoFrom(longest + 1);
    this.values = new Float64Array(size);
    this.frames = new Float64Array(size);
    this.mask = size - 1;
  }

  /** @param window 1 up to the longest */
  setWindow(window: number): void {
    this.window = window;
  }

  reset(): void {
    this.head = this.tail = this.frame = 0;
  }

  next(value: number): number {
    const { values, frames, mask } = this;
    const frame = this.frame++;
    while (this.tail > this.head && values[(this.tail - 1) & mask]! <= value) this.tail--;
    values[this.tail & mask] = value;
    frames[this.tail & mask] = frame;
    this.tail++;
    while (frames[this.head & mask]! <= frame - this.window) this.head++;
    return values[this.head & mask]!;
  }
}
