import { powerOfTwoFrom } from '../math/powerOfTwo';
import type { Arena, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';

const FADE_FRAMES = 256;
const LONGEST_BLOCK = 128;

/** Holds a stereo signal back by whole frames, so that paths of different latency meet; changes crossfade. */
export class Compensation {
  private room: Arena | null = null;
  private left!: Floats;
  private right!: Floats;
  private size = 0;
  private index = 0;
  /** Frames of silence that went in last. */
  private quiet = Infinity;
  private from = 0;
  private to = 0;
  private fade = FADE_FRAMES;
  private readonly loops = wasm().loops;

  /** @param memory that its rings are part of */
  constructor(private readonly memory: Arena) {}

  /** Allocates when the delay is longer than any before: to be called when a plan arrives, not while rendering. */
  setDelay(frames: number, fresh: boolean): void {
    if (frames > 0 && frames + LONGEST_BLOCK > this.size) this.grow(powerOfTwoFrom(frames + LONGEST_BLOCK));
    if (frames === this.to && !fresh) return;
    this.from = fresh ? frames : this.to;
    this.to = frames;
    this.fade = fresh ? FADE_FRAMES : 0;
  }

  /** Takes longer rings, with what is in the old ones. */
  private grow(size: number): void {
    const room = this.memory.part();
    const rings = [this.left, this.right].map((old) => {
      const ring = room.floats(size);
      for (let n = 0; n < this.size; n++) ring[n] = old[(this.index + n) & (this.size - 1)]!;
      return ring;
    });
    this.room?.free();
    this.room = room;
    [this.left, this.right] = rings as [Floats, Floats];
    this.index = this.size;
    this.size = size;
  }

  /** Forgets what it holds. */
  clear(): void {
    if (this.size === 0) return;
    this.left.fill(0);
    this.right.fill(0);
    this.quiet = Infinity;
  }

  /** Gives its memory back. */
  dispose(): void {
    this.room?.free();
    this.room = null;
  }

  /** Whether it holds anything back, or did. */
  get holds(): boolean {
    return this.size > 0;
  }

  /** Whether nothing but silence is left in it. */
  get empty(): boolean {
    return this.quiet >= this.size;
  }

  get delay(): number {
    return this.to;
  }

  /**
   * Takes a block in and gives out one of before.
   * @param sounding false when silence goes in, whatever the block holds
   * @param outLeft,outRight what comes out; they may be what goes in
   */
  process(left: Floats, right: Floats, sounding: boolean, outLeft: Floats, outRight: Floats, frames: number): void {
    this.quiet = sounding ? 0 : this.quiet + frames;
    this.hold(this.left, sounding ? left : null, outLeft, frames);
    this.hold(this.right, sounding ? right : null, outRight, frames);
    const { index } = this;
    if (this.size > 0) this.index = (index + frames) & (this.size - 1);
    if (this.fade < FADE_FRAMES) this.crossfade(index, outLeft, outRight, frames);
  }

  private hold(ring: Floats, block: Floats | null, out: Floats, frames: number): void {
    const { size, index, to } = this;
    if (size > 0) {
      this.loops.holdFloats(ring.byteOffset, size, index, to, block?.byteOffset ?? 0, out.byteOffset, frames);
    } else if (!block) {
      out.fill(0, 0, frames);
    } else if (block !== out) {
      out.set(block);
    }
  }

  /** From one delay to another, over what has been written from `index` on. */
  private crossfade(index: number, outLeft: Floats, outRight: Floats, frames: number): void {
    const { left, right, from, to } = this;
    if (this.size === 0) return;
    const mask = this.size - 1;
    for (let i = 0; i < frames; i++) {
      const weight = Math.min(1, this.fade++ / FADE_FRAMES);
      const old = (index + i - from) & mask;
      const now = (index + i - to) & mask;
      outLeft[i] = left[old]! + weight * (left[now]! - left[old]!);
      outRight[i] = right[old]! + weight * (right[now]! - right[old]!);
    }
  }
}
