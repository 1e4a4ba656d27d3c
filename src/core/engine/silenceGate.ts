import { MAXIMUM_BLOCK, type Kernel } from '../effects/kernel';
import type { Arena, Floats } from '../wasm/arena';

/** Frames of silence between two checks of an effect's tail. */
const CHECK_FRAMES = 8192;
/** Twice a tail is 180 dB; filters and ramps take this much longer. */
const SETTLE_SECONDS = 0.05;

/** An effect that can be suspended. Positions are session frames. */
export interface Suspendable {
  processAwake(left: Floats, right: Floats, frames: number, position: number, moving: boolean): void;
  skipSilence(frames: number, position: number, moving: boolean): void;
  suspend(): void;
  wake(position: number, moving: boolean): void;
}

/**
 * Suspends an effect while its input and its tail are silent. It falls asleep and wakes on the same frame however the sound
 * is cut into blocks.
 */
export class SilenceGate {
  /** Frames of silence at the input so far. */
  private silentFrames = 0;
  private asleep = false;
  private readonly left: Floats;
  private readonly right: Floats;

  constructor(
    memory: Arena,
    private readonly kernel: Kernel,
    private readonly sampleRate: number,
  ) {
    this.left = memory.floats(MAXIMUM_BLOCK);
    this.right = memory.floats(MAXIMUM_BLOCK);
  }

  /** True if it stays asleep through `frames` frames of silence, with no check due. */
  staysAsleep(frames: number): boolean {
    return (
      this.asleep && this.kernel.canSleep !== undefined && (this.silentFrames % CHECK_FRAMES) + frames < CHECK_FRAMES
    );
  }

  /** @param listens true if the effect has a side chain or plays notes, which keeps it awake */
  process(
    effect: Suspendable,
    left: Floats,
    right: Floats,
    frames: number,
    position: number,
    moving: boolean,
    listens: boolean,
  ): void {
    const restless = listens || this.kernel.canSleep === undefined;
    if (restless && !this.asleep) {
      effect.processAwake(left, right, frames, position, moving);
      return;
    }
    for (let at = 0; at < frames;) {
      const place = moving ? position + at : position;
      const silent = silentFrom(left, right, at, frames);
      if (this.asleep && (silent === 0 || restless)) this.wake(effect, place, moving);
      const untilCheck = CHECK_FRAMES - (this.silentFrames % CHECK_FRAMES);
      const checks = silent >= untilCheck;
      const count = checks ? untilCheck : this.asleep ? silent : frames - at;
      const quiet = silent >= count ? this.silentFrames + count : silentAtEnd(left, right, at + count);
      if (this.asleep) effect.skipSilence(count, place, moving);
      else if (count === frames) effect.processAwake(left, right, frames, place, moving);
      else this.processPart(effect, left, right, at, count, place, moving);
      this.silentFrames = quiet;
      at += count;
      if (!checks || restless) continue;
      const rested = this.isTailOver;
      if (this.asleep && !rested) this.wake(effect, moving ? position + at : position, moving);
      if (!this.asleep && rested) effect.suspend();
      this.asleep = rested;
    }
  }

  /** True if the tail is over. Checked now and then, since parameters may change while the effect sleeps. */
  private get isTailOver(): boolean {
    const { kernel, silentFrames, sampleRate } = this;
    if (!kernel.canSleep) return false;
    return silentFrames >= (2 * kernel.tailSeconds() + SETTLE_SECONDS) * sampleRate + kernel.latencyFrames;
  }

  private wake(effect: Suspendable, position: number, moving: boolean): void {
    this.asleep = false;
    effect.wake(position, moving);
  }

  private processPart(
    effect: Suspendable,
    left: Floats,
    right: Floats,
    at: number,
    count: number,
    place: number,
    moving: boolean,
  ): void {
    for (let i = 0; i < count; i++) {
      this.left[i] = left[at + i]!;
      this.right[i] = right[at + i]!;
    }
    effect.processAwake(this.left, this.right, count, place, moving);
    for (let i = 0; i < count; i++) {
      left[at + i] = this.left[i]!;
      right[at + i] = this.right[i]!;
    }
  }
}

/** Frames of silence from `at` on. */
function silentFrom(left: Float32Array, right: Float32Array, at: number, frames: number): number {
  let i = at;
  while (i < frames && left[i] === 0 && right[i] === 0) i++;
  return i - at;
}

/** Frames of silence before `end`. */
function silentAtEnd(left: Float32Array, right: Float32Array, end: number): number {
  let i = end;
  while (i > 0 && left[i - 1] === 0 && right[i - 1] === 0) i--;
  return end - i;
}
