import { SeededRandom } from '../math/random';
import { OCTAVES_HZ } from './octaveBands';
import { DECAY_BANDS, DecayFilters, SECTION } from './decayFilters';

/** Level in dB of a gain and its sections at a frequency, straight from the transfer function. */
function levelDb(gain: number, sections: Float64Array, hz: number, rate: number): number {
  let db = 20 * Math.log10(gain);
  const w = (2 * Math.PI * hz) / rate;
  const magnitude = (c0: number, c1: number, c2: number) =>
    Math.hypot(c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w), c1 * Math.sin(w) + c2 * Math.sin(2 * w));
  for (let at = 0; at < sections.length; at += SECTION) {
    const [b0, b1, b2, a1, a2] = sections.subarray(at, at + SECTION) as unknown as [
      number,
      number,
      number,
      number,
      number,
    ];
    db += 20 * Math.log10(magnitude(b0, b1, b2) / magnitude(1, a1, a2));
  }
  return db;
}

describe.each([44100, 48000, 96000])('filters for a decay by octaves at %d Hz', (rate) => {
  const filters = new DecayFilters(rate);
  const sections = new Float64Array(SECTION * DECAY_BANDS);
  const lossesOf = (seconds: readonly number[]) => Float64Array.from(seconds, (rt) => -60 / (rt * rate));

  it('lose what is wanted within 3 % in every octave, at random decays of neighbours up to 1.6 apart', () => {
    const random = new SeededRandom(rate);
    for (let trial = 0; trial < 200; trial++) {
      let seconds = 0.3 * 66 ** random.uniform();
      const wish = OCTAVES_HZ.map(() => (seconds *= 1.6 ** random.bipolar()));
      const frames = Math.round(rate * (0.004 + 0.2 * random.uniform()));
      const losses = lossesOf(wish);
      const gain = filters.design(losses, frames, sections);
      for (let band = 0; band < DECAY_BANDS; band++) {
        const wanted = losses[band]! * frames;
        const found = levelDb(gain, sections, Math.min(OCTAVES_HZ[band]!, 0.46 * rate), rate);
        // A band that loses more than that in one pass is gone after the next.
        if (wanted > -40) expect([band, Math.abs(found / wanted - 1) < 0.03]).toEqual([band, true]);
      }
    }
  });

  it('never let a sound grow, whatever the wish', () => {
    const random = new SeededRandom(7);
    for (let trial = 0; trial < 100; trial++) {
      const losses = lossesOf(OCTAVES_HZ.map(() => 0.1 * 2400 ** random.uniform()));
      const gain = filters.design(losses, Math.round(rate * 0.5 * random.uniform()) + 140, sections);
      let most = -Infinity;
      for (let hz = 10; hz < 0.5 * rate; hz *= 1.02) most = Math.max(most, levelDb(gain, sections, hz, rate));
      expect(most).toBeLessThan(0.002);
      expect(sections.every(Number.isFinite)).toBe(true);
    }
  });

  it('let everything through, bit for bit, where nothing is to be lost', () => {
    expect(filters.design(new Float64Array(DECAY_BANDS), 3000, sections)).toBe(1);
    for (let at = 0; at < sections.length; at += SECTION) {
      expect(sections[at]).toBe(1);
      expect(sections[at + 1]).toBe(sections[at + 3]);
      expect(sections[at + 2]).toBe(sections[at + 4]);
    }
  });
});
