import type { BandBank } from '../../dsp/bandBank';
import { MOST_BANDS, type BandLayout } from '../../dsp/bandLayout';
import { pow } from '../../math/elementary';

/** Time constant of the mean powers, in seconds; until then they are means of all measured so far. */
const MEAN_SECONDS = 2;
/** Seconds measured before any gain changes. */
const LEAST_SECONDS = 0.1;
/** Power ratio to the voice's loudest band below which a band's voice power is ignored: -50 dB. */
const FAINT = 1e-5;
/** Highest gain of a band, 24 dB, and gain of the carrier's strongest band, -6 dB, before the sum is normalised. */
const MOST_LIFT = 15.85;
const STRONGEST_GAIN = 0.5;
/** Neighbouring bands on each side whose leakage counts. */
const NEAREST = 3;
/** Largest power ratio by which leakage raises or lowers a band: 12 dB. */
const MOST_CORRECTION = 16;
/** Range and step of the integral of a leak, in half bandwidths. */
const REACH = 8;
const STEP = 0.125;
const LEAST_POWER = 1e-30;
/** Mean square of a voice or a carrier below which it counts as silent: -70 dBFS. */
export const PRESENT = 1e-7;

/**
 * Gains of the bands that give the output the long-term spectrum of the voice, whatever the spectrum of the carrier. They
 * come from the mean power of each band of carrier, voice and output, measured while voice and carrier both sound, and
 * allow for the leakage between neighbouring bands. Where the voice is faint the power of the carrier decides.
 */
export class CarrierEvening {
  /** Gain of each band, linear. */
  readonly weights = new Float64Array(MOST_BANDS).fill(1);
  /** Mean powers by band; `spoken` is the output without `weights`. */
  private readonly carrier = new Float64Array(MOST_BANDS);
  private readonly voice = new Float64Array(MOST_BANDS);
  private readonly spoken = new Float64Array(MOST_BANDS);
  /** Seconds covered by these means, up to `MEAN_SECONDS`. */
  private meanSeconds = 0;
  /** Power of the carrier by band, while the voice is in that band. */
  private readonly carrierPart = new Float64Array(MOST_BANDS);
  /** Power by band of the evened output as the filters of the bank would measure it, leakage included. */
  private readonly found = new Float64Array(MOST_BANDS);
  /** Power ratios by which leakage corrects the gains. */
  private readonly corrections = new Float64Array(MOST_BANDS).fill(1);
  /** Share of a band's power that the filter of the band 0 to `NEAREST` places away passes. */
  private readonly leaks = new Float64Array(NEAREST + 1);

  /**
   * @param measured frames of one measurement
   * @param apart frames from one measurement to the next
   */
  constructor(
    private readonly sampleRate: number,
    private readonly measured: number,
    private readonly apart: number,
  ) {}

  /** Begins anew for a bank of another layout. */
  divide(layout: BandLayout): void {
    this.leaks.forEach((_, away) => (this.leaks[away] = leakOf(away, layout)));
    this.reset();
  }

  reset(): void {
    for (const powers of [this.carrier, this.voice, this.spoken]) powers.fill(0);
    this.meanSeconds = 0;
    this.weights.fill(1);
    this.corrections.fill(1);
  }

  /** Takes the powers that a bank has just measured. */
  hear(bank: BandBank): void {
    this.updateMeans(bank);
    this.updateWeights(bank.bands);
  }

  private updateMeans(bank: BandBank): void {
    const { carrier, spoken, voice, measured } = this;
    const seconds = this.apart / this.sampleRate;
    let [carrierPower, voicePower] = [0, 0];
    for (let band = 0; band < bank.bands; band++) {
      carrierPower += bank.powerBefore(band) / (2 * measured);
      voicePower += bank.powerFollowed(band) / measured;
    }
    if (carrierPower < PRESENT || voicePower < PRESENT) return;
    this.meanSeconds = Math.min(MEAN_SECONDS, this.meanSeconds + seconds);
    const share = Math.min(1, seconds / this.meanSeconds);
    for (let band = 0; band < bank.bands; band++) {
      const weight = bank.weightOf(band);
      carrier[band]! += share * (bank.powerBefore(band) / (2 * measured) - carrier[band]!);
      spoken[band]! += share * (bank.powerAfter(band) / (2 * measured * weight * weight) - spoken[band]!);
      voice[band]! += share * (bank.powerFollowed(band) / measured - voice[band]!);
    }
  }

  private updateWeights(bands: number): void {
    const { carrier, carrierPart, corrections, spoken, voice, weights } = this;
    let [strongest, loudest] = [0, 0];
    for (let band = 0; band < bands; band++) loudest = Math.max(loudest, voice[band]!);
    for (let band = 0; band < bands; band++) {
      const told = voice[band]! > FAINT * loudest && spoken[band]! > 0;
      carrierPart[band] = told ? spoken[band]! / voice[band]! : carrier[band]!;
      strongest = Math.max(strongest, carrierPart[band]!);
    }
    if (strongest === 0 || this.meanSeconds < LEAST_SECONDS) return;
    this.updateCorrections(bands, FAINT * loudest);
    let [before, after] = [0, 0];
    for (let band = 0; band < bands; band++) {
      const ratio = (corrections[band]! * strongest) / Math.max(carrierPart[band]!, LEAST_POWER);
      weights[band] = Math.min(MOST_LIFT, STRONGEST_GAIN * Math.sqrt(ratio));
      before += spoken[band]!;
      after += spoken[band]! * weights[band]! * weights[band]!;
    }
    // The power of all bands together is not raised.
    const level = after > before ? Math.sqrt(before / after) : 1;
    for (let band = 0; band < bands; band++) weights[band]! *= level;
  }

  /**
   * One step of an iteration that brings the output with its leakage to the power of the voice in each band; the powers
   * change so slowly that a step a measurement is enough.
   * @param faint power of the voice up to which a band is left as it is
   */
  private updateCorrections(bands: number, faint: number): void {
    const { carrierPart, corrections, found, leaks, spoken, voice } = this;
    let [all, wanted] = [0, 0];
    for (let band = 0; band < bands; band++) {
      let power = 0;
      for (let other = Math.max(0, band - NEAREST); other <= Math.min(bands - 1, band + NEAREST); other++) {
        const leak = leaks[Math.abs(other - band)]!;
        power += (leak * corrections[other]! * spoken[other]!) / Math.max(carrierPart[other]!, LEAST_POWER);
      }
      found[band] = power;
      if (voice[band]! <= faint) continue;
      all += power;
      wanted += voice[band]!;
    }
    if (all === 0) return;
    let sum = 0;
    for (let band = 0; band < bands; band++) {
      if (voice[band]! <= faint) continue;
      if (found[band]! > 0) corrections[band]! *= Math.sqrt((voice[band]! * all) / (wanted * found[band]!));
      sum += corrections[band]! * voice[band]!;
    }
    // Corrections keep the power of all bands together.
    for (let band = 0; band < bands; band++) {
      const correction = (corrections[band]! * wanted) / sum;
      corrections[band] = Math.min(MOST_CORRECTION, Math.max(1 / MOST_CORRECTION, correction));
    }
  }
}

/**
 * Share of the power behind one band's filter that the filter so many bands away passes, for a flat spectrum: Butterworth
 * band-passes of equal width, by their low-pass prototype.
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
