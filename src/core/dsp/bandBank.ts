import { exp, log } from '../math/elementary';
import type { Arena, Doubles, Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { designBandPass } from './bandPass';
import { bandEdges, MOST_BANDS, type BandLayout } from './bandLayout';
import { LONGEST_BLOCK } from './longestBlock';

const LANES = 4;
const MOST_QUADS = MOST_BANDS / LANES;
const MOST_SECTIONS = 4;
/** Floats of four bands: two figures of each a section; the level and two states a section; gain, rise, fall, weight and its step. */
const COEFFICIENTS = 2 * LANES;
const RATES = 5 * LANES;

/** Index of a band's first value; bands are stored by fours, interleaved, `figures` values to four bands. */
const placeOf = (band: number, figures: number) => (band >> 2) * figures + (band & 3);

/**
 * Filters for up to 64 bands, for one sound that is followed and two whose bands are weighed by what was followed, four bands
 * at a time, in single precision: what that rounds lies in the band itself, 75 dB under it where it is a third of an octave at
 * 90 Hz, and lower the higher or wider the band is.
 */
export class BandBank {
  bands = 0;
  /** Gain of the weighted sums. */
  gain = 1;
  /** True to accumulate the powers of the weighted bands. */
  measures = true;
  private readonly wasmKernels = wasm().kernels;
  private readonly coefficients: Floats;
  /** Filter states of the followed sound and of the weighted ones. */
  private readonly followed: Floats;
  private readonly weighed: readonly [Floats, Floats];
  private readonly rates: Floats;
  /** Levels by four bands and frame, and the same from other bands. */
  private readonly levels: Floats;
  private readonly shifted: Floats;
  private readonly sums: readonly [Floats, Floats];
  /** Input in single precision. */
  private readonly inputs: readonly [Floats, Floats];
  /** By four bands: how strong they are before and after they are weighed, summed over both sides. */
  private readonly powers: Floats;
  /** Sums of squares of the bands of the sound that is followed. */
  private readonly followedPowers: Floats;
  private readonly gains = new Float64Array(MOST_BANDS);
  /** By band where its level comes from, and the step of that. */
  private readonly places: Doubles;
  private sections = 1;
  private quads = 0;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
  ) {
    const state = () => memory.floats(MOST_QUADS * (LANES + MOST_SECTIONS * COEFFICIENTS));
    this.coefficients = memory.floats(MOST_QUADS * MOST_SECTIONS * COEFFICIENTS);
    this.followed = state();
    this.weighed = [state(), state()];
    this.rates = memory.floats(MOST_QUADS * RATES);
    this.levels = memory.floats(MOST_BANDS * LONGEST_BLOCK);
    this.shifted = memory.floats(MOST_BANDS * LONGEST_BLOCK);
    this.sums = [memory.floats(LANES * LONGEST_BLOCK), memory.floats(LANES * LONGEST_BLOCK)];
    this.inputs = [memory.floats(LONGEST_BLOCK), memory.floats(LONGEST_BLOCK)];
    this.powers = memory.floats(2 * MOST_BANDS);
    this.followedPowers = memory.floats(MOST_BANDS);
    this.places = memory.doubles(2 * MOST_BANDS);
  }

  /** Takes up another division; all sound in it is forgotten. */
  divide(layout: BandLayout): void {
    const { coefficients, gains } = this;
    const edges = bandEdges(layout);
    this.bands = layout.bands;
    this.quads = Math.ceil(layout.bands / LANES);
    this.sections = layout.order / 2;
    coefficients.fill(0);
    gains.fill(0);
    for (let band = 0; band < layout.bands; band++) {
      const centre = Math.sqrt(edges[band]! * edges[band + 1]!);
      const edge = (hz: number) => centre * exp(layout.bandwidth * log(hz / centre));
      const design = designBandPass(edge(edges[band]!), edge(edges[band + 1]!), layout.order, this.sampleRate);
      gains[band] = design.gain;
      this.setWeight(band, 1, 0);
      const at = placeOf(band, this.sections * COEFFICIENTS);
      design.sections.forEach(({ a1, a2 }, section) => {
        coefficients[at + section * COEFFICIENTS] = a1;
        coefficients[at + section * COEFFICIENTS + LANES] = a2;
      });
    }
    this.reset();
  }

  reset(): void {
    for (const state of [this.followed, ...this.weighed, this.powers, this.followedPowers]) state.fill(0);
  }

  /** Sets the attack and release of a band's level, as one-pole coefficients per frame; 0 holds it. */
  setRates(band: number, rise: number, fall: number): void {
    const at = placeOf(band, RATES);
    this.rates[at] = this.gains[band]!;
    this.rates[at + LANES] = rise;
    this.rates[at + 2 * LANES] = fall;
  }

  /** Sends the gain of a band that is weighed to a factor, reached after so many frames; 0 is at once. */
  setWeight(band: number, factor: number, frames: number): void {
    const at = placeOf(band, RATES) + 3 * LANES;
    this.rates[at + LANES] = frames === 0 ? 0 : (factor - this.rates[at]!) / frames;
    if (frames === 0) this.rates[at] = factor;
  }

  weightOf(band: number): number {
    return this.rates[placeOf(band, RATES) + 3 * LANES]!;
  }

  levelOf(band: number): number {
    return this.followed[placeOf(band, LANES + this.sections * COEFFICIENTS)]!;
  }

  /** The level at a place between bands; beyond the outermost it is theirs. */
  levelAt(place: number): number {
    const at = Math.min(this.bands - 1, Math.max(0, place));
    const below = Math.min(this.bands - 2, Math.floor(at));
    const first = this.levelOf(below);
    return first + (at - below) * (this.levelOf(below + 1) - first);
  }

  setLevel(band: number, level: number): void {
    this.followed[placeOf(band, LANES + this.sections * COEFFICIENTS)] = level;
  }

  /** Sum of squares of a weighted band since `clearPowers`, both sides, before and after weighting. */
  powerBefore(band: number): number {
    return this.powers[placeOf(band, 2 * LANES)]!;
  }

  powerAfter(band: number): number {
    return this.powers[placeOf(band, 2 * LANES) + LANES]!;
  }

  /** Sum of squares of a band of the sound that is followed, since `clearPowers`. */
  powerFollowed(band: number): number {
    return this.followedPowers[band]!;
  }

  clearPowers(): void {
    this.powers.fill(0);
    this.followedPowers.fill(0);
  }

  /**
   * Follows the levels of the bands of a block.
   * @param settles takes what is too small for the machine out of the states; now and then, at frames that do not depend on
   * how blocks are cut
   */
  follow(input: Doubles, frames: number, settles = true): void {
    const { wasmKernels, coefficients, followed, rates, levels, inputs, quads, sections } = this;
    wasmKernels.toFloats(inputs[0].byteOffset, input.byteOffset, frames);
    wasmKernels.followBands(
      inputs[0].byteOffset,
      coefficients.byteOffset,
      followed.byteOffset,
      rates.byteOffset,
      levels.byteOffset,
      this.followedPowers.byteOffset,
      this.measures,
      quads,
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
    this.wasmKernels.shiftBands(levels.byteOffset, shifted.byteOffset, this.bands, places.byteOffset, offset, frames);
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
    const { wasmKernels, coefficients, weighed, rates, levels, shifted, sums, powers, inputs, quads, sections } = this;
    for (const side of sums) side.fill(0, 0, LANES * frames);
    wasmKernels.toFloats(inputs[0].byteOffset, left.byteOffset, frames);
    wasmKernels.toFloats(inputs[1].byteOffset, right.byteOffset, frames);
    wasmKernels.weighBands(
      inputs[0].byteOffset,
      inputs[1].byteOffset,
      coefficients.byteOffset,
      weighed[0].byteOffset,
      weighed[1].byteOffset,
      rates.byteOffset,
      (shifts ? shifted : levels).byteOffset,
      sums[0].byteOffset,
      sums[1].byteOffset,
      powers.byteOffset,
      this.measures,
      quads,
      sections,
      frames,
      settles,
    );
    wasmKernels.joinSums(sums[0].byteOffset, outLeft.byteOffset, this.gain, frames);
    wasmKernels.joinSums(sums[1].byteOffset, outRight.byteOffset, this.gain, frames);
  }
}
