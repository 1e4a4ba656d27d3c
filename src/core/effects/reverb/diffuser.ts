import { exp } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import { SeededRandom } from '../../math/random';
import { powerOfTwoFrom } from '../../math/powerOfTwo';

/** Lengths of the sections, longest reach 18 ms, far enough apart that their echoes do not meet. */
const SECTION_MS = [3.1, 5.3, 9.2, 14.7];
/** Lengths differ by up to this part from seed to seed and side to side. */
const SPREAD = 0.16;
const FADE_SECONDS = 0.06;
/** The longest that a section rings, as a part of the decay of the tail. */
const RINGING = 0.3;
const LN_1000 = 6.907755278982137;

/** One all-pass section: its echoes come at a length that crossfades. */
class Section {
  private readonly ring: Float64Array;
  private readonly mask: number;
  private at = 0;
  private gain = 0;
  private gainStep = 0;
  length = 1;
  next = 1;

  constructor(longest: number) {
    this.ring = new Float64Array(powerOfTwoFrom(longest + 1));
    this.mask = this.ring.length - 1;
  }

  clear(): void {
    this.ring.fill(0);
  }

  /** Goes on to another gain of its echoes within a tick. */
  aim(gain: number, frames: number): void {
    if (frames === 0) this.gain = gain;
    this.gainStep = frames === 0 ? 0 : (gain - this.gain) / frames;
  }

  /** @param fade how far it is to its next length, and its step by frame */
  process(block: Float64Array, frames: number, fade: number, fadeStep: number): void {
    const { ring, mask, length, next, gainStep } = this;
    let { at, gain } = this;
    for (let i = 0; i < frames; i++) {
      let late = ring[(at - length) & mask]!;
      if (fade > 0) late += smoothstep(fade) * (ring[(at - next) & mask]! - late);
      const x = block[i]! + gain * late;
      ring[at] = x + 1e-20 - 1e-20;
      block[i] = late - gain * x;
      at = (at + 1) & mask;
      gain += gainStep;
      if (fade > 0) fade += fadeStep;
    }
    this.at = at;
    this.gain = gain;
  }
}

/**
 * Blurs what goes into a tail: all-pass sections in series on each side (Schroeder, "Natural sounding artificial
 * reverberation", 1962). All frequencies pass at one level; separate echoes become many.
 */
export class Diffuser {
  private readonly sides: readonly (readonly Section[])[];
  private readonly fadeStep: number;
  private fade = 0;
  private readonly random = new SeededRandom(0);
  private seed = -1;
  private wanted = 0;

  constructor(private readonly sampleRate: number) {
    const longest = Math.ceil(((1 + SPREAD) * Math.max(...SECTION_MS) * sampleRate) / 1000);
    this.sides = [0, 1].map(() => SECTION_MS.map(() => new Section(longest)));
    this.fadeStep = 1 / (FADE_SECONDS * sampleRate);
  }

  /** @param seed which of many sets of lengths is to be */
  aim(seed: number): void {
    this.wanted = seed;
  }

  /** Forgets all sound; `gain` and `decay` as in `tick`. */
  reset(gain: number, decay: number): void {
    this.draw();
    for (const side of this.sides) {
      for (const section of side) {
        section.clear();
        section.length = section.next;
      }
    }
    this.fade = 0;
    this.aimGains(gain, decay, 0);
  }

  /** A section rings no longer than a part of the tail does. */
  private aimGains(gain: number, decay: number, frames: number): void {
    for (const side of this.sides) {
      for (const section of side) {
        const most = exp((-LN_1000 * section.next) / (this.sampleRate * RINGING * decay));
        section.aim(Math.min(gain, most), frames);
      }
    }
  }

  private draw(): void {
    this.seed = this.wanted;
    this.random.reseed(7919 * (this.wanted + 1));
    for (const side of this.sides) {
      for (let n = 0; n < side.length; n++) {
        const ms = SECTION_MS[n]! * (1 + SPREAD * this.random.bipolar());
        side[n]!.next = Math.round((ms * this.sampleRate) / 1000);
      }
    }
  }

  /**
   * Ahead of the next `frames` frames, always as many: ends a crossfade and begins another.
   * @param gain of the echoes, 0 to 1
   * @param decay of the tail in seconds
   */
  tick(gain: number, decay: number, frames: number): void {
    if (this.fade >= 1) {
      for (const side of this.sides) for (const section of side) section.length = section.next;
      this.fade = 0;
    }
    this.aimGains(gain, decay, frames);
    if (this.fade > 0 || this.seed === this.wanted) return;
    this.draw();
    this.fade = this.fadeStep;
  }

  process(left: Float64Array, right: Float64Array, frames: number): void {
    const { sides, fade, fadeStep } = this;
    for (let n = 0; n < SECTION_MS.length; n++) {
      sides[0]![n]!.process(left, frames, fade, fadeStep);
      sides[1]![n]!.process(right, frames, fade, fadeStep);
    }
    if (fade > 0) this.fade = fade + fadeStep * frames;
  }
}
