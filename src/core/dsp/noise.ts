import { SeededRandom } from '../math/random';

/** Seeded noise: white (flat, uniform amplitude) and pink (3 dB less each octave). */
export class Noise {
  private readonly random: SeededRandom;
  private readonly poles = new Float64Array(7);

  constructor(seed: number) {
    this.random = new SeededRandom(seed);
  }

  /** Uniform white noise in [-1, 1), RMS 0.577. */
  white(): number {
    return this.random.bipolar();
  }

  /**
   * Pink noise within 0.1 dB of -3 dB/octave above 10 Hz at 44.1 to 48 kHz; peaks stay inside [-1, 1].
   * Weighted sum of first-order low-passes after Kellet (1999), as given in Smith, "Spectral Audio Signal Processing".
   */
  pink(): number {
    const w = this.random.bipolar();
    const p = this.poles;
    p[0] = 0.99886 * p[0]! + w * 0.0555179;
    p[1] = 0.99332 * p[1]! + w * 0.0750759;
    p[2] = 0.969 * p[2]! + w * 0.153852;
    p[3] = 0.8665 * p[3]! + w * 0.3104856;
    p[4] = 0.55 * p[4]! + w * 0.5329522;
    p[5] = -0.7616 * p[5]! - w * 0.016898;
    const sum = p[0] + p[1] + p[2] + p[3] + p[4] + p[5] + p[6]! + w * 0.5362;
    p[6] = w * 0.115926;
    return sum * 0.11;
  }
}
