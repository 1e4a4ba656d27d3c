import { smoothstep } from '../math/smoothstep';
import { powerOfTwoFrom } from '../math/powerOfTwo';
import type { Arena, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { LONGEST_BLOCK } from './longestBlock';

/** Default crossfade of a change of delay, in frames. */
const FADE_FRAMES = 256;

/** Delays a stereo signal by whole frames, so that routes of different latency meet. Changes crossfade. */
export class LatencyCompensator {
  private rings: Arena | null = null;
  private left!: Floats;
  private right!: Floats;
  private size = 0;
  private index = 0;
  /** Frames of silence at the end of its history. */
  private silentFrames = Infinity;
  private from = 0;
  private to = 0;
  /** Delay asked for, in frames; a crossfade under way is finished first. */
  private targetFrames = 0;
  private fade: number;
  private readonly wasmKernels = wasm().kernels;

  /**
   * @param memory owner of its rings
   * @param fadeFrames length of the crossfade of a change
   */
  constructor(
    private readonly memory: Arena,
    private readonly fadeFrames = FADE_FRAMES,
  ) {
    this.fade = fadeFrames;
  }

  /** Allocates if the delay is longer than any before: call it when a plan is applied, not while rendering. */
  setDelay(frames: number, fresh: boolean): void {
    // Silence needs no fade.
    const atOnce = fresh || (this.hasHistory && this.isSilent);
    if (frames > 0 && frames + LONGEST_BLOCK > this.size) this.grow(powerOfTwoFrom(frames + LONGEST_BLOCK));
    this.targetFrames = frames;
    if (!atOnce) return;
    this.from = this.to = frames;
    this.fade = this.fadeFrames;
  }

  /** Grows the rings, keeping their contents. */
  private grow(size: number): void {
    const room = this.memory.part();
    const rings = [this.left, this.right].map((old) => {
      const ring = room.floats(size);
      for (let n = 0; n < this.size; n++) ring[n] = old[(this.index + n) & (this.size - 1)]!;
      return ring;
    });
    this.rings?.free();
    this.rings = room;
    [this.left, this.right] = rings as [Floats, Floats];
    this.index = this.size;
    this.size = size;
  }

  /** Clears its history. */
  clear(): void {
    if (this.size === 0) return;
    this.left.fill(0);
    this.right.fill(0);
    this.silentFrames = Infinity;
  }

  /** Frees its memory. */
  dispose(): void {
    this.rings?.free();
    this.rings = null;
  }

  /** True once it has had a delay. */
  get hasHistory(): boolean {
    return this.size > 0;
  }

  /** True if its history is silent. */
  get isSilent(): boolean {
    return this.silentFrames >= this.size;
  }

  get delayFrames(): number {
    return this.targetFrames;
  }

  /**
   * Writes a block and reads the delayed one.
   * @param sounding false if the input counts as silence, whatever the block holds
   * @param outLeft,outRight output; may be the input
   */
  process(left: Floats, right: Floats, sounding: boolean, outLeft: Floats, outRight: Floats, frames: number): void {
    if (this.fade >= this.fadeFrames) this.startCrossfade();
    this.silentFrames = sounding ? 0 : this.silentFrames + frames;
    const { size, index } = this;
    if (size === 0) {
      this.pass(left, right, sounding, outLeft, outRight, frames);
      return;
    }
    this.wasmKernels.holdSides(
      this.left.byteOffset,
      this.right.byteOffset,
      size,
      index,
      this.to,
      sounding ? left.byteOffset : 0,
      sounding ? right.byteOffset : 0,
      outLeft.byteOffset,
      outRight.byteOffset,
      frames,
    );
    this.index = (index + frames) & (size - 1);
    if (this.fade < this.fadeFrames) this.crossfade(index, outLeft, outRight, frames);
  }

  /** Passes a block without delay. */
  private pass(
    left: Floats,
    right: Floats,
    sounding: boolean,
    outLeft: Floats,
    outRight: Floats,
    frames: number,
  ): void {
    const { wasmKernels } = this;
    if (!sounding) wasmKernels.clearSides(outLeft.byteOffset, outRight.byteOffset, frames);
    else if (left !== outLeft || right !== outRight) {
      wasmKernels.copySides(outLeft.byteOffset, outRight.byteOffset, left.byteOffset, right.byteOffset, frames);
    }
  }

  /** Crossfades from the old delay to the new one, for the block written at `index`. */
  private crossfade(index: number, outLeft: Floats, outRight: Floats, frames: number): void {
    const { left, right, fadeFrames } = this;
    const mask = this.size - 1;
    for (let i = 0; i < frames; i++) {
      if (this.fade >= fadeFrames) this.startCrossfade();
      const part = this.fade++ / fadeFrames;
      const now = (index + i - this.to) & mask;
      if (part >= 1) {
        outLeft[i] = left[now]!;
        outRight[i] = right[now]!;
        continue;
      }
      const weight = smoothstep(part);
      const old = (index + i - this.from) & mask;
      outLeft[i] = left[old]! + weight * (left[now]! - left[old]!);
      outRight[i] = right[old]! + weight * (right[now]! - right[old]!);
    }
  }

  /** Starts the crossfade to the delay asked for. */
  private startCrossfade(): void {
    if (this.targetFrames === this.to) return;
    this.from = this.to;
    this.to = this.targetFrames;
    this.fade = 0;
  }
}
