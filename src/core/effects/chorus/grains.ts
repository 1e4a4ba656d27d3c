import { SeededRandom } from '../../math/random';
import { sin } from '../../math/elementary';

const PI = 3.141592653589793;
const MOST_AT_ONCE = 5;
const SINE_STEPS = 1024;
/** A Hann window, to be read at the nearest of its steps. */
const HANN = Float64Array.from({ length: SINE_STEPS + 1 }, (_, n) => {
  const root = sin((PI * n) / SINE_STEPS);
  return root * root;
});

/** Where a grain reads, in frames behind now, at the moment it begins. */
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
  private readonly random = new SeededRandom(0);
  private frame = 0;
  private next = 0;

  constructor(private readonly seed: number) {
    this.ages.fill(-1);
  }

  reset(): void {
    this.ages.fill(-1);
  }

  locate(frame: number): void {
    this.frame = frame;
  }

  /** Delay in frames of the grain that began last. */
  latest(side: 0 | 1): number {
    return this.delays[side][(this.next + MOST_AT_ONCE - 1) % MOST_AT_ONCE]!;
  }

  /**
   * Adds `count` frames of this copy, read from two rings whose next frame is written at `write`.
   * @param density grains at the same time
   */
  process(
    rings: readonly [Float32Array, Float32Array],
    mask: number,
    write: number,
    grainFrames: number,
    density: number,
    place: PlaceOfGrain,
    outLeft: Float64Array,
    outRight: Float64Array,
    count: number,
    gain: number,
  ): void {
    const { ages, lengths, delays } = this;
    const every = Math.max(1, Math.round(grainFrames / density));
    const level = gain * (density > 1 ? 2 / density : 2);
    for (let i = 0; i < count; i++) {
      if (this.frame % every === 0) this.begin(Math.floor(this.frame / every), grainFrames, place);
      this.frame++;
      let left = 0;
      let right = 0;
      for (let grain = 0; grain < MOST_AT_ONCE; grain++) {
        const age = ages[grain]!;
        if (age < 0) continue;
        const weight = HANN[Math.round((age * SINE_STEPS) / lengths[grain]!)]!;
        left += weight * rings[0][(write + i - delays[0][grain]!) & mask]!;
        right += weight * rings[1][(write + i - delays[1][grain]!) & mask]!;
        ages[grain] = age + 1 >= lengths[grain]! ? -1 : age + 1;
      }
      outLeft[i] = outLeft[i]! + level * left;
      outRight[i] = outRight[i]! + level * right;
    }
  }

  private begin(number: number, grainFrames: number, place: PlaceOfGrain): void {
    this.random.reseed(this.seed + Math.imul(number, 0x9e3779b1));
    const phase = this.random.bipolar() / 2;
    const strayed = this.random.bipolar();
    const slot = this.next;
    this.next = slot + 1 === MOST_AT_ONCE ? 0 : slot + 1;
    this.ages[slot] = 0;
    this.lengths[slot] = Math.max(1, Math.round(grainFrames));
    this.delays[0][slot] = Math.round(place(0, phase, strayed));
    this.delays[1][slot] = Math.round(place(1, phase, strayed));
  }
}
