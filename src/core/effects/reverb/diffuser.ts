import { NETWORK_TICK } from '../../dsp/feedbackNetwork';
import { exp } from '../../math/elementary';
import { SeededRandom } from '../../math/random';
import { powerOfTwoFrom } from '../../math/powerOfTwo';
import type { Arena, Doubles } from '../../wasm/arena';
import { wasm } from '../../wasm/module';

/** Lengths of the sections, longest reach 18 ms, far enough apart that their echoes do not meet. */
const SECTION_MS = [3.1, 5.3, 9.2, 14.7];
/** Lengths differ by up to this part from seed to seed and side to side. */
const SPREAD = 0.16;
const FADE_SECONDS = 0.06;
/** Sections that are told something are on their way for a tick, and told in the next that they have arrived. */
const TICKS_TO_ARRIVE = 2;
/** The longest that a section rings, as a part of the decay of the tail. */
const RINGING = 0.3;
const LN_1000 = 6.907755278982137;

/** One all-pass section: its echoes come at a length that crossfades. */
class Section {
  private readonly wasmKernels = wasm().kernels;
  private readonly ring: Doubles;
  private readonly mask: number;
  private at = 0;
  private gain = 0;
  private gainStep = 0;
  private goal = 0;
  length = 1;
  next = 1;

  constructor(memory: Arena, longest: number) {
    this.ring = memory.doubles(powerOfTwoFrom(longest + 1));
    this.mask = this.ring.length - 1;
  }

  clear(): void {
    this.ring.fill(0);
  }

  /** Has arrived where it was sent last, and goes on to another gain of its echoes within `frames` frames; 0 is at once. */
  aim(gain: number, frames: number): void {
    this.gain = frames === 0 ? gain : this.goal;
    this.gainStep = frames === 0 ? 0 : (gain - this.gain) / frames;
    this.goal = gain;
  }

  /**
   * @param offset frames since the last tick
   * @param fade how far it was to its next length then, and its step by frame
   */
  process(block: Doubles, frames: number, offset: number, fade: number, fadeStep: number): void {
    const { ring, mask, at, length, next, gain, gainStep } = this;
    const place = block.byteOffset;
    this.wasmKernels.passAll(
      ring.byteOffset,
      mask,
      at,
      length,
      next,
      offset,
      fade,
      fadeStep,
      gain,
      gainStep,
      place,
      frames,
    );
    this.at = (at + frames) & mask;
  }
}

/**
 * Blurs what goes into a tail: all-pass sections in series on each side (Schroeder, "Natural sounding artificial
 * reverberation", 1962). All frequencies pass at one level; separate echoes become many.
 */
export class Diffuser {
  private readonly sides: readonly (readonly Section[])[];
  private readonly fadeTicks: number;
  /** Ticks that a crossfade has gone, -1 without one. */
  private fading = -1;
  private readonly random = new SeededRandom(0);
  private seed = -1;
  private wanted = 0;
  /** Last targets of the sections, and ticks until they are reached. */
  private gain = 0;
  private decay = 0;
  private due = 0;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
  ) {
    const longest = Math.ceil(((1 + SPREAD) * Math.max(...SECTION_MS) * sampleRate) / 1000);
    this.sides = [0, 1].map(() => SECTION_MS.map(() => new Section(memory, longest)));
    this.fadeTicks = Math.ceil((FADE_SECONDS * sampleRate) / NETWORK_TICK);
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
    this.fading = -1;
    this.aimGains(gain, decay, 0);
  }

  /** A section rings no longer than a part of the tail does. */
  private aimGains(gain: number, decay: number, frames: number): void {
    this.due = gain === this.gain && decay === this.decay ? this.due - 1 : TICKS_TO_ARRIVE;
    this.gain = gain;
    this.decay = decay;
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
   * Ahead of the next tick: ends a crossfade and begins another.
   * @param gain of the echoes, 0 to 1
   * @param decay of the tail in seconds
   */
  tick(gain: number, decay: number): void {
    if (this.fading >= 0 && ++this.fading === this.fadeTicks) {
      for (const side of this.sides) for (const section of side) section.length = section.next;
      this.fading = -1;
    }
    if (this.due > 0 || gain !== this.gain || decay !== this.decay) this.aimGains(gain, decay, NETWORK_TICK);
    if (this.fading >= 0 || this.seed === this.wanted) return;
    this.draw();
    this.due = TICKS_TO_ARRIVE;
    this.fading = 0;
  }

  /** @param offset frames since the last tick */
  process(left: Doubles, right: Doubles, frames: number, offset: number): void {
    const { sides, fading, fadeTicks } = this;
    const fade = fading / fadeTicks;
    const fadeStep = fading < 0 ? 0 : 1 / (fadeTicks * NETWORK_TICK);
    for (let n = 0; n < SECTION_MS.length; n++) {
      sides[0]![n]!.process(left, frames, offset, fade, fadeStep);
      sides[1]![n]!.process(right, frames, offset, fade, fadeStep);
    }
  }
}
