/** A value that moves to its target in a straight line, one step a frame. */
export class Ramp {
  value: number;
  private target: number;
  private step = 0;
  private remaining = 0;

  constructor(value: number) {
    this.value = value;
    this.target = value;
  }

  /** Starts towards `target`, to arrive after `frames` frames; 0 arrives at once. On its way there already, it goes on. */
  moveTo(target: number, frames: number): void {
    if (frames <= 0) {
      this.value = target;
      this.remaining = 0;
    } else if (target !== this.target) {
      this.step = (target - this.value) / frames;
      this.remaining = target === this.value ? 0 : frames;
    }
    this.target = target;
  }

  get settled(): boolean {
    return this.remaining === 0;
  }

  /** Rests at nothing. */
  get idle(): boolean {
    return this.remaining === 0 && this.value === 0;
  }

  /** The value for this frame, then one step on. */
  next(): number {
    const now = this.value;
    if (this.remaining > 0) {
      this.remaining--;
      this.value = this.remaining === 0 ? this.target : now + this.step;
    }
    return now;
  }

  /** Goes on by some frames at once, as many each time: other cuts round otherwise. Returns the value there. */
  skip(frames: number): number {
    if (this.remaining > frames) {
      this.remaining -= frames;
      this.value += this.step * frames;
    } else if (this.remaining > 0) {
      this.remaining = 0;
      this.value = this.target;
    }
    return this.value;
  }

  /** As many times `next`, for nothing. */
  pass(frames: number): void {
    for (let i = 0; i < frames && this.remaining > 0; i++) this.next();
  }

  /** The values for the next `frames` frames. */
  fill(block: Float64Array, frames: number): void {
    const moving = Math.min(frames, this.remaining);
    let value = this.value;
    for (let i = 0; i < moving; i++) {
      block[i] = value;
      value += this.step;
    }
    this.remaining -= moving;
    this.value = moving > 0 && this.remaining === 0 ? this.target : value;
    if (moving < frames) block.fill(this.value, moving, frames);
  }
}
