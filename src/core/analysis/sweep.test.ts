import { drawn } from '../../../test/support/sweep';
import { db } from '../../../test/support/render';
import { octaveDecays } from '../dsp/decay';
import { octaveEnergies } from '../dsp/octaves';
import { SeededRandom } from '../math/random';
import { recordIn } from './simulatedRoom';
import { measurementSignal, recoverImpulse, SWEEP, type SweepSettings } from './sweep';

const short: SweepSettings = { ...SWEEP, seconds: 4, decaySeconds: 1.5 };

/** A room's own impulse: a direct sound, a few reflections, noise that falls by 60 dB in `seconds`. */
function roomOf(seconds: number, rate: number, seed: number): Float32Array {
  const random = new SeededRandom(seed);
  const out = new Float32Array(Math.round(1.2 * rate));
  const begin = Math.round(0.004 * rate);
  for (let n = begin; n < out.length; n++) {
    out[n] = 0.08 * random.bipolar() * 0.001 ** ((n - begin) / rate / seconds);
  }
  out[begin] = 0.7;
  for (const [ms, gain] of [
    [9, 0.3],
    [14, -0.25],
    [23, 0.2],
  ] as const) {
    const at = begin + Math.round((ms / 1000) * rate);
    out[at] = out[at]! + gain;
  }
  return out;
}

describe('a sweep', () => {
  it('rises from its first to its last frequency at its level, between two pilots', () => {
    const rate = 48000;
    const signal = measurementSignal(short, rate);
    const from = Math.round(1.25 * rate);
    const peak = signal.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
    expect(db(peak)).toBeCloseTo(-6, 1);
    const crossings = (at: number, seconds: number) => {
      let count = 0;
      for (let n = from + at * rate; n < from + (at + seconds) * rate; n++) {
        if (signal[Math.round(n)]! >= 0 !== signal[Math.round(n) + 1]! >= 0) count++;
      }
      return count / seconds / 2;
    };
    // Half of the way is the geometric middle.
    expect(crossings(1.95, 0.1) / Math.sqrt(30 * 20000)).toBeCloseTo(1, 1);
    expect(signal.length).toBe(from + Math.round((4 + 1.5 + 1) * rate));
  });

  it.each(
    drawn('recordings', [
      [44100, 0, -90, 0],
      [48000, 35, -66, 0.02],
      [48000, -120, -60, 0.05],
      [96000, 12, -70, 0.01],
    ] as const),
  )(
    'is divided out of a recording at %s Hz whose clock is off by %s ppm, with noise at %s dB',
    (rate, ppm, noiseDb, distortion) => {
      const own = [roomOf(0.5, rate, 3), roomOf(0.5, rate, 4)];
      const place = { paths: own, noiseDb, clockPpm: ppm, distortion, seed: 8 };
      const recorded = recordIn(place, measurementSignal(short, rate), rate);
      const { paths, clockPpm, distortionDb, noiseDb: left } = recoverImpulse(recorded, short, rate);
      expect(Math.abs(clockPpm - ppm)).toBeLessThan(0.5);
      expect(left).toBeLessThan(-60);
      const errors: number[][] = [];
      for (const [side, path] of paths.entries()) {
        for (const hz of [63, 125, 250, 500, 1000, 2000, 4000, 8000]) {
          const [wanted, found] = [own[side]!, path].map((sound) =>
            db(Math.sqrt(octaveEnergies([sound], [hz], rate)[0]!)),
          );
          errors.push([hz, Number((found! - wanted!).toFixed(2))]);
        }
        const decay = octaveDecays([path], [1000], rate)[0]!.t30!;
        expect(decay / octaveDecays([own[side]!], [1000], rate)[0]!.t30!).toBeCloseTo(1, 1);
        // The direct sound comes where it is.
        const peak = path.reduce((best, x, n) => (Math.abs(x) > Math.abs(path[best]!) ? n : best), 0);
        expect(Math.abs(peak - 0.002 * rate)).toBeLessThan(2);
      }
      // Low octaves ring ahead of the direct sound, and the impulse is cut there: the sweep begins at 30 Hz.
      expect(errors.filter(([hz, error]) => Math.abs(error!) >= (hz === 63 ? 2 : 1))).toEqual([]);
      if (distortion > 0) {
        expect(distortionDb).toBeGreaterThan(-60);
        expect(distortionDb).toBeLessThan(-15);
      } else expect(distortionDb).toBeLessThan(-60);
    },
  );

  it('says what is wrong with a recording', () => {
    const rate = 48000;
    const random = new SeededRandom(1);
    const noise = Float32Array.from({ length: 9 * rate }, () => 0.1 * random.bipolar());
    expect(() => recoverImpulse([noise], short, rate)).toThrow('The pilots of the sweep are not in this recording');
    expect(() => recoverImpulse([noise.subarray(0, rate)], short, rate)).toThrow('is shorter than the sweep');
  });
});
