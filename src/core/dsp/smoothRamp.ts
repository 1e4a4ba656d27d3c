/**
 * A value that moves to its target along a cubic (Hermite) without a corner: it starts from its present value and slope,
 * also when another move is under way, and arrives level. From rest to rest that is a smoothstep. A move that turns
 * round on the way goes on by up to 0.22 of the first move before it comes back.
 */
export class SmoothRamp {
  value: number;
  private target: number;
  private start: number;
  /** Change a frame at the start. */
  private slope = 0;
  private frames = 0;
  private done = 0;

  constructor(value: number) {
    this.value = this.target = this.start = value;
  }

  /** Starts towards `target`, to arrive after `frames` frames; 0 arrives at once. On its way there already, it goes on. */
  moveTo(target: number, frames: number): void {
    if (frames <= 0) this.jumpTo(target);
    else if (target !== this.target) {
      this.slope = this.slopeNow;
      this.start = this.value;
      this.target = target;
      this.frames = frames;
      this.done = 0;
    }
  }

  /** Is at `value` and rests there. */
  jumpTo(value: number): void {
    this.value = this.target = value;
    this.frames = this.done = 0;
  }

  get settled(): boolean {
    return this.done === this.frames;
  }

  /** Rests at nothing. */
  get idle(): boolean {
    return this.settled && this.value === 0;
  }

  /** Frames until it arrives. */
  get remaining(): number {
    return this.frames - this.done;
  }

  /** The value for this frame, then one step on. */
  next(): number {
    const now = this.value;
    if (this.done < this.frames) this.value = this.valueAt(++this.done);
    return now;
  }

  /** Goes on by some frames at once. */
  skip(frames: number): void {
    if (this.settled) return;
    this.done = Math.min(this.frames, this.done + frames);
    this.value = this.valueAt(this.done);
  }

  /** The values for the next `frames` frames, from `start` on. */
  fill(block: Float64Array, start: number, frames: number): void {
    const moving = Math.min(frames, this.frames - this.done);
    for (let i = 0; i < moving; i++) block[start + i] = this.next();
    if (moving < frames) block.fill(this.value, start + moving, start + frames);
  }

  private valueAt(done: number): number {
    if (done === this.frames) return this.target;
    const t = done / this.frames;
    const left = 1 - t;
    return this.target + left * left * ((this.start - this.target) * (1 + 2 * t) + this.slope * done);
  }

  private get slopeNow(): number {
    if (this.settled) return 0;
    const t = this.done / this.frames;
    const away = (this.start - this.target) / this.frames;
    return (1 - t) * (this.slope * (1 - 3 * t) - 6 * t * away);
  }
}
