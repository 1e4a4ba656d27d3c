import { Noise } from './noise';
import { SeededRandom } from '../math/random';
import { clarityOf, denseAfter, echoDensity, measureRoom, octaveDecays } from './decay';
import { FourierTransform } from './fft';
import { octavesAt } from './octaves';
import { powerOfTwoFrom } from '../math/powerOfTwo';

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

/** Two sounds through ideal band-passes an octave wide: by octave, then by sound. One transform does for both. */
function octavesOf(sounds: readonly [Float64Array, Float64Array], centres: readonly number[]): Float64Array[][] {
  const size = powerOfTwoFrom(sounds[0].length);
  const transform = new FourierTransform(size);
  const [re, im] = [new Float64Array(size), new Float64Array(size)];
  re.set(sounds[0]);
  im.set(sounds[1]);
  transform.forward(re, im);
  return centres.map((centre) => {
    const [bandRe, bandIm] = [new Float64Array(size), new Float64Array(size)];
    for (const [from, to] of [
      [centre * Math.SQRT1_2, centre * Math.SQRT2],
      [RATE - centre * Math.SQRT2, RATE - centre * Math.SQRT1_2],
    ] as const) {
      for (let k = Math.ceil((from * size) / RATE); k < (to * size) / RATE; k++) {
        bandRe[k] = re[k]!;
        bandIm[k] = im[k]!;
      }
    }
    transform.forward(bandIm, bandRe);
    return [bandRe, bandIm].map((band) => band.subarray(0, sounds[0].length).map((x) => x / size));
  });
}

describe('decay of an impulse response', () => {
  it.each([0.3, 1, 4])('is found in every octave within what noise itself varies: %d s', (seconds) => {
    const octaves = octavesAt(RATE);
    const channels = [decaying(seconds, 2 * seconds, 1), decaying(seconds, 2 * seconds, 2)];
    octaveDecays(channels, octaves, RATE).forEach(({ centreHz, t30 }) => {
      // Deviation of a decay of band-limited noise: the lower and shorter the fewer independent samples there are.
      const spread = 4 / Math.sqrt(centreHz * Math.SQRT1_2 * seconds);
      expect(Math.abs(t30! / seconds - 1)).toBeLessThan(Math.max(0.015, spread));
    });
  });

  it('is right within 3 % where neighbouring octaves differ twofold: the mean of 16 rooms', () => {
    const octaves = [125, 250, 500, 1000, 2000, 4000];
    const secondsOf = (n: number) => (n % 2 === 0 ? 0.8 : 1.6);
    const sums = octaves.map(() => 0);
    for (let seed = 1; seed <= 16; seed++) {
      const noise = new Noise(seed);
      const white = () => Float64Array.from({ length: 2.4 * RATE }, () => noise.white());
      const room = [white(), white()] as const;
      const bands = octavesOf([...room], octaves);
      room.forEach((side, channel) => {
        side.fill(0);
        bands.forEach((sounds, n) => {
          const fall = 10 ** (-3 / RATE / secondsOf(n));
          let gain = 1;
          for (let frame = 0; frame < side.length; frame++, gain *= fall)
            side[frame] = side[frame]! + sounds[channel]![frame]! * gain;
        });
      });
      octaveDecays(room, octaves, RATE).forEach(({ t30 }, n) => (sums[n] = sums[n]! + t30! / secondsOf(n) / 16));
    }
    sums.forEach((mean, n) => expect([octaves[n], Math.abs(mean - 1) < 0.03]).toEqual([octaves[n], true]));
  });

  it('is found above noise, and left open where the noise leaves too little', () => {
    const at1000 = (sound: Float64Array) => octaveDecays([sound], [1000], RATE)[0]!.t30;
    expect(Math.abs(at1000(decaying(1, 3, 5, -70))! - 1)).toBeLessThan(0.05);
    expect(at1000(decaying(1, 3, 5, -25))).toBeNull();
    expect(at1000(decaying(8, 1, 5))).toBeNull();
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

  it('says of silence that it is silent', () => {
    const nothing = new Float32Array(48000);
    expect(measureRoom([nothing, nothing], 48000)).toMatchObject({ silent: true, t30: null });
    const click = Float32Array.from({ length: 48000 }, (_, n) => (n === 100 ? 1e-3 : 0));
    expect(measureRoom([nothing, click], 48000).silent).toBe(false);
  });
});
