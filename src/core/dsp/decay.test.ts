import { Noise } from './noise';
import { SeededRandom } from '../math/random';
import { clarityOf, denseAfter, echoDensity, measureRoom, octaveDecay, octavesAt } from './decay';

const RATE = 48000;

/** Noise that falls by 60 dB in so many seconds. */
function decaying(seconds: number, length: number, seed: number, floorDb = -Infinity): Float64Array {
  const noise = new Noise(seed);
  const other = new Noise(seed + 99);
  const floor = 10 ** (floorDb / 20);
  return Float64Array.from(
    { length: length * RATE },
    (_, n) => noise.white() * 10 ** ((-3 * n) / RATE / seconds) + floor * other.white(),
  );
}

describe('decay of an impulse response', () => {
  it.each([0.3, 1, 4])('is found in every octave within what noise itself varies: %d s', (seconds) => {
    for (const centre of octavesAt(RATE)) {
      const found = octaveDecay([decaying(seconds, 2 * seconds, 1), decaying(seconds, 2 * seconds, 2)], centre, RATE);
      // Deviation of a decay of band-limited noise: the lower and shorter the fewer independent samples there are.
      const spread = 4 / Math.sqrt(centre * Math.SQRT1_2 * seconds);
      expect(Math.abs(found.t30! / seconds - 1)).toBeLessThan(Math.max(0.015, spread));
    }
  });

  it('is found above noise, and left open where the noise leaves too little', () => {
    const clear = octaveDecay([decaying(1, 3, 5, -70)], 1000, RATE);
    expect(Math.abs(clear.t30! - 1)).toBeLessThan(0.05);
    expect(octaveDecay([decaying(1, 3, 5, -25)], 1000, RATE).t30).toBeNull();
    expect(octaveDecay([decaying(8, 1, 5)], 1000, RATE).t30).toBeNull();
  });

  it('has the clarity of theory: an exponential decay parted at t', () => {
    const sound = decaying(1.2, 3, 3);
    for (const t of [0.05, 0.08]) {
      const left = 10 ** ((-6 * t) / 1.2);
      expect(Math.abs(clarityOf([sound], t, RATE) - 10 * Math.log10((1 - left) / left))).toBeLessThan(0.4);
    }
    const room = measureRoom([sound], RATE);
    expect(Math.abs(room.edt! - 1.2)).toBeLessThan(0.15);
    expect(room.octaves.map(({ centreHz }) => centreHz)).toEqual([63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000]);
  });

  it('says when echoes lie as close as noise', () => {
    const random = new SeededRandom(4);
    // From one echo in 10 ms to one in every sample, after 200 ms.
    const sound = Float64Array.from({ length: RATE }, (_, n) => {
      const often = n < 0.2 * RATE ? 100 / RATE : 1;
      return random.uniform() < often ? random.bipolar() + random.bipolar() + random.bipolar() : 0;
    });
    expect(echoDensity(sound, 4800, 480)).toBeLessThan(0.2);
    expect(echoDensity(sound, 24000, 480)).toBeGreaterThan(0.85);
    expect(Math.abs(denseAfter(sound, RATE, 0)! - 0.2)).toBeLessThan(0.03);
  });

  it('copes with silence', () => {
    const silent = measureRoom([new Float64Array(RATE)], RATE);
    expect(silent.t30).toBeNull();
    expect(silent.octaves.every(({ t30 }) => t30 === null)).toBe(true);
  });
});
