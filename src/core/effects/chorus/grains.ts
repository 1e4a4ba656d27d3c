import { cos, sin } from '../../math/elementary';
import type { Ring } from '../../dsp/ring';
import { SeededRandom } from '../../math/random';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';

const MOST_AT_ONCE = 5;
const SINE_STEPS = 1024;
/** A Hann window, to be read at the nearest of its steps. */
const HANN = Float64Array.from({ length: SINE_STEPS + 1 }, (_, n) => {
  const root = sin((Math.PI * n) / SINE_STEPS);
  return root * root;
});

/** Two grains whose delays differ by more than this sound as if they had nothing to do with one another. */
const ALIKE_SECONDS = 0.001;

/**
 * Mean of the product of two Hann windows of length 1, `apart` from one another; with itself 3/8.
 * @param apart 0 and up
 */
function overlap(apart: number): number {
  if (apart >= 1) return 0;
  const turn = 2 * Math.PI * apart;
  return (1 - apart) * (0.25 + 0.125 * cos(turn)) + (3 / (16 * Math.PI)) * sin(turn);
}

/**
 * The level at which grains are as loud on average as the sound they are taken from.
 * @param density grains at the same time
 * @param alike how far neighbouring grains are the same sound, 0 to 1: those add up in level, others in power
 */
export function grainLevel(density: number, alike: number): number {
  let shared = 0;
  for (let n = 1; n < density; n++) shared += overlap(n / density);
  return 1 / Math.sqrt(density * (overlap(0) + 2 * alike * shared));
}

/** Delay of a grain at its beginning, in frames. */
export type PlaceOfGrain = (side: 0 | 1, phaseOffset: number, strayed: number) => number;

/**
 * One copy made of grains: each begins at its turn, keeps its delay and fades in and out. Grains are numbered from the
 * start of the session and draw their places from their numbers, so that a passage sounds the same wherever playback
 * began.
 */
export class GrainVoice {
  private readonly ages = new Int32Array(MOST_AT_ONCE);
  private readonly lengths = new Int32Array(MOST_AT_ONCE).fill(1);
  private readonly delays = [new Int32Array(MOST_AT_ONCE), new Int32Array(MOST_AT_ONCE)] as const;
  private readonly levels = [new Float64Array(MOST_AT_ONCE), new Float64Array(MOST_AT_ONCE)] as const;
  private readonly random = new SeededRandom(0);
  private next = 0;

  private readonly copies: Doubles;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    private readonly seed: number,
  ) {
    this.copies = memory.doubles(MAXIMUM_BLOCK);
    this.ages.fill(-1);
  }

  reset(): void {
    this.ages.fill(-1);
    for (const side of [0, 1] as const) {
      this.delays[side].fill(0);
      this.levels[side].fill(0);
    }
  }

  /** Delay in frames of the grain that began last. */
  latest(side: 0 | 1): number {
    return this.delays[side][(this.next + MOST_AT_ONCE - 1) % MOST_AT_ONCE]!;
  }

  /**
   * Adds `count` frames of this copy.
   * @param rings what is read
   * @param written frames of these that have been written already
   * @param frame place of the first in the session
   * @param density grains at the same time
   * @param gains of each frame
   */
  process(
    rings: readonly [Ring, Ring],
    written: number,
    frame: number,
    grainFrames: number,
    density: number,
    place: PlaceOfGrain,
    out: readonly [Float64Array, Float64Array],
    count: number,
    gains: Float64Array,
  ): void {
    const { ages } = this;
    const every = Math.max(1, Math.round(grainFrames / density));
    for (let at = 0; at < count;) {
      const since = (frame + at) % every;
      if (since === 0) this.begin(Math.floor((frame + at) / every), grainFrames, density, place);
      const end = Math.min(count, at + every - since);
      for (let grain = 0; grain < MOST_AT_ONCE; grain++) {
        if (ages[grain]! >= 0) this.sound(grain, rings, written, out, gains, at, end);
      }
      at = end;
    }
  }

  /** Adds one grain from frame `at` on, to the frame `end` or its own. */
  private sound(
    grain: number,
    rings: readonly [Ring, Ring],
    written: number,
    out: readonly [Float64Array, Float64Array],
    gains: Float64Array,
    at: number,
    end: number,
  ): void {
    const { ages, copies } = this;
    const length = this.lengths[grain]!;
    const age = ages[grain]!;
    const count = Math.min(end - at, length - age);
    for (let side = 0; side < 2; side++) {
      const channel = side as 0 | 1;
      const level = this.levels[channel][grain]!;
      const sum = out[channel];
      rings[channel].readWhole(copies, this.delays[channel][grain]!, count, written - at);
      for (let i = 0; i < count; i++) {
        const weight = level * HANN[Math.round(((age + i) * SINE_STEPS) / length)]!;
        sum[at + i] = sum[at + i]! + gains[at + i]! * weight * copies[i]!;
      }
    }
    ages[grain] = age + count >= length ? -1 : age + count;
  }

  private begin(number: number, grainFrames: number, density: number, place: PlaceOfGrain): void {
    this.random.reseed(this.seed + Math.imul(number, 0x9e3779b1));
    const phase = this.random.bipolar() / 2;
    const strayed = this.random.bipolar();
    const slot = this.next;
    const before = (slot + MOST_AT_ONCE - 1) % MOST_AT_ONCE;
    this.next = slot + 1 === MOST_AT_ONCE ? 0 : slot + 1;
    this.ages[slot] = 0;
    this.lengths[slot] = Math.max(1, Math.round(grainFrames));
    for (const side of [0, 1] as const) {
      const delay = Math.round(place(side, phase, strayed));
      const away = Math.abs(delay - this.delays[side][before]!) / (ALIKE_SECONDS * this.sampleRate);
      this.delays[side][slot] = delay;
      this.levels[side][slot] = grainLevel(density, Math.max(0, 1 - away));
    }
  }
}
