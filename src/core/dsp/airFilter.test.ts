import { airLossDb } from './airAbsorption';
import { AIR_DESIGNS } from './airDesigns';
import { AIR_SECTION, AIR_SECTIONS, AirFilters } from './airFilter';
import { SeededRandom } from '../math/random';

const RATES = [8000, 16000, 22050, 32000, 44100, 48000, 88200, 96000, 192000];

/** Loss of all sections at a frequency, in dB. */
function lossOf(sections: Float64Array, hz: number, rate: number): number {
  const w = (2 * Math.PI * hz) / rate;
  const power = (c0: number, c1: number, c2: number) => {
    const re = c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w);
    const im = c1 * Math.sin(w) + c2 * Math.sin(2 * w);
    return re * re + im * im;
  };
  let loss = 0;
  for (let at = 0; at < sections.length; at += AIR_SECTION) {
    const [b0, b1, b2, a1, a2] = sections.subarray(at, at + AIR_SECTION);
    loss += 10 * Math.log10(power(1, a1!, a2!) / power(b0!, b1!, b2!));
  }
  return loss;
}

describe('filters of air', () => {
  it.each(RATES)('lose at %i Hz what ISO 9613-1 says, for 0.3 to 200 m', (rate) => {
    const filters = new AirFilters(rate);
    const random = new SeededRandom(rate);
    const sections = new Float64Array(AIR_SECTIONS * AIR_SECTION);
    for (let turn = 0; turn < 120; turn++) {
      const metres = 0.3 * (200 / 0.3) ** random.uniform();
      filters.design(metres, sections, 0);
      for (let hz = 250; hz <= Math.min(16000, 0.4 * rate); hz *= 1.07) {
        const wanted = airLossDb(hz) * metres;
        const loss = lossOf(sections, hz, rate);
        const off = Math.abs(loss - wanted);
        const fits = wanted <= 20 ? off < 1 : wanted <= 50 ? off < 0.05 * wanted : loss >= 45;
        if (!fits) throw new Error(`${metres} m at ${hz} Hz: ${loss} dB for ${wanted} dB`);
      }
      // Poles inside the circle.
      for (let at = 0; at < sections.length; at += AIR_SECTION) {
        const [a1, a2] = [sections[at + 3]!, sections[at + 4]!];
        expect(Math.abs(a2) < 1 && Math.abs(a1) < 1 + a2).toBe(true);
      }
    }
  });

  it('are known beforehand for the rates of sessions, as they are worked out', () => {
    for (const rate of [44100, 48000, 96000]) {
      const designs = new AirFilters(rate).allDesigns().map(({ a1, a2, b1, b2 }) => [a1, a2, b1, b2]);
      expect(AIR_DESIGNS.get(rate)).toEqual(designs);
    }
  });

  it('pass everything where there is no air', () => {
    const sections = new Float64Array(AIR_SECTIONS * AIR_SECTION).fill(9);
    expect(new AirFilters(48000).design(0, sections, 0)).toBe(0);
    expect(Array.from(sections)).toEqual([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0]);
  });
});
