import { smoothstep } from '../math/smoothstep';
import type { Arena, Doubles } from '../wasm/arena';
import { Ring } from './ring';

const FADE_SECONDS = 0.03;
const BLOCK = 128;

/** A stereo delay of whole frames, 0 and up, that crossfades to a new one, over 30 ms and one after the other. */
export class CrossfadedDelay {
  private readonly rings: readonly [Ring, Ring];
  private readonly other: Doubles;
  private readonly fadeFrames: number;
  private now = 0;
  private next = 0;
  private wanted = 0;
  private faded = 0;

  constructor(memory: Arena, sampleRate: number, longest: number) {
    this.rings = [new Ring(memory, longest + BLOCK), new Ring(memory, longest + BLOCK)];
    this.other = memory.doubles(BLOCK);
    this.fadeFrames = Math.round(FADE_SECONDS * sampleRate);
  }

  /** @param frames delay that is to be */
  aim(frames: number): void {
    this.wanted = Math.round(frames);
  }

  /** Forgets all sound and stands at the delay asked for. */
  reset(): void {
    for (const ring of this.rings) ring.clear();
    this.now = this.next = this.wanted;
    this.faded = 0;
  }

  /** Delays both blocks in place. */
  process(left: Doubles, right: Doubles, frames: number): void {
    const { rings } = this;
    rings[0].write(left, frames, false);
    rings[1].write(right, frames, false);
    for (let from = 0; from < frames;) {
      if (this.now === this.next && this.wanted !== this.now) {
        this.next = this.wanted;
        this.faded = 0;
      }
      const fading = this.now !== this.next;
      const count = fading ? Math.min(frames - from, this.fadeFrames - this.faded) : frames - from;
      const written = frames - from;
      for (const [ring, block] of [
        [rings[0], left],
        [rings[1], right],
      ] as const) {
        this.read(ring, block.subarray(from) as Doubles, count, written, fading);
      }
      from += count;
      if (!fading) continue;
      this.faded += count;
      if (this.faded === this.fadeFrames) this.now = this.next;
    }
  }

  private read(ring: Ring, block: Doubles, count: number, written: number, fading: boolean): void {
    const { other, faded, fadeFrames } = this;
    ring.readWhole(block, this.now, count, written);
    if (!fading) return;
    ring.readWhole(other, this.next, count, written);
    for (let i = 0; i < count; i++) {
      block[i] = block[i]! + smoothstep((faded + i) / fadeFrames) * (other[i]! - block[i]!);
    }
  }
}
