import { readSincAt, SINC_AHEAD, DelayLine } from '../../dsp/delayLine';
import { exp } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';

/** Frames between two updates of everything that moves; between them delays run in straight lines. */
export const TICK = 32;
export const MAXIMUM_DELAY_SECONDS = 12;

const GLIDE_SECONDS = 0.09;
const CROSSFADE_SECONDS = 0.03;
const MINIMUM_FRAMES = SINC_AHEAD + 1;

/**
 * One channel of a delay line with a read point that either glides to a new time, bending pitch as tape does, or
 * crossfades to it. At rest it reads whole frames exactly; in motion it reads by windowed sinc.
 */
export class DelayTap {
  private readonly line: DelayLine;
  private readonly maximum: number;
  private readonly glideFactor: number;
  private readonly fadeStep: number;
  private base: number;
  private nextBase: number;
  /** Progress of a crossfade from `base` to `nextBase`, 1 when none is running. */
  private fade = 1;
  private fadeSlope = 0;
  private from = 0;
  private fromSlope = 0;
  private to = 0;
  private toSlope = 0;

  /** @param frames delay to begin with */
  constructor(sampleRate: number, frames: number) {
    this.maximum = MAXIMUM_DELAY_SECONDS * sampleRate;
    this.line = new DelayLine(this.maximum + TICK);
    this.glideFactor = 1 - exp(-TICK / (GLIDE_SECONDS * sampleRate));
    this.fadeStep = TICK / (CROSSFADE_SECONDS * sampleRate);
    this.base = this.nextBase = this.from = frames;
  }

  reset(frames: number, swing: number): void {
    this.line.clear();
    this.base = this.nextBase = frames;
    this.fade = 1;
    this.fadeSlope = 0;
    this.from = this.within(frames * (1 + swing));
    this.fromSlope = this.toSlope = 0;
  }

  /**
   * Prepares the next TICK frames.
   * @param frames wanted delay
   * @param swing part of the delay added at the end of the tick, -1 to 1
   */
  tick(frames: number, swing: number, glide: boolean): void {
    const from = this.from + this.fromSlope * TICK;
    this.fade += this.fadeSlope * TICK;
    if (this.fadeSlope > 0 && this.fade >= 1 - 1e-9) {
      this.base = this.nextBase;
      this.fade = 1;
      this.fadeSlope = 0;
      this.from = this.to + this.toSlope * TICK;
    } else {
      this.from = this.within(from);
    }
    if (this.fadeSlope === 0) {
      if (this.base !== frames) {
        if (glide) {
          const moved = this.base + (frames - this.base) * this.glideFactor;
          this.base = Math.abs(frames - moved) < 1e-3 ? frames : moved;
        } else {
          this.nextBase = frames;
          this.fade = 0;
          this.fadeSlope = this.fadeStep / TICK;
          this.to = this.within(frames * (1 + swing));
        }
      }
    } else {
      this.to = this.within(this.to + this.toSlope * TICK);
    }
    this.fromSlope = (this.within(this.base * (1 + swing)) - this.from) / TICK;
    if (this.fadeSlope > 0) this.toSlope = (this.within(this.nextBase * (1 + swing)) - this.to) / TICK;
  }

  /** Whether it stands still at the wanted delay. */
  restsAt(frames: number): boolean {
    return this.fadeSlope === 0 && this.fromSlope === 0 && this.base === frames;
  }

  private within(frames: number): number {
    return Math.min(this.maximum, Math.max(MINIMUM_FRAMES, frames));
  }

  /** Frames that can be read, `lead` frames early, from here before something must be written. */
  readable(offset: number, lead: number): number {
    let nearest = Math.min(this.from + this.fromSlope * offset, this.from + this.fromSlope * TICK);
    if (this.fadeSlope > 0) nearest = Math.min(nearest, this.to + this.toSlope * offset, this.to + this.toSlope * TICK);
    return Math.floor(Math.max(MINIMUM_FRAMES, nearest - lead)) - SINC_AHEAD;
  }

  /**
   * Reads `frames` samples, the first of them `offset` frames into the tick, `lead` frames earlier than the delay
   * says, to make up for a stage that follows.
   */
  read(out: Float64Array, offset: number, frames: number, lead: number): void {
    const { buffer, mask, writeIndex } = this.line;
    const { fromSlope, fadeSlope } = this;
    const from = this.from - lead;
    if (fadeSlope === 0 && fromSlope === 0 && from === Math.floor(from) && from >= MINIMUM_FRAMES) {
      const start = (writeIndex - from) | 0;
      for (let i = 0; i < frames; i++) out[i] = buffer[(start + i) & mask]!;
      return;
    }
    for (let i = 0; i < frames; i++) {
      const delay = from + fromSlope * (offset + i);
      out[i] = readSincAt(buffer, mask, writeIndex + i, delay < MINIMUM_FRAMES ? MINIMUM_FRAMES : delay);
    }
    if (fadeSlope === 0) return;
    for (let i = 0; i < frames; i++) {
      const t = this.fade + fadeSlope * (offset + i);
      const weight = t >= 1 ? 1 : smoothstep(t);
      const delay = this.to - lead + this.toSlope * (offset + i);
      const target = readSincAt(buffer, mask, writeIndex + i, delay < MINIMUM_FRAMES ? MINIMUM_FRAMES : delay);
      out[i] = out[i]! + weight * (target - out[i]!);
    }
  }

  write(block: Float64Array, frames: number): void {
    const { buffer, mask } = this.line;
    let index = this.line.writeIndex;
    for (let i = 0; i < frames; i++) {
      buffer[index] = block[i]! + 1e-20 - 1e-20;
      index = (index + 1) & mask;
    }
    this.line.writeIndex = index;
  }
}
