import { CurveReader, sameCurve } from './curve';
import type { PlanCurve } from './plan';

/** A level that follows its fader by short ramps or, where there is one, its curve to the frame. */
export class CurvedLevel {
  private reader: CurveReader | null = null;
  private value: number;
  private target: number;
  private step = 0;
  private remaining = 0;
  /** Place in the session after the last block, to notice jumps of the playhead; NaN while it rests. */
  private expected = NaN;

  constructor(
    private level: number,
    private readonly rampFrames: number,
    curve?: PlanCurve,
  ) {
    this.value = this.target = level;
    this.setCurve(curve);
  }

  setCurve(curve: PlanCurve | undefined): void {
    if (sameCurve(curve, this.reader?.curve)) return;
    this.reader = curve ? new CurveReader(curve) : null;
    this.expected = NaN;
    if (!this.reader) this.aim(this.level, this.rampFrames);
  }

  /** @param level takes effect while there is no curve */
  moveTo(level: number, frames = this.rampFrames): void {
    this.level = level;
    if (!this.reader) this.aim(level, frames);
  }

  private aim(target: number, frames: number): void {
    if (frames <= 0) {
      this.value = target;
      this.remaining = 0;
    } else if (target !== this.target || this.remaining > 0) {
      this.step = (target - this.value) / frames;
      this.remaining = target === this.value ? 0 : frames;
    }
    this.target = target;
  }

  /** Whether it stays at `now`. */
  get settled(): boolean {
    return this.remaining === 0 && this.reader === null;
  }

  get now(): number {
    return this.value;
  }

  /** Goes to its place in the session at once, when nothing sounds. */
  reset(frame: number): void {
    this.aim(this.reader ? this.reader.valueAt(frame) : this.level, 0);
    this.expected = frame;
  }

  /**
   * Fills `block` with the values of the next frames.
   * @param frame place in the session of the first one
   * @param moving whether the session plays
   */
  fill(block: Float64Array, frames: number, frame: number, moving: boolean): void {
    const { reader } = this;
    if (!reader) {
      this.ramp(block, 0, frames);
      return;
    }
    if (!moving) {
      this.aim(reader.valueAt(frame), this.rampFrames);
      this.ramp(block, 0, frames);
      this.expected = NaN;
      return;
    }
    if (frame !== this.expected) this.leap(frame);
    this.expected = frame + frames;
    for (let done = 0; done < frames;) {
      const at = frame + done;
      const corner = reader.cornerAfter(at);
      const count = Math.min(frames - done, corner - at, this.remaining > 0 ? this.remaining : Infinity);
      if (this.remaining > 0) {
        this.ramp(block, done, count);
      } else {
        reader.fill(block, done, at, count);
        this.value = this.target = reader.valueBefore(at + count);
      }
      done += count;
      if (at + count === corner && reader.jumpsAt(corner)) this.leap(corner);
    }
  }

  /** Goes from where it is to where the curve will be, by a short ramp. */
  private leap(frame: number): void {
    const target = this.reader!.valueBefore(frame + this.rampFrames);
    this.step = (target - this.value) / this.rampFrames;
    this.remaining = this.rampFrames;
    this.target = target;
  }

  private ramp(block: Float64Array, start: number, frames: number): void {
    const moving = Math.min(frames, this.remaining);
    let value = this.value;
    for (let i = 0; i < moving; i++) {
      block[start + i] = value;
      value += this.step;
    }
    this.remaining -= moving;
    this.value = moving > 0 && this.remaining === 0 ? this.target : value;
    if (moving < frames) block.fill(this.value, start + moving, start + frames);
  }
}
