import type { Sides } from '../../dsp/sides';
import { BandBank } from '../../dsp/bandBank';
import { bandCentres, bandPlace, MOST_BANDS, type BandLayout } from '../../dsp/bandLayout';
import { kPowerAt } from '../../dsp/kWeighting';
import { Ramp } from '../../dsp/ramp';
import { exp, pow } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';
import { CarrierEvening } from './carrierEvening';

/** Frames between two looks at what moves. */
export const TICK = 64;
/** One tick in so many is measured. */
export const MEASURED = 4;
/** One division of the spectrum gives way to another in this time. */
const CHANGE_SECONDS = 0.06;
/**
 * A new bank works unheard for this part of that time, until its levels are there: it keeps those of the old one in the first
 * half of it, since a sound that begins at once is in all bands.
 */
const WARM_PART = 0.5;
/** Gain that brings the product of voice bands and a full-scale carrier back to the level of the voice. */
const PRODUCT_GAIN = 4;
/** Levels shown are means over about this long. */
const SHOWN_SECONDS = 0.08;
/** A band goes an eighth of its way to its weight with every tick. */
const WEIGHT_TICKS = 8;
/** Attack and release of the bands in ms, and the range in Hz that is held while they are frozen. */
export interface Mouth {
  attack: number;
  release: number;
  frozen: boolean;
  frozenFrom: number;
  frozenTo: number;
}

/** A bank at work, and the one that is going while the spectrum is divided anew. */
export class BankPair {
  /** Envelope settings of its bands; used from the next tick on. */
  readonly mouth: Mouth = { attack: 1, release: 1, frozen: false, frozenFrom: 0, frozenTo: 0 };
  private bank: BandBank;
  private other: BandBank;
  private layout: BandLayout;
  private centres: readonly number[] = [];
  /** Progress of the crossfade to the current bank, 0 to 1. */
  private readonly change = new Ramp(1);
  private readonly changeFrames: number;
  private shifts = false;
  private ticks = 0;
  /** Settings that the bands' rates were computed for, and whether a hold begins. */
  private readonly tunedFor: Mouth = { ...this.mouth };
  private tuned = false;
  private begins = false;
  /** Mean powers of the bands of the carrier and of what comes out. */
  private readonly carrierPowers = new Float64Array(MOST_BANDS);
  private readonly outPowers = new Float64Array(MOST_BANDS);
  private readonly shownRate: number;
  /** Amount by which the carrier is evened, 0 to 1; used from the next tick on. */
  even = 0;
  private readonly evening: CarrierEvening;
  /** K-weighted mean squares over all bands, both sides added: `made` is the output. Old unless the last tick measured. */
  readonly loudness = { fresh: false, voice: 0, made: 0 };
  /** Power of a K-weighting in the middle of each band. */
  private weightings: readonly number[] = [];
  private readonly made: Sides;
  private readonly going: Sides;
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    layout: BandLayout,
  ) {
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.bank = new BandBank(memory, sampleRate);
    this.other = new BandBank(memory, sampleRate);
    this.layout = layout;
    this.evening = new CarrierEvening(sampleRate, TICK, MEASURED * TICK);
    this.changeFrames = Math.round(CHANGE_SECONDS * sampleRate);
    this.made = [block(), block()];
    this.going = [block(), block()];
    this.shownRate = 1 - exp((-MEASURED * TICK) / (SHOWN_SECONDS * sampleRate));
  }

  /** Forgets all sound. */
  reset(layout: BandLayout, formants: number): void {
    this.change.moveTo(1, 0);
    this.divide(layout, formants);
    this.carrierPowers.fill(0);
    this.outPowers.fill(0);
    this.ticks = 0;
  }

  get bands(): number {
    return this.layout.bands;
  }

  /** Current make-up gain of the product of voice and carrier. */
  get gain(): number {
    return this.bank.gain;
  }

  levelOf(band: number): number {
    return this.bank.levelOf(band);
  }

  /** Powers of the carrier in a band, and of the output before `gain`. */
  carrierLevel(band: number): number {
    return Math.sqrt(this.carrierPowers[band]!);
  }

  outLevel(band: number): number {
    return Math.sqrt(this.outPowers[band]!);
  }

  /**
   * Looks at what is wanted; to be called every `TICK` frames.
   * @param before,formants semitones by which levels go to other bands, now and at the next tick
   * @returns whether the spectrum begins to be divided anew
   */
  tick(wanted: BandLayout, before: number, formants: number): boolean {
    const { bank, layout } = this;
    this.showPowers(bank);
    const changes = this.change.settled && !sameLayout(wanted, layout);
    if (changes) {
      this.bank = this.other;
      this.other = bank;
      for (let band = 0; band < bank.bands; band++) bank.setWeight(band, bank.weightOf(band), 0);
      this.change.moveTo(-WARM_PART, 0);
      this.change.moveTo(1, this.changeFrames);
      this.divide(wanted, before);
      // A mouth that is held is the same one, however it is divided.
      this.centres.forEach((hz, band) => this.bank.setLevel(band, bank.levelAt(bandPlace(layout, hz))));
    }
    this.tuneRates();
    this.weighBands();
    this.shifts = formants !== 0 || before !== 0;
    if (this.shifts) this.aimPlaces(formants, TICK);
    return changes;
  }

  /** Lets the bank at work begin anew with a division. */
  private divide(layout: BandLayout, formants: number): void {
    const { bank } = this;
    this.layout = layout;
    this.centres = bandCentres(layout);
    this.weightings = this.centres.map(kPowerAt);
    bank.divide(layout);
    bank.gain = PRODUCT_GAIN * Math.sqrt(bank.bands);
    bank.measures = false;
    this.evening.divide(layout);
    this.tuned = false;
    this.tuneRates();
    this.aimPlaces(formants, 0);
  }

  private tuneRates(): void {
    const { mouth, tunedFor, bank, centres, sampleRate } = this;
    const begins = this.change.value < -WARM_PART / 2;
    if (this.tuned && begins === this.begins && sameMouth(mouth, tunedFor)) return;
    this.tuned = true;
    this.begins = begins;
    Object.assign(tunedFor, mouth);
    // A level never goes faster than its band swings.
    const rate = (ms: number, hz: number) => 1 - exp(-1 / (Math.max(ms / 1000, 0.25 / hz) * sampleRate));
    centres.forEach((hz, band) => {
      const holds = begins || (mouth.frozen && hz >= mouth.frozenFrom && hz <= mouth.frozenTo);
      bank.setRates(band, holds ? 0 : rate(mouth.attack, hz), holds ? 0 : rate(mouth.release, hz));
    });
  }

  private aimPlaces(formants: number, frames: number): void {
    const { bank, layout } = this;
    const ratio = pow(2, -formants / 12);
    this.centres.forEach((hz, band) => {
      const away = bandPlace(layout, hz * ratio) - bandPlace(layout, hz);
      bank.aimPlace(band, band + away, TICK, frames);
    });
  }

  /** Takes up what has been measured in the last tick, and says whether the next is measured: one in a few tells enough. */
  private showPowers(bank: BandBank): void {
    const { carrierPowers, outPowers, shownRate } = this;
    this.loudness.fresh = bank.measures;
    if (bank.measures) {
      for (let band = 0; band < bank.bands; band++) {
        // Both sides are summed up.
        carrierPowers[band]! += shownRate * (bank.powerBefore(band) / (2 * TICK) - carrierPowers[band]!);
        outPowers[band]! += shownRate * (bank.powerAfter(band) / (2 * TICK) - outPowers[band]!);
      }
      this.evening.hear(bank);
      this.measureLoudness(bank);
      bank.clearPowers();
    }
    this.ticks = (this.ticks + 1) % MEASURED;
    bank.measures = this.ticks === 0;
  }

  private measureLoudness(bank: BandBank): void {
    let [voice, made] = [0, 0];
    for (let band = 0; band < bank.bands; band++) {
      voice += 2 * this.weightings[band]! * bank.powerFollowed(band);
      made += this.weightings[band]! * bank.powerAfter(band);
    }
    this.loudness.voice = voice / TICK;
    this.loudness.made = (bank.gain * bank.gain * made) / TICK;
  }

  /** Sends the bands to their weights, as far as the carrier is to be evened. */
  private weighBands(): void {
    const { bank } = this;
    for (let band = 0; band < bank.bands; band++) bank.setWeight(band, this.weightOf(band), WEIGHT_TICKS * TICK);
  }

  private weightOf(band: number): number {
    const {
      even,
      evening: { weights },
    } = this;
    return even === 0 ? 1 : even === 1 ? weights[band]! : pow(weights[band]!, even);
  }

  /**
   * Does to the bands of a carrier what a voice does.
   * @param offset frames since the last tick
   * @returns both sides, up to the next call
   */
  work(voice: Doubles, [left, right]: Sides, offset: number, frames: number) {
    const { bank, other, made, going, gains, shifts } = this;
    const changing = !this.change.settled;
    this.change.fill(gains, frames);
    const settles = offset + frames === TICK;
    bank.follow(voice, frames, settles);
    if (shifts) bank.shift(offset, frames);
    bank.weigh(left, right, made[0], made[1], shifts, frames, settles);
    if (!changing) return made;
    other.follow(voice, frames, settles);
    other.weigh(left, right, going[0], going[1], false, frames, settles);
    for (const side of [0, 1] as const) {
      const [now, gone] = [made[side], going[side]];
      for (let i = 0; i < frames; i++) {
        const here = smoothstep(Math.max(0, gains[i]!));
        now[i] = here * now[i]! + (1 - here) * gone[i]!;
      }
    }
    return made;
  }
}

function sameLayout(a: BandLayout, b: BandLayout): boolean {
  return (Object.keys(a) as (keyof BandLayout)[]).every((one) => a[one] === b[one]);
}

function sameMouth(a: Mouth, b: Mouth): boolean {
  return (
    a.attack === b.attack &&
    a.release === b.release &&
    a.frozen === b.frozen &&
    a.frozenFrom === b.frozenFrom &&
    a.frozenTo === b.frozenTo
  );
}
