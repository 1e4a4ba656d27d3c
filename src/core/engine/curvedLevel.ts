import { SmoothRamp } from '../dsp/smoothRamp';
import { CurveReader, sameCurve } from './curve';
import type { PlanCurve } from './plan';

/** A level that follows its fader by short smooth ramps or, where there is one, its curve to the frame. */
export class CurvedLevel {
  private reader: CurveReader | null = null;
  private readonly ramp: SmoothRamp;
  /** Place in the session after the last block, to notice jumps of the playhead; NaN while it rests. */
  private expected = NaN;

  constructor(
    private level: number,
    private readonly rampFrames: number,
    curve?: PlanCurve,
  ) {
    this.ramp = new SmoothRamp(level);
    this.setCurve(curve);
  }

  setCurve(curve: PlanCurve | undefined): void {
    if (sameCurve(curve, this.reader?.curve)) return;
    this.reader = curve ? new CurveReader(curve) : null;
    this.expected = NaN;
    if (!this.reader) this.ramp.moveTo(this.level, this.rampFrames);
  }

  /** @param level takes effect while there is no curve */
  moveTo(level: number, frames = this.rampFrames): void {
    this.level = level;
    if (!this.reader) this.ramp.moveTo(level, frames);
  }

  /** Comes from 0 to its level, where no curve moves it. */
  comeIn(): void {
    this.ramp.jumpTo(0);
    this.ramp.moveTo(this.level, this.rampFrames);
  }

  /** True while it stays at `now`. */
  get settled(): boolean {
    return this.ramp.settled && this.reader === null;
  }

  get now(): number {
    return this.ramp.value;
  }

  /** Goes to its place in the session at once, when nothing sounds. */
  reset(frame: number): void {
    this.ramp.jumpTo(this.reader ? this.reader.valueAt(frame) : this.level);
    this.expected = frame;
  }

  /**
   * Fills `block` with the values of the next frames.
   * @param frame place in the session of the first one
   * @param moving true while the session plays
   */
  fill(block: Float64Array, frames: number, frame: number, moving: boolean): void {
    const { reader, ramp } = this;
    if (!reader || !moving) {
      if (reader) {
        ramp.moveTo(reader.valueAt(frame), this.rampFrames);
        this.expected = NaN;
      }
      ramp.fill(block, 0, frames);
      return;
    }
    if (frame !== this.expected) this.leap(frame);
    this.expected = frame + frames;
    for (let done = 0; done < frames;) {
      const at = frame + done;
      const corner = reader.cornerAfter(at);
      const count = Math.min(frames - done, corner - at, ramp.settled ? Infinity : ramp.remaining);
      if (ramp.settled) {
        reader.fill(block, done, at, count);
        ramp.jumpTo(reader.valueBefore(at + count));
      } else {
        ramp.fill(block, done, count);
      }
      done += count;
      if (at + count === corner && reader.jumpsAt(corner)) this.leap(corner);
    }
  }

  /** Goes from where it is to where the curve will be, by a short ramp. */
  private leap(frame: number): void {
    this.ramp.moveTo(this.reader!.valueBefore(frame + this.rampFrames), this.rampFrames);
  }
}
