import { NETWORK_TICK } from '../../dsp/feedbackNetwork';
import { settled } from '../../math/settled';
import { smoothstep } from '../../math/smoothstep';
import { TWO_PI } from '../../math/circle';
import { exp } from '../../math/elementary';
import type { Arena, Doubles, Floats, Integers } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MOST_REFLECTIONS, ORDERS, reflect, reflectionsUpTo, type Place, type Reflection, type Room } from './rooms';

const LONGEST_SECONDS = 0.7;
const FADE_SECONDS = 0.06;
/** Frequency in Hz above which a wall absorbs highs. */
const DULL_HZ = 2500;
/** Words of 32 bits that make a tap: delay, gains of left and right, and one that is free. */
const TAP = 4;
/** Reflections that have met this many walls or more are dulled alike. */
const LAYERS = 3;
const SUM_LENGTH = NETWORK_TICK + 16;
/** A sound of one side alone comes from walls of the other side at this part. */
const ACROSS = 0.3;

/** Positions of source and listener in a room. */
export interface Setting {
  room: Room;
  size: number;
  readonly source: { -readonly [K in keyof Place]: Place[K] };
  readonly listener: { -readonly [K in keyof Place]: Place[K] };
  /** Reflections up to how many walls. */
  order: number;
}

/** One pattern of taps: for each layer those that hear the left source, then those that hear the right one. */
class Pattern {
  readonly words: Integers;
  private readonly gains: Float32Array;
  /** First tap of each layer and source, and the end. */
  readonly starts = new Int32Array(2 * LAYERS + 1);
  dull = 0;

  constructor(memory: Arena) {
    this.words = memory.integers(TAP * MOST_REFLECTIONS);
    this.gains = new Float32Array(this.words.buffer, this.words.byteOffset, this.words.length);
  }

  /** Takes up reflections at a power of 1 on either side. */
  take(reflections: readonly Reflection[], longest: number, sampleRate: number, dull: number): void {
    const { words, gains, starts } = this;
    let power = 0;
    for (const { gain } of reflections) power += gain * gain;
    const level = power > 0 ? Math.sqrt(2 / power) : 0;
    this.dull = dull;
    let tap = 0;
    for (let layer = 0; layer < LAYERS; layer++) {
      for (let right = 0; right < 2; right++) {
        starts[2 * layer + right] = tap;
        for (let n = 0; n < reflections.length; n++) {
          const { seconds, gain, side } = reflections[n]!;
          const delay = Math.round(seconds * sampleRate);
          if (Math.min(LAYERS, ORDERS[n]!) - 1 !== layer || side > 0 !== (right === 1) || delay > longest || gain === 0)
            continue;
          words[TAP * tap] = delay;
          gains[TAP * tap + 1] = level * gain * Math.sqrt((1 - side) / 2);
          gains[TAP * tap + 2] = level * gain * Math.sqrt((1 + side) / 2);
          tap++;
        }
      }
    }
    starts[2 * LAYERS] = tap;
  }
}

/**
 * Early reflections of a box as taps of a delay line, dulled a little more by each wall. Another room, size or place
 * crossfades from the old pattern to the new.
 */
export class EarlyReflections {
  private readonly wasmKernels = wasm().kernels;
  private readonly longest: number;
  private readonly size: number;
  /** The sound as heard from the left and from the right. */
  private readonly rings: readonly [Floats, Floats];
  /** Sums of each layer, both sides, with padding that the WebAssembly kernels overwrite. */
  private readonly sums: Floats;
  private readonly otherLeft: Doubles;
  private readonly otherRight: Doubles;
  private patterns: [Pattern, Pattern];
  private readonly reflections: Reflection[];
  private readonly lists: readonly Reflection[][];
  private readonly states: readonly [Doubles, Doubles];
  private readonly share: number;
  private readonly fadeTicks: number;
  /** Ticks that a crossfade has gone, -1 without one. */
  private fading = -1;
  private at = 0;
  private written = false;
  private stale = true;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    readonly setting: Setting,
  ) {
    this.longest = Math.ceil(LONGEST_SECONDS * sampleRate);
    this.size = this.longest + NETWORK_TICK + 1;
    const ring = () => memory.floats(this.size + NETWORK_TICK + 16);
    this.rings = [ring(), ring()];
    this.sums = memory.floats(2 * LAYERS * SUM_LENGTH);
    this.otherLeft = memory.doubles(NETWORK_TICK);
    this.otherRight = memory.doubles(NETWORK_TICK);
    this.patterns = [new Pattern(memory), new Pattern(memory)];
    this.reflections = Array.from({ length: MOST_REFLECTIONS }, () => ({ seconds: 0, gain: 0, side: 0 }));
    this.lists = Array.from({ length: 5 }, (_, order) => this.reflections.slice(0, reflectionsUpTo(order)));
    this.states = [memory.doubles(2 * LAYERS), memory.doubles(2 * LAYERS)];
    this.share = 1 - exp((-TWO_PI * DULL_HZ) / sampleRate);
    this.fadeTicks = Math.ceil((FADE_SECONDS * sampleRate) / NETWORK_TICK);
  }

  /** The setting has changed. */
  retune(): void {
    this.stale = true;
  }

  reset(): void {
    if (this.written) for (const ring of this.rings) ring.fill(0);
    this.written = false;
    for (const state of this.states) state.fill(0);
    this.fading = -1;
    this.draw(this.patterns[0]);
  }

  private draw(pattern: Pattern): void {
    const { room, size, source, listener, order } = this.setting;
    const list = this.lists[order]!;
    reflect(room, size, source, listener, list);
    pattern.take(list, this.longest, this.sampleRate, room.dull);
    this.stale = false;
  }

  /** Ahead of the next tick: ends a crossfade, and begins another where the setting has changed. */
  tick(): void {
    const { patterns } = this;
    for (const state of this.states) {
      for (let n = 0; n < state.length; n++) state[n] = settled(state[n]!);
    }
    if (this.fading >= 0 && ++this.fading === this.fadeTicks) {
      this.patterns = [patterns[1], patterns[0]];
      this.states[0].set(this.states[1]);
      this.fading = -1;
    }
    if (this.fading >= 0 || !this.stale) return;
    this.draw(this.patterns[1]);
    this.states[1].set(this.states[0]);
    this.fading = 0;
  }

  /**
   * The reflections of a stretch.
   * @param out both sides, written over
   * @param offset frames since the last tick
   */
  process(left: Doubles, right: Doubles, outLeft: Doubles, outRight: Doubles, frames: number, offset: number): void {
    this.write(left, right, frames);
    this.sumUp(this.patterns[0], this.states[0], outLeft, outRight, frames);
    if (this.fading < 0) return;
    const { otherLeft, otherRight } = this;
    this.sumUp(this.patterns[1], this.states[1], otherLeft, otherRight, frames);
    const all = this.fadeTicks * NETWORK_TICK;
    for (let i = 0; i < frames; i++) {
      const share = smoothstep((this.fading * NETWORK_TICK + offset + i) / all);
      outLeft[i] = outLeft[i]! + share * (otherLeft[i]! - outLeft[i]!);
      outRight[i] = outRight[i]! + share * (otherRight[i]! - outRight[i]!);
    }
  }

  private write(left: Doubles, right: Doubles, frames: number): void {
    const [near, far] = this.rings;
    this.wasmKernels.feedSides(
      near.byteOffset,
      far.byteOffset,
      this.size,
      this.at,
      NETWORK_TICK + 16,
      ACROSS,
      left.byteOffset,
      right.byteOffset,
      frames,
    );
    this.written = true;
    this.at = (this.at + frames) % this.size;
  }

  /** The sum of all taps of a pattern. */
  private sumUp(pattern: Pattern, states: Doubles, left: Doubles, right: Doubles, frames: number): void {
    const { sums, rings, size, share, wasmKernels } = this;
    const first = this.at - frames < 0 ? this.at - frames + size : this.at - frames;
    const bytes = 4 * SUM_LENGTH;
    sums.fill(0);
    for (let layer = 0; layer < LAYERS; layer++) {
      const sum = sums.byteOffset + 2 * layer * bytes;
      for (let side = 0; side < 2; side++) {
        const start = pattern.starts[2 * layer + side]!;
        const count = pattern.starts[2 * layer + side + 1]! - start;
        const words = pattern.words.byteOffset + 4 * TAP * start;
        wasmKernels.addTaps(rings[side as 0 | 1].byteOffset, size, first, words, count, sum, sum + bytes, frames);
      }
    }
    wasmKernels.dullLayers(
      states.byteOffset,
      share,
      pattern.dull,
      sums.byteOffset,
      bytes,
      left.byteOffset,
      right.byteOffset,
      frames,
    );
  }
}
