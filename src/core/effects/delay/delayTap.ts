import { Ring, SINC_AHEAD } from '../../dsp/ring';
import { exp } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';

/** Frames between two updates of everything that moves; between them delays run in straight lines. */
export const TICK = 32;
export const MAXIMUM_DELAY_SECONDS = 12;

const GLIDE_SECONDS = 0.09;
const CROSSFADE_SECONDS = 0.03;
/** Rest between two crossfades, in which the pitch is just that of the sound. */
const REST_SECONDS = 0.06;
const MINIMUM_FRAMES = 4;

/**
 * One channel of a delay line with a read point that either glides to a new time, bending pitch as tape does, or
 * crossfades to it. At rest it reads whole frames exactly; in motion it reads band-limited. A time that moves
 * steadily, as automation asks, is followed exactly: the pitch bends by its slope and nothing else.
 */
export class DelayTap {
  private readonly ring: Ring;
  private readonly target: Doubles;
  private readonly maximum: number;
  private readonly glideFactor: number;
  private readonly fadeStep: number;
  private readonly restFrames: number;
  /** The time that is asked for now, on its way by `wantedStep` a frame for `wantedFrames` more frames. */
  private wanted: number;
  private wantedStep = 0;
  private wantedFrames = 0;
  /** The time without swing at the beginning and at the end of the tick. */
  private startBase: number;
  private base: number;
  private nextBase: number;
  /** Progress of a crossfade from `base` to `nextBase`, 1 when none is running. */
  private fade = 1;
  private fadeSlope = 0;
  /** Frames until the next crossfade may begin. */
  private rest = 0;
  private from = 0;
  private fromSlope = 0;
  private to = 0;
  private toSlope = 0;

  /** @param frames delay to begin with */
  constructor(memory: Arena, sampleRate: number, frames: number) {
    this.maximum = MAXIMUM_DELAY_SECONDS * sampleRate;
    this.ring = new Ring(memory, this.maximum + TICK + MAXIMUM_BLOCK);
    this.target = memory.doubles(MAXIMUM_BLOCK);
    this.glideFactor = 1 - exp(-TICK / (GLIDE_SECONDS * sampleRate));
    this.fadeStep = TICK / (CROSSFADE_SECONDS * sampleRate);
    this.restFrames = Math.round(REST_SECONDS * sampleRate);
    this.wanted = this.startBase = this.base = this.nextBase = this.from = frames;
  }

  reset(frames: number, swing: number, shift: number): void {
    this.ring.clear();
    this.wanted = this.startBase = this.base = this.nextBase = frames;
    this.wantedFrames = 0;
    this.fade = 1;
    this.fadeSlope = 0;
    this.rest = 0;
    this.from = this.swung(frames, swing, shift);
    this.fromSlope = this.toSlope = 0;
  }

  /**
   * Asks for a time.
   * @param over frames in which to get there in a straight line, up to TICK; 0 leaves the way to the tap
   */
  aim(frames: number, over: number): void {
    if (over > 0) {
      this.wantedStep = (frames - this.wanted) / over;
      this.wantedFrames = over;
    } else {
      this.wanted = frames;
      this.wantedFrames = 0;
    }
  }

  /** True unless it follows an automated ramp. */
  get free(): boolean {
    return this.wantedFrames === 0;
  }

  /** The delay it reads at, `offset` frames into the tick. */
  frames(offset: number): number {
    return this.from + this.fromSlope * offset;
  }

  /**
   * Prepares the next TICK frames.
   * @param elapsed frames since the last call; fewer than TICK break that tick off
   * @param swing part of the delay added at the end of the tick, -1 to 1
   * @param shift frames added there
   */
  tick(elapsed: number, swing: number, shift: number, glide: boolean): void {
    const from = this.from + this.fromSlope * elapsed;
    this.fade += this.fadeSlope * elapsed;
    if (elapsed < TICK) this.base = this.startBase + ((this.base - this.startBase) * elapsed) / TICK;
    if (this.fadeSlope > 0 && this.fade >= 1 - 1e-9) {
      this.base = this.nextBase;
      this.fade = 1;
      this.fadeSlope = 0;
      this.rest = this.restFrames;
      this.from = this.to + this.toSlope * elapsed;
    } else {
      this.from = this.within(from);
    }
    const before = this.wanted;
    const moving = Math.min(TICK, this.wantedFrames);
    this.wanted += this.wantedStep * moving;
    this.wantedFrames -= moving;
    this.startBase = this.base;
    if (this.fadeSlope === 0) {
      if (glide) {
        const behind = (this.base - before) * (1 - this.glideFactor);
        this.base = this.wanted + (behind < 1e-3 && behind > -1e-3 ? 0 : behind);
      } else if (this.rest > 0) {
        this.rest -= TICK;
      } else if (this.base !== this.wanted) {
        this.nextBase = this.wanted;
        this.fade = 0;
        this.fadeSlope = this.fadeStep / TICK;
        this.to = this.swung(this.nextBase, swing, shift);
      }
    } else {
      this.to = this.within(this.to + this.toSlope * elapsed);
    }
    this.fromSlope = (this.swung(this.base, swing, shift) - this.from) / TICK;
    if (this.fadeSlope > 0) this.toSlope = (this.swung(this.nextBase, swing, shift) - this.to) / TICK;
  }

  /** True if it rests at its target time. */
  get resting(): boolean {
    return this.free && this.fadeSlope === 0 && this.fromSlope === 0 && this.base === this.wanted;
  }

  /** A shift takes no more than half of the time away. */
  private swung(base: number, swing: number, shift: number): number {
    const least = -0.5 * base;
    return this.within(base * (1 + swing) + (shift < least ? least : shift));
  }

  private within(frames: number): number {
    return Math.min(this.maximum, Math.max(MINIMUM_FRAMES, frames));
  }

  /** True if it rests on a whole number of frames. */
  private whole(frames: number): boolean {
    return this.fadeSlope === 0 && this.fromSlope === 0 && frames === Math.floor(frames);
  }

  /** Frames that can be read, `lead` frames early, from here before something must be written. */
  readable(offset: number, lead: number, holding: boolean): number {
    let nearest = Math.min(this.from + this.fromSlope * offset, this.from + this.fromSlope * TICK);
    if (this.fadeSlope > 0) nearest = Math.min(nearest, this.to + this.toSlope * offset, this.to + this.toSlope * TICK);
    const read = Math.max(MINIMUM_FRAMES, nearest - lead);
    const ahead = this.whole(read) ? read : Math.max(1, Math.floor(read) - SINC_AHEAD);
    return holding ? Math.min(ahead, this.roundFrames) : ahead;
  }

  /**
   * Reads `frames` samples, the first of them `offset` frames into the tick, `lead` frames earlier than the delay
   * says, to make up for a stage that follows.
   * @param written frames of this stretch that have been written already
   */
  read(out: Doubles, offset: number, frames: number, lead: number, written: number): void {
    const { ring, target, fromSlope, fadeSlope } = this;
    const from = this.from - lead;
    if (this.whole(from) && from >= MINIMUM_FRAMES) {
      ring.readWhole(out, from, frames, written);
      return;
    }
    ring.read(out, from, fromSlope, offset, MINIMUM_FRAMES, frames, written);
    if (fadeSlope === 0) return;
    ring.read(target, this.to - lead, this.toSlope, offset, MINIMUM_FRAMES, frames, written);
    for (let i = 0; i < frames; i++) {
      const t = this.fade + fadeSlope * (offset + i);
      const weight = t >= 1 ? 1 : smoothstep(t);
      out[i] = out[i]! + weight * (target[i]! - out[i]!);
    }
  }

  /**
   * Reads two channels; where both move alike the weights of a read serve both.
   * @param left,right channels of one line, written together
   */
  static readBoth(
    left: DelayTap,
    right: DelayTap,
    outLeft: Doubles,
    outRight: Doubles,
    offset: number,
    frames: number,
    lead: number,
    written: number,
  ): void {
    const { from, fromSlope, fadeSlope, ring } = left;
    const alike = right.from === from && right.fromSlope === fromSlope && right.fadeSlope === 0 && fadeSlope === 0;
    if (!alike || left.whole(from)) {
      left.read(outLeft, offset, frames, lead, written);
      right.read(outRight, offset, frames, lead, written);
      return;
    }
    ring.readWith(right.ring, outLeft, outRight, from - lead, fromSlope, offset, MINIMUM_FRAMES, frames, written);
  }

  private get roundFrames(): number {
    return Math.max(MINIMUM_FRAMES, Math.round(this.base));
  }

  /** Reads what was written one time ago, in whole frames and without swing: what a held loop writes again. */
  readRound(out: Doubles, frames: number): void {
    this.ring.readWhole(out, this.roundFrames, frames, 0);
  }

  /** @param guarded kept from growing on its rounds; what is held must come round unchanged */
  write(block: Doubles, frames: number, guarded: boolean): void {
    this.ring.write(block, frames, guarded);
  }
}
