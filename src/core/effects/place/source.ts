import { encodeDirection, fieldChannels, HIGHEST_ORDER } from '../../dsp/ambisonics';
import { Ring, SINC_NEAREST } from '../../dsp/ring';
import {
  earDelaySeconds,
  PINNA,
  pinnaDelay,
  RADIUS_SECONDS,
  SHADOW_HZ,
  shadowAlpha,
  shadowDelaySeconds,
  SHOULDER_LEVEL,
  shoulderDelay,
} from '../../dsp/sphericalHead';
import { between } from '../../math/between';
import { EIGHTH_TURN } from '../../math/circle';
import { atan2, cos, pow, sin, tan } from '../../math/elementary';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';
import type { Spot } from './motion';

/** The longest echo of ears and shoulders. */
const ECHO_SECONDS = 0.0013;
const ECHOES = PINNA.length + 1;
const LEVELS = [...PINNA.map(({ level }) => level), SHOULDER_LEVEL];

/** Figures that go in a straight line from tick to tick. */
class Lines {
  readonly now: Float64Array;
  readonly step: Float64Array;

  constructor(count: number) {
    this.now = new Float64Array(count);
    this.step = new Float64Array(count);
  }

  /** Goes on from the last tick, and sets out for what it is to be at the next. */
  aim(n: number, elapsed: number, target: number, ticks: number): void {
    const from = elapsed === 0 ? target : this.now[n]! + this.step[n]! * elapsed;
    this.now[n] = from;
    this.step[n] = (target - from) / ticks;
  }
}

/** Seconds by which an echo of ears or shoulders is late. */
const echoDelay = (n: number, lateral: number, elevation: number): number =>
  n < PINNA.length ? pinnaDelay(PINNA[n]!, lateral, elevation) : shoulderDelay(elevation);

/** Direction and rendering of a source. */
export interface Listening {
  /** Power of the quarter sine of the pan law: 1 for -3 dB, 2 for -6 dB. */
  readonly law: number;
  /** 0 to 1. */
  readonly ears: number;
  /** Frames that it is late by on the way. */
  readonly lateFrames: number;
  /** Its part of a sound field is asked for. */
  readonly field: boolean;
}

const [LEFT, RIGHT] = [0, 1];

const panLevel = (level: number, law: number): number => (level <= 1e-9 ? 0 : pow(level, law));

/** One point that sounds from one direction: for two speakers, around a head, or as a part of a sound field. */
export class Source {
  /** Frames by which everything comes out later, as band-limited reads take it. */
  readonly latencyFrames = SINC_NEAREST;
  /** Frames by which the middle of a head is later than that, so that an ear can be earlier and nothing is lost. */
  private readonly headFrames: number;
  private readonly ring: Ring;
  private readonly longest: number;
  private readonly read: Doubles;
  private readonly shadowing: number;
  /** Direction it is on its way to, and frames that it is late by there. */
  private toRight = 0;
  private ahead = 1;
  private up = 0;
  private lateness = 0;
  /** States of the shadows at both ears. */
  private readonly shadows = new Float64Array(2);
  private readonly speakers = new Lines(2);
  private readonly alphas = new Lines(2);
  private readonly delays = new Lines(2);
  private readonly late = new Lines(1);
  private readonly echoes = new Lines(ECHOES);
  private readonly earLevel = new Lines(1);
  private readonly field = new Lines(fieldChannels(HIGHEST_ORDER));
  private readonly direction = new Float64Array(fieldChannels(HIGHEST_ORDER));
  /** The newest frames before the block, then the block. */
  private readonly recent: Float64Array;
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);
  private readonly kept: number;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    longestSeconds: number,
  ) {
    this.headFrames = Math.ceil(RADIUS_SECONDS * sampleRate) + 1;
    this.longest = Math.ceil(longestSeconds * sampleRate) + this.latencyFrames;
    this.ring = new Ring(memory, this.longest + 3 * this.headFrames + MAXIMUM_BLOCK);
    this.read = memory.doubles(MAXIMUM_BLOCK + 4);
    const g = tan((Math.PI * SHADOW_HZ) / sampleRate);
    this.shadowing = g / (1 + g);
    this.kept = Math.ceil(ECHO_SECONDS * sampleRate) + 2;
    this.recent = new Float64Array(this.kept + MAXIMUM_BLOCK);
  }

  reset(): void {
    this.ring.clear();
    this.shadows.fill(0);
    this.recent.fill(0);
  }

  /**
   * Speakers and a head are both heard from now on; until the next tick each stands still.
   * @param had whether a head was heard before, or speakers
   */
  beginBoth(listening: Listening, had: 'open' | 'head'): void {
    if (had === 'head') this.aimOpen(listening, 0, 1);
    else {
      this.shadows.fill(0);
      this.aimHead(listening, 0, 1);
    }
  }

  /**
   * Sets out for where it is to be at the next tick.
   * @param open,head what is heard of it: by speakers, or in a field; around a head
   * @param elapsed frames since the last tick; 0 begins anew
   */
  aim(spot: Spot, listening: Listening, open: boolean, head: boolean, elapsed: number, ticks: number): void {
    const { x, y, z } = spot;
    const far = Math.sqrt(x * x + y * y + z * z);
    this.toRight = far > 0 ? x / far : 0;
    this.ahead = far > 0 ? y / far : 1;
    this.up = far > 0 ? z / far : 0;
    this.lateness = Math.min(listening.lateFrames, this.longest - this.latencyFrames) + this.latencyFrames;
    if (open) this.aimOpen(listening, elapsed, ticks);
    if (head) this.aimHead(listening, elapsed, ticks);
  }

  private aimOpen(listening: Listening, elapsed: number, ticks: number): void {
    const { toRight, ahead, up } = this;
    const pan = EIGHTH_TURN * (1 + toRight);
    this.speakers.aim(LEFT, elapsed, panLevel(cos(pan), listening.law), ticks);
    this.speakers.aim(RIGHT, elapsed, panLevel(sin(pan), listening.law), ticks);
    this.late.aim(0, elapsed, this.lateness, ticks);
    if (!listening.field) return;
    encodeDirection(this.direction, ahead, -toRight, up);
    for (let n = 0; n < this.direction.length; n++) this.field.aim(n, elapsed, this.direction[n]!, ticks);
  }

  private aimHead(listening: Listening, elapsed: number, ticks: number): void {
    const { toRight, ahead, up, lateness } = this;
    for (const ear of [LEFT, RIGHT]) {
      const cosine = ear === RIGHT ? toRight : -toRight;
      const alpha = shadowAlpha(cosine);
      this.alphas.aim(ear, elapsed, alpha, ticks);
      const beside = (earDelaySeconds(cosine) - shadowDelaySeconds(alpha)) * this.sampleRate;
      this.delays.aim(ear, elapsed, lateness + this.headFrames + beside, ticks);
    }
    this.earLevel.aim(0, elapsed, listening.ears, ticks);
    const lateral = atan2(toRight, Math.sqrt(ahead * ahead + up * up));
    // Below, no lower than 45 degrees count: straight under the head, ahead and behind would meet in a leap.
    const rise = Math.max(up, -Math.abs(ahead));
    const turned = atan2(rise, ahead);
    const elevation = turned < -Math.PI / 2 ? turned + 2 * Math.PI : turned;
    // Towards the axis of the ears it makes less and less of a difference what is ahead and what is behind.
    const share = Math.sqrt(ahead * ahead + rise * rise);
    for (let n = 0; n < ECHOES; n++) {
      const seconds = between(echoDelay(n, lateral, Math.PI / 2), echoDelay(n, lateral, elevation), share);
      this.echoes.aim(n, elapsed, seconds * this.sampleRate, ticks);
    }
  }

  /**
   * Takes a block in and adds what is heard of it.
   * @param offset frames since the last tick
   * @param around 0 for speakers, 1 for a head, by frames
   * @param open whether speakers are heard, or on their way
   * @param head whether a head is heard, or on its way
   * @param field channels that its part of a sound field is added to, if anybody asks for it
   */
  process(
    block: Doubles,
    left: Doubles,
    right: Doubles,
    around: Float64Array,
    open: boolean,
    head: boolean,
    field: readonly Float64Array[] | null,
    offset: number,
    frames: number,
  ): void {
    if (head) this.addEchoes(block, around, offset, frames);
    else this.keep(block, frames);
    this.ring.write(block, frames, false);
    if (open || field) this.openly(left, right, around, field, offset, frames);
    if (head) {
      this.ear(LEFT, left, around, offset, frames);
      this.ear(RIGHT, right, around, offset, frames);
    }
  }

  private keep(block: Doubles, frames: number): void {
    const { recent, kept } = this;
    for (let i = 0; i < frames; i++) recent[kept + i] = block[i]!;
    recent.copyWithin(0, frames, kept + frames);
  }

  private addEchoes(block: Doubles, around: Float64Array, offset: number, frames: number): void {
    const { recent, kept, echoes, earLevel, gains } = this;
    const level = earLevel.now[0]!;
    const levelStep = earLevel.step[0]!;
    for (let i = 0; i < frames; i++) recent[kept + i] = block[i]!;
    if (level > 0 || levelStep > 0) {
      for (let i = 0; i < frames; i++) gains[i] = (level + levelStep * (offset + i)) * around[i]!;
      for (let n = 0; n < ECHOES; n++) {
        const weight = LEVELS[n]!;
        const step = echoes.step[n]!;
        const from = echoes.now[n]!;
        for (let i = 0; i < frames; i++) {
          const delay = from + step * (offset + i);
          const whole = delay | 0;
          const at = kept + i - whole;
          const x = recent[at]!;
          block[i] = block[i]! + weight * gains[i]! * (x + (delay - whole) * (recent[at - 1]! - x));
        }
      }
    }
    recent.copyWithin(0, frames, kept + frames);
  }

  /** Without a head: in two speakers by level, and in the channels of a field. */
  private openly(
    left: Doubles,
    right: Doubles,
    around: Float64Array,
    field: readonly Float64Array[] | null,
    offset: number,
    frames: number,
  ): void {
    const { read, speakers } = this;
    this.readAt(this.late, 0, offset, frames);
    const [fromLeft, fromRight] = [speakers.now[LEFT]!, speakers.now[RIGHT]!];
    const [stepLeft, stepRight] = [speakers.step[LEFT]!, speakers.step[RIGHT]!];
    for (let i = 0; i < frames; i++) {
      const x = read[i]! * (1 - around[i]!);
      left[i] = left[i]! + x * (fromLeft + stepLeft * (offset + i));
      right[i] = right[i]! + x * (fromRight + stepRight * (offset + i));
    }
    if (!field) return;
    for (let n = 0; n < field.length; n++) {
      const channel = field[n]!;
      const from = this.field.now[n]!;
      const step = this.field.step[n]!;
      for (let i = 0; i < frames; i++) channel[i] = channel[i]! + read[i]! * (from + step * (offset + i));
    }
  }

  private readAt(delays: Lines, n: number, offset: number, frames: number): void {
    const from = delays.now[n]!;
    const step = delays.step[n]!;
    // Here a delay counts from the frame itself, and in a ring from the next.
    if (step === 0 && from === Math.floor(from)) this.ring.readWhole(this.read, from, frames, frames);
    else this.ring.read(this.read, from, step, offset, SINC_NEAREST, frames, frames);
  }

  private ear(ear: number, out: Doubles, around: Float64Array, offset: number, frames: number): void {
    const { read, shadowing, shadows, alphas } = this;
    this.readAt(this.delays, ear, offset, frames);
    const alpha = alphas.now[ear]!;
    const step = alphas.step[ear]!;
    let state = shadows[ear]!;
    for (let i = 0; i < frames; i++) {
      const x = read[i]!;
      const rise = (x - state) * shadowing;
      const low = state + rise;
      state = low + rise;
      out[i] = out[i]! + around[i]! * (low + (alpha + step * (offset + i)) * (x - low));
    }
    shadows[ear] = state;
  }
}
