import { DelayLine } from '../dsp/delayLine';

const FADE_FRAMES = 256;

/** Holds a stereo signal back by whole frames, so that paths of different latency meet; changes crossfade. */
export class Compensation {
  private left = new DelayLine(1);
  private right = new DelayLine(1);
  private capacity = 0;
  private from = 0;
  private to = 0;
  private fade = FADE_FRAMES;

  /** Allocates when the delay is longer than any before: to be called when a plan arrives, not while rendering. */
  setDelay(frames: number, fresh: boolean): void {
    if (frames > this.capacity) {
      this.left = new DelayLine(frames + 1);
      this.right = new DelayLine(frames + 1);
      this.capacity = frames;
    }
    if (frames === this.to && !fresh) return;
    this.from = fresh ? frames : this.to;
    this.to = frames;
    this.fade = fresh ? FADE_FRAMES : 0;
  }

  /** Whether it holds nothing back and never did. */
  get idle(): boolean {
    return this.capacity === 0;
  }

  get delay(): number {
    return this.to;
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    if (this.to === 0 && this.fade >= FADE_FRAMES) {
      if (this.capacity > 0) {
        for (let i = 0; i < frames; i++) {
          this.left.write(left[i]!);
          this.right.write(right[i]!);
        }
      }
      return;
    }
    if (this.fade >= FADE_FRAMES) {
      hold(this.left, left, this.to, frames);
      hold(this.right, right, this.to, frames);
      return;
    }
    for (let i = 0; i < frames; i++) {
      this.left.write(left[i]!);
      this.right.write(right[i]!);
      const l = this.left.readInteger(this.to + 1);
      const r = this.right.readInteger(this.to + 1);
      if (this.fade < FADE_FRAMES) {
        const weight = this.fade / FADE_FRAMES;
        this.fade++;
        const oldLeft = this.left.readInteger(this.from + 1);
        const oldRight = this.right.readInteger(this.from + 1);
        left[i] = oldLeft + weight * (l - oldLeft);
        right[i] = oldRight + weight * (r - oldRight);
      } else {
        left[i] = l;
        right[i] = r;
      }
    }
  }
}

/** A block through a line that stands still. */
function hold(line: DelayLine, block: Float32Array, delay: number, frames: number): void {
  const { buffer, mask } = line;
  let write = line.writeIndex;
  for (let i = 0; i < frames; i++) {
    buffer[write] = block[i]!;
    block[i] = buffer[(write - delay) & mask]!;
    write = (write + 1) & mask;
  }
  line.writeIndex = write;
}
