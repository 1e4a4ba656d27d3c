import type { PlanCurve } from './plan';

/** Reads a curve of automation; going forward is cheap. */
export class CurveReader {
  /** Last corner at or before the frame asked for last; -1 before the first. */
  private at = -1;

  constructor(readonly curve: PlanCurve) {}

  /** The value on a frame; on the frame of a jump the value after it. */
  valueAt(frame: number): number {
    this.find(frame);
    return this.inPiece(frame);
  }

  /** The value on the way to a frame; on the frame of a jump the value before it. */
  valueBefore(frame: number): number {
    this.find(frame - 1);
    return this.inPiece(frame);
  }

  /** The values of `count` frames from `frame` on, among which there is no corner but the first. */
  fill(block: Float64Array, start: number, frame: number, count: number): void {
    const { frames, values } = this.curve;
    this.find(frame);
    const { at } = this;
    if (at < 0 || at === frames.length - 1) {
      block.fill(values[Math.max(0, at)]!, start, start + count);
      return;
    }
    const slope = (values[at + 1]! - values[at]!) / (frames[at + 1]! - frames[at]!);
    for (let i = 0; i < count; i++) block[start + i] = values[at]! + (frame + i - frames[at]!) * slope;
  }

  /** The values of `count` frames from `frame` on. */
  fillAll(block: Float64Array, start: number, frame: number, count: number): void {
    for (let done = 0; done < count;) {
      const part = Math.min(count - done, this.cornerAfter(frame + done) - frame - done);
      this.fill(block, start + done, frame + done, part);
      done += part;
    }
  }

  /** The first corner after a frame, or Infinity. */
  cornerAfter(frame: number): number {
    this.find(frame);
    return this.curve.frames[this.at + 1] ?? Infinity;
  }

  /** True if the value jumps on this frame. */
  jumpsAt(frame: number): boolean {
    const { frames, values } = this.curve;
    this.find(frame);
    const first = frames.indexOf(frame);
    return first >= 0 && first < this.at && frames[this.at] === frame && values[first] !== values[this.at];
  }

  private inPiece(frame: number): number {
    const { frames, values } = this.curve;
    const { at } = this;
    if (at < 0) return values[0]!;
    if (at === frames.length - 1) return values[at]!;
    return values[at]! + (frame - frames[at]!) * ((values[at + 1]! - values[at]!) / (frames[at + 1]! - frames[at]!));
  }

  private find(frame: number): void {
    const { frames } = this.curve;
    if (this.at >= 0 && frames[this.at]! > frame) this.at = -1;
    while (this.at + 1 < frames.length && frames[this.at + 1]! <= frame) this.at++;
  }
}

export function sameCurve(a: PlanCurve | undefined, b: PlanCurve | undefined): boolean {
  if (a === b) return true;
  return a !== undefined && b !== undefined && sameNumbers(a.frames, b.frames) && sameNumbers(a.values, b.values);
}

function sameNumbers(a: ArrayLike<number>, b: ArrayLike<number>): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}
