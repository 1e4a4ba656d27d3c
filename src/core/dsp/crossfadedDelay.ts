import { smoothstep } from '../math/smoothstep';
import type { Arena, Doubles } from '../wasm/arena';
import { Ring } from './ring';
import { LONGEST_BLOCK } from './longestBlock';

const FADE_SECONDS = 0.03;

/** Crossfade of a read from one whole-frame delay to another, over 30 ms; further changes wait for its end. */
export class CrossfadedRead {
  private readonly other: Doubles;
  private readonly fadeFrames: number;
  private now = 0;
  private next = 0;
  private wanted = 0;
  private faded = 0;

  constructor(memory: Arena, sampleRate: number) {
    this.other = memory.doubles(LONGEST_BLOCK);
    this.fadeFrames = Math.round(FADE_SECONDS * sampleRate);
  }

  /** @param frames delay that is to be, 0 and up */
  aim(frames: number): void {
    this.wanted = Math.round(frames);
  }

  /** Stands at the delay asked for. */
  reset(): void {
    this.now = this.next = this.wanted;
    this.faded = 0;
  }

  /** The least delay that is read, now or on the way. */
  get least(): number {
    return Math.min(this.now, this.next, this.wanted);
  }

  /** It reads what was written last, and goes on doing so. */
  get passes(): boolean {
    return this.now === 0 && this.next === 0 && this.wanted === 0;
  }

  /**
   * Reads rings that were written with the same blocks, each into the block of its place.
   * @param written frames of these that are written already: all, or none for delays of as many frames and more
   */
  read(rings: readonly Ring[], blocks: readonly Doubles[], frames: number, written = frames): void {
    for (let from = 0; from < frames;) {
      if (this.now === this.next && this.wanted !== this.now) {
        this.next = this.wanted;
        this.faded = 0;
      }
      const fading = this.now !== this.next;
      const count = fading ? Math.min(frames - from, this.fadeFrames - this.faded) : frames - from;
      for (let n = 0; n < rings.length; n++) {
        const block = from === 0 ? blocks[n]! : (blocks[n]!.subarray(from) as Doubles);
        this.piece(rings[n]!, block, count, written - from, fading);
      }
      from += count;
      if (!fading) continue;
      this.faded += count;
      if (this.faded === this.fadeFrames) this.now = this.next;
    }
  }

  private piece(ring: Ring, block: Doubles, count: number, written: number, fading: boolean): void {
    const { other, faded, fadeFrames } = this;
    ring.readWhole(block, this.now, count, written);
    if (!fading) return;
    ring.readWhole(other, this.next, count, written);
    for (let i = 0; i < count; i++) {
      block[i] = block[i]! + smoothstep((faded + i) / fadeFrames) * (other[i]! - block[i]!);
    }
  }
}

/** A stereo delay of whole frames, 0 and up, that crossfades to a new one, over 30 ms and one after the other. */
export class CrossfadedDelay {
  private readonly rings: readonly [Ring, Ring];
  private readonly both: [Doubles, Doubles] | [] = [];
  private readonly reading: CrossfadedRead;

  constructor(memory: Arena, sampleRate: number, longest: number) {
    this.rings = [new Ring(memory, longest + LONGEST_BLOCK), new Ring(memory, longest + LONGEST_BLOCK)];
    this.reading = new CrossfadedRead(memory, sampleRate);
  }

  /** @param frames delay that is to be */
  aim(frames: number): void {
    this.reading.aim(frames);
  }

  /** Forgets all sound and stands at the delay asked for. */
  reset(): void {
    for (const ring of this.rings) ring.clear();
    this.reading.reset();
  }

  /** Delays both blocks in place. */
  process(left: Doubles, right: Doubles, frames: number): void {
    const { rings, both } = this;
    rings[0].write(left, frames, false);
    rings[1].write(right, frames, false);
    both[0] = left;
    both[1] = right;
    this.reading.read(rings, both as [Doubles, Doubles], frames);
  }
}
