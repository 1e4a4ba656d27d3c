import { exp, log } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { designBandPass } from './bandPass';

export const MOST_BANDS = 64;
const MOST_PAIRS = MOST_BANDS / 2;
const MOST_SECTIONS = 4;
const MOST_FRAMES = 128;
/** Doubles of a pair: two figures of two bands a section; the level and two states a section; gain, rise and fall. */
const COEFFICIENTS = 4;
const RATES = 6;

export const SPACINGS = ['logarithmic', 'bark', 'linear'] as const;
export type Spacing = (typeof SPACINGS)[number];

/** How a bank divides the spectrum. */
export interface BandLayout {
  readonly bands: number;
  /** 2, 4, 6 or 8. */
  readonly order: number;
  readonly spacing: Spacing;
  readonly lowHz: number;
  readonly highHz: number;
  /** Of each band, against what would just touch its neighbours. */
  readonly bandwidth: number;
}

/** Critical bands (Traunmueller, "Analytical expressions for the tonotopic sensory scale", J. Acoust. Soc. Am. 88, 1990). */
const toBark = (hz: number) => (26.81 * hz) / (1960 + hz) - 0.53;
const fromBark = (bark: number) => (1960 * (bark + 0.53)) / (26.28 - bark);

const SCALES: Readonly<Record<Spacing, { to: (hz: number) => number; from: (place: number) => number }>> = {
  logarithmic: { to: log, from: exp },
  bark: { to: toBark, from: fromBark },
  linear: { to: (hz) => hz, from: (place) => place },
};

/** Edges of all bands, from the lowest up, where each touches the next: one more than there are bands. */
export function bandEdges({ bands, spacing, lowHz, highHz }: BandLayout): number[] {
  const { to, from } = SCALES[spacing];
  const [low, high] = [to(lowHz), to(highHz)];
  return Array.from({ length: bands + 1 }, (_, n) => from(low + ((high - low) * n) / bands));
}

/** Where a frequency lies among the bands of a division, 0 in the middle of the lowest. */
export function bandPlace({ bands, spacing, lowHz, highHz }: BandLayout, hz: number): number {
  const { to } = SCALES[spacing];
  return ((to(hz) - to(lowHz)) / (to(highHz) - to(lowHz))) * bands - 0.5;
}

/** Middles of all bands, from the lowest up. */
export function bandCentres(layout: BandLayout): number[] {
  const edges = bandEdges(layout);
  return Array.from({ length: layout.bands }, (_, n) => Math.sqrt(edges[n]! * edges[n + 1]!));
}

/**
 * Filters for up to 64 bands, for one sound that is followed and two whose bands are weighed by what was followed, two bands
 * at a time.
 */
export class BandBank {
  bands = 0;
  /** Whether it sums up how strong the bands are that are weighed. */
  measures = true;
  private readonly loops = wasm().loops;
  private readonly coefficients: Doubles;
  /** Of the sound that is followed, and of those that are weighed. */
  private readonly followed: Doubles;
  private readonly weighed: readonly [Doubles, Doubles];
  private readonly rates: Doubles;
  /** Levels by pair and frame, and the same from other bands. */
  private readonly levels: Doubles;
  private readonly shifted: Doubles;
  private readonly sums: readonly [Doubles, Doubles];
  /** By pair: how strong its two bands are before and after they are weighed, summed over both sides. */
  private readonly powers: Doubles;
  private readonly gains = new Float64Array(MOST_BANDS);
  /** By band where its level comes from, and the step of that. */
  private readonly places: Doubles;
  private sections = 1;
  private pairs = 0;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
  ) {
    const state = () => memory.doubles(MOST_PAIRS * (2 + MOST_SECTIONS * COEFFICIENTS));
    this.coefficients = memory.doubles(MOST_PAIRS * MOST_SECTIONS * COEFFICIENTS);
    this.followed = state();
    this.weighed = [state(), state()];
    this.rates = memory.doubles(MOST_PAIRS * RATES);
    this.levels = memory.doubles(MOST_BANDS * MOST_FRAMES);
    this.shifted = memory.doubles(MOST_BANDS * MOST_FRAMES);
    this.sums = [memory.doubles(2 * MOST_FRAMES), memory.doubles(2 * MOST_FRAMES)];
    this.powers = memory.doubles(2 * MOST_BANDS);
    this.places = memory.doubles(2 * MOST_BANDS);
  }

  /** Takes up another division; all sound in it is forgotten. */
  divide(layout: BandLayout): void {
    const { coefficients, gains } = this;
    const edges = bandEdges(layout);
    this.bands = layout.bands;
    this.pairs = Math.ceil(layout.bands / 2);
    this.sections = layout.order / 2;
    coefficients.fill(0);
    gains.fill(0);
    for (let band = 0; band < layout.bands; band++) {
      const centre = Math.sqrt(edges[band]! * edges[band + 1]!);
      const edge = (hz: number) => centre * exp(layout.bandwidth * log(hz / centre));
      const design = designBandPass(edge(edges[band]!), edge(edges[band + 1]!), layout.order, this.sampleRate);
      gains[band] = design.gain;
      const at = (band >> 1) * this.sections * COEFFICIENTS + (band & 1);
      design.sections.forEach(({ a1, a2 }, section) => {
        coefficients[at + section * COEFFICIENTS] = a1;
        coefficients[at + section * COEFFICIENTS + 2] = a2;
      });
    }
    this.reset();
  }

  reset(): void {
    for (const state of [this.followed, ...this.weighed, this.powers]) state.fill(0);
  }

  /** How fast the level of a band rises and falls, as the part of the way that it goes in a frame; 0 holds it. */
  setRates(band: number, rise: number, fall: number): void {
    const at = (band >> 1) * RATES + (band & 1);
    this.rates[at] = this.gains[band]!;
    this.rates[at + 2] = rise;
    this.rates[at + 4] = fall;
  }

  levelOf(band: number): number {
    return this.followed[(band >> 1) * (2 + this.sections * COEFFICIENTS) + (band & 1)]!;
  }

  setLevel(band: number, level: number): void {
    this.followed[(band >> 1) * (2 + this.sections * COEFFICIENTS) + (band & 1)] = level;
  }

  /** How strong a band of what is weighed has been since `clearPowers`, before and after, as sums of squares of both sides. */
  powerBefore(band: number): number {
    return this.powers[(band >> 1) * 4 + (band & 1)]!;
  }

  powerAfter(band: number): number {
    return this.powers[(band >> 1) * 4 + 2 + (band & 1)]!;
  }

  clearPowers(): void {
    this.powers.fill(0);
  }

  /**
   * Follows the levels of the bands of a block.
   * @param settles takes what is too small for the machine out of the states; now and then, at frames that do not depend on
   * how blocks are cut
   */
  follow(input: Doubles, frames: number, settles = true): void {
    const { loops, coefficients, followed, rates, levels, pairs, sections } = this;
    loops.followBands(
      input.byteOffset,
      coefficients.byteOffset,
      followed.byteOffset,
      rates.byteOffset,
      levels.byteOffset,
      pairs,
      sections,
      frames,
      settles,
    );
  }

  /** Sends the place that a band has its level from to another, there after so many frames. */
  aimPlace(band: number, place: number, passed: number, frames: number): void {
    const { places } = this;
    const now = frames === 0 ? place : places[2 * band]! + passed * places[2 * band + 1]!;
    places[2 * band] = now;
    places[2 * band + 1] = frames === 0 ? 0 : (place - now) / frames;
  }

  /** Lets each band have the level of its place, up to the next `follow`; `offset` frames after these were aimed. */
  shift(offset: number, frames: number): void {
    const { levels, shifted, places } = this;
    this.loops.shiftBands(levels.byteOffset, shifted.byteOffset, this.bands, places.byteOffset, offset, frames);
  }

  /**
   * The sums of the bands of two blocks, each at the level that was followed, or, when it `shifts`, that its place had.
   * The sums may take the place of the blocks.
   */
  weigh(
    left: Doubles,
    right: Doubles,
    outLeft: Doubles,
    outRight: Doubles,
    shifts: boolean,
    frames: number,
    settles = true,
  ): void {
    const { loops, coefficients, weighed, rates, levels, shifted, sums, powers, pairs, sections } = this;
    for (const side of sums) side.fill(0, 0, 2 * frames);
    loops.weighBands(
      left.byteOffset,
      right.byteOffset,
      coefficients.byteOffset,
      weighed[0].byteOffset,
      weighed[1].byteOffset,
      rates.byteOffset,
      (shifts ? shifted : levels).byteOffset,
      sums[0].byteOffset,
      sums[1].byteOffset,
      powers.byteOffset,
      this.measures,
      pairs,
      sections,
      frames,
      settles,
    );
    loops.joinSums(sums[0].byteOffset, outLeft.byteOffset, frames);
    loops.joinSums(sums[1].byteOffset, outRight.byteOffset, frames);
  }
}
