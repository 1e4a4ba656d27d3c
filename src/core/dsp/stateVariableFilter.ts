import { tan } from '../math/elementary';
import { TINY } from '../math/settled';

export type FilterType = 'lowPass' | 'highPass' | 'bandPass' | 'notch';

/**
 * Second-order state-variable filter with trapezoidal integrators: stable while its cutoff moves
 * (Zavalishin, "The Art of VA Filter Design", 2012, chapter 4; equations after Simper, "Linear trapezoidal integrated
 * state variable filter", 2013). The band-pass has unit gain at its centre. State in double precision.
 */
export class StateVariableFilter {
  private a1 = 0;
  private a2 = 0;
  private a3 = 0;
  private k = 1;
  private integrator1 = 0;
  private integrator2 = 0;
  private type: FilterType = 'lowPass';

  constructor(private readonly sampleRate: number) {
    this.configure('lowPass', 1000, Math.SQRT1_2);
  }

  /**
   * @param cutoffHz 1 Hz to 0.49 of the rate (clamped)
   * @param q 0.1 and up; 0.7071 is a Butterworth response
   */
  configure(type: FilterType, cutoffHz: number, q: number): void {
    const limited = Math.min(Math.max(cutoffHz, 1), 0.49 * this.sampleRate);
    const g = tan((Math.PI * limited) / this.sampleRate);
    this.type = type;
    this.k = 1 / q;
    this.a1 = 1 / (1 + g * (g + this.k));
    this.a2 = g * this.a1;
    this.a3 = g * this.a2;
  }

  reset(): void {
    this.integrator1 = 0;
    this.integrator2 = 0;
  }

  /** Filters `frames` samples of `block` in place. */
  process(block: Float64Array, frames: number): void {
    const { a1, a2, a3, k } = this;
    const band = this.type === 'bandPass' ? k : this.type === 'lowPass' ? 0 : -k;
    const input = this.type === 'highPass' || this.type === 'notch' ? 1 : 0;
    const low = this.type === 'lowPass' ? 1 : this.type === 'highPass' ? -1 : 0;
    // Both integrators and the output of the equations above, each straight from what was there a frame ago: so the machine
    // waits for few operations from frame to frame.
    const [b, c, d] = [2 * a2, 2 * a1 - 1, 2 * a3];
    const e = 1 - d;
    const ofInput = input + (band * a2 + low * a3);
    const ofFirst = band * a1 + low * a2;
    const ofSecond = low * (1 - a3) - band * a2;
    let s1 = this.integrator1;
    let s2 = this.integrator2;
    for (let i = 0; i < frames; i++) {
      const x = block[i]!;
      block[i] = ofInput * x + (ofFirst * s1 + ofSecond * s2);
      const first = b * x + TINY + c * s1 - b * s2 - TINY;
      s2 = d * x + TINY + b * s1 + e * s2 - TINY;
      s1 = first;
    }
    this.integrator1 = s1;
    this.integrator2 = s2;
  }
}
