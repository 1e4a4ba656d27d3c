import type { Sides } from '../../dsp/sides';
import { BandBank, bandCentres, bandPlace, MOST_BANDS, type BandLayout } from '../../dsp/bandBank';
import { kPowerAt } from '../../dsp/kWeighting';
import { Ramp } from '../../dsp/ramp';
import { exp, pow } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';

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
/** What brings the product of bands of a voice and of a carrier at full scale back to the level of the voice. */
const PRODUCT_GAIN = 4;
/** Levels shown are means over about this long. */
const SHOWN_SECONDS = 0.08;
/** The carrier is evened by means over about this long; at first over what there is. */
const EVEN_SECONDS = 2;
const LEAST_SECONDS = 0.1;
/** Power of a band of the voice against its loudest that tells something: -50 dB. */
const FAINT = 1e-5;
/** A band goes an eighth of its way to its weight with every tick. */
const WEIGHT_TICKS = 8;
/** Most by which a band of the carrier is lifted: 24 dB. Its strongest is lowered by 6 dB. */
const MOST_LIFT = 15.85;
const STRONGEST_GAIN = 0.5;
/** Bands let something into so many on each side. */
const NEAREST = 3;
/** Most that the weights owe to that: 12 dB. */
const MOST_OWED = 16;
/** Places over which leaks are summed up, in half widths of a band. */
const REACH = 8;
const STEP = 0.125;
/** Mean power of a voice or a carrier under which it is none: -70 dB. */
export const PRESENT = 1e-7;

/** How bands follow a voice: in milliseconds, and from where to where, in Hz, they are held while they are frozen. */
export interface Mouth {
  attack: number;
  release: number;
  frozen: boolean;
  frozenFrom: number;
  frozenTo: number;
}

/** A bank at work, and the one that is going while the spectrum is divided anew. */
export class BankPair {
  /** How its bands follow the voice; taken up with the next tick. */
  readonly mouth: Mouth = { attack: 1, release: 1, frozen: false, frozenFrom: 0, frozenTo: 0 };
  private bank: BandBank;
  private other: BandBank;
  private layout: BandLayout;
  private centres: readonly number[] = [];
  /** How far the bank at work has taken over. */
  private readonly change = new Ramp(1);
  private readonly changeFrames: number;
  private shifts = false;
  private ticks = 0;
  /** What the rates of the bands are worked out for, and whether they are held as one that begins. */
  private readonly tunedFor: Mouth = { ...this.mouth };
  private tuned = false;
  private begins = false;
  /** Mean powers of the bands of the carrier and of what comes out. */
  private readonly carrierPowers = new Float64Array(MOST_BANDS);
  private readonly outPowers = new Float64Array(MOST_BANDS);
  private readonly shownRate: number;
  /** How far the carrier is evened, 0 to 1; taken up with the next tick. */
  even = 0;
  /** Mean powers of the bands of carrier and voice, and of what comes out unevened, while both sound. */
  private readonly means = {
    carrier: new Float64Array(MOST_BANDS),
    voice: new Float64Array(MOST_BANDS),
    spoken: new Float64Array(MOST_BANDS),
  };
  /** Seconds that these means are over. */
  private meanSeconds = 0;
  /**
   * What was measured with the last tick, K-weighted, both sides summed: mean squares of the voice in all bands and of what
   * they make of the carrier. Null where the last tick measured nothing.
   */
  heard: { readonly voice: number; readonly made: number } | null = null;
  /** Powers of a K-weighting in the middles of the bands. */
  private weightings: readonly number[] = [];
  private readonly weights = new Float64Array(MOST_BANDS).fill(1);
  /** Power of the carrier by band, while the voice is in that band. */
  private readonly carrierPart = new Float64Array(MOST_BANDS);
  /** Power by band of what a bank would find in what comes out, against what it found in the voice. */
  private readonly found = new Float64Array(MOST_BANDS);
  /** Factors on power that the weights owe to what bands let into one another. */
  private readonly owed = new Float64Array(MOST_BANDS).fill(1);
  /** Power that a band finds of what another one let through, by how many bands lie between their middles. */
  private readonly leaks = new Float64Array(NEAREST + 1);
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
    this.forgetMeans();
  }

  private forgetMeans(): void {
    for (const powers of Object.values(this.means)) powers.fill(0);
    this.meanSeconds = 0;
    this.weights.fill(1);
    this.owed.fill(1);
  }

  get bands(): number {
    return this.layout.bands;
  }

  /** What the product of voice and carrier has been made louder by. */
  get gain(): number {
    return this.bank.gain;
  }

  levelOf(band: number): number {
    return this.bank.levelOf(band);
  }

  /** Of the carrier in a band, and of what comes out before `gain`. */
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
    this.leaks.forEach((_, away) => (this.leaks[away] = leakOf(away, layout)));
    this.forgetMeans();
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
    if (bank.measures) {
      for (let band = 0; band < bank.bands; band++) {
        // Both sides are summed up.
        carrierPowers[band]! += shownRate * (bank.powerBefore(band) / (2 * TICK) - carrierPowers[band]!);
        outPowers[band]! += shownRate * (bank.powerAfter(band) / (2 * TICK) - outPowers[band]!);
      }
      this.hearBands(bank);
      this.judgeBands();
      this.heard = this.loudnessOf(bank);
      bank.clearPowers();
    } else this.heard = null;
    this.ticks = (this.ticks + 1) % MEASURED;
    bank.measures = this.ticks === 0;
  }

  private loudnessOf(bank: BandBank) {
    let [voice, made] = [0, 0];
    for (let band = 0; band < bank.bands; band++) {
      voice += 2 * this.weightings[band]! * bank.powerFollowed(band);
      made += this.weightings[band]! * bank.powerAfter(band);
    }
    return { voice: voice / TICK, made: (bank.gain * bank.gain * made) / TICK };
  }

  /** Takes what was measured into the means that the carrier is evened by, but in pauses of voice or carrier. */
  private hearBands(bank: BandBank): void {
    const { carrier, spoken, voice } = this.means;
    const seconds = (MEASURED * TICK) / this.sampleRate;
    let [carrierPower, voicePower] = [0, 0];
    for (let band = 0; band < bank.bands; band++) {
      carrierPower += bank.powerBefore(band) / (2 * TICK);
      voicePower += bank.powerFollowed(band) / TICK;
    }
    if (carrierPower < PRESENT || voicePower < PRESENT) return;
    this.meanSeconds = Math.min(EVEN_SECONDS, this.meanSeconds + seconds);
    const share = Math.min(1, seconds / this.meanSeconds);
    for (let band = 0; band < bank.bands; band++) {
      const weight = bank.weightOf(band);
      carrier[band]! += share * (bank.powerBefore(band) / (2 * TICK) - carrier[band]!);
      spoken[band]! += share * (bank.powerAfter(band) / (2 * TICK * weight * weight) - spoken[band]!);
      voice[band]! += share * (bank.powerFollowed(band) / TICK - voice[band]!);
    }
  }

  /**
   * Works out the weights by which what comes out is as strong against the voice in all bands. Where the voice has next to
   * nothing the carrier alone tells.
   */
  private judgeBands(): void {
    const { bank, carrierPart, owed, weights } = this;
    const { carrier, spoken, voice } = this.means;
    let [strongest, loudest] = [0, 0];
    for (let band = 0; band < bank.bands; band++) loudest = Math.max(loudest, voice[band]!);
    for (let band = 0; band < bank.bands; band++) {
      const told = voice[band]! > FAINT * loudest && spoken[band]! > 0;
      carrierPart[band] = told ? spoken[band]! / voice[band]! : carrier[band]!;
      strongest = Math.max(strongest, carrierPart[band]!);
    }
    if (strongest === 0 || this.meanSeconds < LEAST_SECONDS) return;
    this.judgeLeaks(loudest);
    let [before, after] = [0, 0];
    for (let band = 0; band < bank.bands; band++) {
      const wanted = STRONGEST_GAIN * Math.sqrt((owed[band]! * strongest) / Math.max(carrierPart[band]!, 1e-30));
      weights[band] = Math.min(MOST_LIFT, wanted);
      before += spoken[band]!;
      after += spoken[band]! * weights[band]! * weights[band]!;
    }
    // All of them together stay about as strong.
    const level = after > before ? Math.sqrt(before / after) : 1;
    for (let band = 0; band < bank.bands; band++) weights[band]! *= level;
  }

  /** Takes the weights a step nearer to where each band of what comes out, with what others let into it, is the voice's. */
  private judgeLeaks(loudest: number): void {
    const { bank, carrierPart, leaks, found, owed } = this;
    const { spoken, voice } = this.means;
    const { bands } = bank;
    let [all, wanted] = [0, 0];
    for (let band = 0; band < bands; band++) {
      let power = 0;
      for (let other = Math.max(0, band - NEAREST); other <= Math.min(bands - 1, band + NEAREST); other++)
        power +=
          (leaks[Math.abs(other - band)]! * owed[other]! * spoken[other]!) / Math.max(carrierPart[other]!, 1e-30);
      found[band] = power;
      if (voice[band]! <= FAINT * loudest) continue;
      all += power;
      wanted += voice[band]!;
    }
    if (all === 0) return;
    // All of them together owe nothing.
    let sum = 0;
    for (let band = 0; band < bands; band++) {
      const told = voice[band]! > FAINT * loudest && found[band]! > 0;
      if (told) owed[band] = owed[band]! * Math.sqrt((voice[band]! * all) / (wanted * found[band]!));
      if (voice[band]! > FAINT * loudest) sum += owed[band]! * voice[band]!;
    }
    for (let band = 0; band < bands; band++) {
      owed[band] = Math.min(MOST_OWED, Math.max(1 / MOST_OWED, (owed[band]! * wanted) / sum));
    }
  }

  /** Sends the bands to their weights, as far as the carrier is to be evened. */
  private weighBands(): void {
    const { bank } = this;
    for (let band = 0; band < bank.bands; band++) bank.setWeight(band, this.weightOf(band), WEIGHT_TICKS * TICK);
  }

  private weightOf(band: number): number {
    const { even, weights } = this;
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

/**
 * Power that a band finds of what another one let through, so many bands away: Butterworth band-passes of one width, by the
 * low-pass they are made of.
 */
function leakOf(away: number, { order, bandwidth }: BandLayout): number {
  const power = (place: number) => 1 / (1 + pow(place * place, order / 2));
  let [both, one] = [0, 0];
  for (let place = -REACH; place <= REACH; place += STEP) {
    both += power(place) * power(place - (2 * away) / bandwidth);
    one += power(place);
  }
  return both / one;
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
