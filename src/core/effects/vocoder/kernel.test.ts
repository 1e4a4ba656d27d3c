import { drawn, thinned } from '../../../../test/support/sweep';
import fc from 'fast-check';
import { amplitudeAt, db, kernelOf, largest, RATES, setValue, readMeter } from '../../../../test/support/render';
import { shipped } from '../../../../test/support/shipped';
import { speak, throughBand } from '../../../../test/support/vocoder';
import { bandCentres, bandEdges, MOST_BANDS } from '../../dsp/bandLayout';
import { bandPassAt, designBandPass } from '../../dsp/bandPass';
import { Noise } from '../../dsp/noise';
import type { Kernel } from '../kernel';
import type { ParameterValues } from '../spec';

const keyHz = (key: number) => 440 * 2 ** ((key - 69) / 12);

const STEP_SECONDS = 0.02;

/** Levels of bands over time. */
function envelopes(sound: Float32Array, rate: number, edges: readonly number[]): number[][] {
  const step = Math.round(STEP_SECONDS * rate);
  return edges.slice(1).map((high, n) => {
    const band = designBandPass(edges[n]!, high, 4, rate);
    const levels: number[] = [];
    let sum = 0;
    throughBand(band, sound).forEach((x, i) => {
      sum += x * x;
      if ((i + 1) % step === 0) {
        levels.push(Math.sqrt(sum / step));
        sum = 0;
      }
    });
    return levels;
  });
}

function correlation(a: readonly number[], b: readonly number[]): number {
  const mean = (x: readonly number[]) => x.reduce((sum, one) => sum + one, 0) / x.length;
  const [ma, mb] = [mean(a), mean(b)];
  let [ab, aa, bb] = [0, 0, 0];
  a.forEach((one, n) => {
    ab += (one - ma) * (b[n]! - mb);
    aa += (one - ma) ** 2;
    bb += (b[n]! - mb) ** 2;
  });
  return ab / Math.sqrt(aa * bb + 1e-20);
}

const noiseOf = (length: number, seed = 6) => {
  const noise = new Noise(seed);
  return Float32Array.from({ length }, () => 0.3 * noise.white());
};

/**
 * Intelligibility of the words of one sound in another, about 0 to 1: the correlation of band levels over stretches of
 * 400 ms, averaged (after Taal et al., "An algorithm for intelligibility prediction of time-frequency weighted noisy
 * speech", 2011), in fifteen bands of a third of an octave from 150 Hz up.
 */
function intelligibility(clean: Float32Array, heard: Float32Array, rate: number): number {
  const edges = Array.from({ length: 16 }, (_, n) => 134 * 2 ** (n / 3));
  const [a, b] = [envelopes(clean, rate, edges), envelopes(heard, rate, edges)];
  const stretch = 20;
  let sum = 0;
  let count = 0;
  a.forEach((levels, band) => {
    for (let from = 0; from + stretch <= levels.length; from += stretch / 2) {
      const piece = levels.slice(from, from + stretch);
      if (Math.max(...piece) < 1e-3) continue;
      sum += correlation(piece, b[band]!.slice(from, from + stretch));
      count++;
    }
  });
  return sum / count;
}

const PLAIN: ParameterValues = { inputLevelling: 0, unvoiced: 0, carrier: 'key', even: 0 };

describe('vocoder', () => {
  it.each(drawn('rates of 20 bands', RATES))(
    'gives the levels of 20 bands of a voice to a noise, at %d Hz',
    async (rate) => {
      const voice = await shipped('announcer.flac', rate, 2);
      const values = { ...PLAIN, order: '8', bands: 20, low: 90, high: 10000, attack: 1, release: 15 };
      const edges = bandEdges({ bands: 20, order: 4, spacing: 'bark', lowHz: 90, highHz: 10000, bandwidth: 1 });
      const before = envelopes(voice, rate, edges);
      // The chance of one noise is no matter of the vocoder: levels are means of sixteen.
      const runs = Array.from({ length: 16 }, (_, seed) =>
        envelopes(speak(kernelOf('vocoder', values, rate), voice, noiseOf(voice.length, seed + 1)).left, rate, edges),
      );
      const loud = before.map((levels) => Math.max(...levels));
      before.forEach((levels, band) => {
        // Bands in which the voice has nothing have no level to tell.
        if (loud[band]! < 0.01 * Math.max(...loud)) return;
        const after = levels.map((_, n) => Math.hypot(...runs.map((run) => run[band]![n]!)));
        expect([band, correlation(levels, after) > 0.9]).toEqual([band, true]);
      });
    },
  );

  it('is silent while either is', () => {
    const noise = noiseOf(24000);
    const silence = new Float32Array(24000);
    expect(largest(speak(kernelOf('vocoder', { carrier: 'key' }), noise, silence).left)).toBe(0);
    expect(largest(speak(kernelOf('vocoder', { carrier: 'key' }), silence, noise).left)).toBeLessThan(1e-9);
    expect(largest(speak(kernelOf('vocoder', {}), silence).left)).toBeLessThan(1e-9);
    expect(largest(speak(kernelOf('vocoder', { noteSource: 'lane', sibilance: 0 }), noise).left)).toBeLessThan(1e-4);
  });

  it('is understood the better the more bands there are and the steeper they are', async () => {
    const rate = 48000;
    const voice = await shipped('announcer.flac', rate, 4);
    // A click every 60th of a second has something in every band at any time, and no chance in it.
    const clicks = Float32Array.from({ length: voice.length }, (_, n) => (n % 800 === 0 ? 1 : 0));
    const heard = (values: ParameterValues) => {
      const kernel = kernelOf('vocoder', { ...PLAIN, attack: 1, release: 15, ...values });
      return intelligibility(voice, speak(kernel, voice, clicks).left, rate);
    };
    const rises = (figures: readonly number[]) =>
      figures.slice(1).forEach((figure, n) => expect(figure).toBeGreaterThan(figures[n]! + 0.005));
    const byBands = [4, 8, 16, 32].map((bands) => heard({ bands, order: '4' }));
    rises(byBands);
    rises(['2', '4', '8'].map((order) => heard({ bands: 8, order })));
    rises(['2', '4', '8'].map((order) => heard({ bands: 12, order })));
    expect(byBands[0]).toBeLessThan(0.8);
    expect(byBands[3]).toBeGreaterThan(0.85);
    // A carrier alone tells nothing of the words.
    expect(intelligibility(voice, clicks, rate)).toBeLessThan(0.25);
  });

  it('plays the chord, a lane, what is played by hand, or the voice’s own pitch in the key', () => {
    const voice = Float32Array.from({ length: 48000 }, (_, n) => {
      const phase = (2 * Math.PI * 203 * n) / 48000;
      return 0.2 * (Math.sin(phase) + Math.sin(2 * phase) + Math.sin(3 * phase) + Math.sin(4 * phase));
    });
    const keys = (kernel: Kernel) => readMeter(kernel, 'vocoder', 'keys').filter((key) => !Number.isNaN(key));
    const chord = kernelOf('vocoder', { notes: 'Dm7', transpose: 2 });
    speak(chord, voice.subarray(0, 9600));
    expect(keys(chord)).toEqual([52, 55, 59, 62]);
    const lane = kernelOf('vocoder', { noteSource: 'lane' });
    lane.handleEvent!({ kind: 'noteOn', key: 60, velocity: 1 }, 5);
    speak(lane, voice.subarray(0, 9600));
    expect(keys(lane)).toEqual([60]);
    const hand = kernelOf('vocoder', { noteSource: 'midi' });
    hand.handleEvent!({ kind: 'noteOn', key: 60, velocity: 1 }, 0);
    hand.handleEvent!({ kind: 'noteOn', key: 64, velocity: 1, byHand: true }, 0);
    speak(hand, voice.subarray(0, 9600));
    expect(keys(hand)).toEqual([64]);
    const follow = kernelOf('vocoder', { noteSource: 'follow', transpose: -12 });
    // 203 Hz lie a quarter of a semitone under G sharp; in C major G and A are the nearest.
    follow.setMusicalContext!({ framesPerBeat: 24000, scale: [0, 2, 4, 5, 7, 9, 11] });
    const { left } = speak(follow, voice);
    expect(keys(follow)).toEqual([55 - 12]);
    expect(amplitudeAt(left.subarray(24000), keyHz(43) * 4, 48000)).toBeGreaterThan(0.01);
  });

  it('sounds at the keys that are played, whatever the voice’s pitch', async () => {
    const voice = await shipped('announcer.flac');
    const { left } = speak(
      kernelOf('vocoder', { notes: 'D3', carrierVoices: 1, carrierNoise: 0, unvoiced: 0, bands: 32 }),
      voice,
    );
    const hz = keyHz(50);
    const between = (times: number) => amplitudeAt(left, hz * times, 48000);
    const harmonics = [2, 3, 4, 5, 6].map(between);
    const gaps = [2.5, 3.5, 4.5, 5.5].map(between);
    expect(db(Math.max(...harmonics) / Math.max(...gaps))).toBeGreaterThan(20);
  });

  it('moves formants by as much as is set, on every spacing', () => {
    const tone = Float32Array.from({ length: 24000 }, (_, n) => 0.5 * Math.sin((2 * Math.PI * 1000 * n) / 48000));
    const carrier = noiseOf(tone.length);
    for (const spacing of ['logarithmic', 'bark', 'linear']) {
      for (const formantShift of [-12, 0, 12]) {
        const values = { ...PLAIN, bands: 48, spacing, formantShift, order: '8', low: 100, high: 8000 };
        const { left } = speak(kernelOf('vocoder', values), tone, carrier);
        const at = (hz: number) =>
          Math.hypot(...[0.97, 1, 1.03].map((x) => amplitudeAt(left.subarray(9600), hz * x, 48000)));
        const wanted = 1000 * 2 ** (formantShift / 12);
        for (const other of [500, 1000, 2000]) {
          if (other !== wanted) expect(db(at(wanted) / at(other))).toBeGreaterThan(15);
        }
      }
    }
  });

  it('holds the mouth while it is frozen, in the bands that are named', () => {
    const voice = noiseOf(9600, 3);
    const carrier = noiseOf(48000, 4);
    const kernel = kernelOf('vocoder', { ...PLAIN, release: 20 });
    speak(kernel, voice, carrier.subarray(0, 9600));
    setValue(kernel, 'vocoder', 'freezeHigh', 1000);
    setValue(kernel, 'vocoder', 'freeze', true);
    speak(kernel, voice.subarray(0, 960), carrier.subarray(0, 960));
    expect(kernel.tailSeconds()).toBe(Infinity);
    const { left } = speak(kernel, new Float32Array(38400), carrier.subarray(9600));
    const levels = readMeter(kernel, 'vocoder', 'bands').slice(0, MOST_BANDS);
    const centres = bandCentres({ bands: 24, order: 4, spacing: 'bark', lowHz: 90, highHz: 10000, bandwidth: 1 });
    centres.forEach((hz, band) => expect([hz, levels[band]! > -60]).toEqual([hz, hz <= 1000]));
    expect(largest(left.subarray(30000))).toBeGreaterThan(0.01);
    setValue(kernel, 'vocoder', 'freeze', false);
    const after = speak(kernel, new Float32Array(48000), carrier);
    expect(largest(after.left.subarray(40000))).toBeLessThan(1e-3);
  });

  it('holds the same mouth when the spectrum is divided anew', () => {
    const noise = (length: number) => noiseOf(length, 6);
    for (const [id, value] of [
      ['bands', 12],
      ['bands', 40],
      ['order', '2'],
      ['spacing', 'logarithmic'],
    ] as const) {
      const kernel = kernelOf('vocoder', { ...PLAIN, bands: 24, order: '4', release: 2000 });
      // A vowel: strong about 700 Hz.
      const vowel = Float32Array.from({ length: 24000 }, (_, n) => 0.4 * Math.sin((2 * Math.PI * 700 * n) / 48000));
      speak(kernel, vowel, noise(24000));
      setValue(kernel, 'vocoder', 'freeze', true);
      const before = speak(kernel, new Float32Array(24000), noise(24000)).left;
      setValue(kernel, 'vocoder', id, value);
      const after = speak(kernel, new Float32Array(48000), noise(48000)).left;
      const tones = (sound: Float32Array, hz: number) =>
        Math.hypot(...Array.from({ length: 21 }, (_, n) => amplitudeAt(sound, hz + 10 * (n - 10), 48000)));
      const [was, is] = [tones(before, 700), tones(after.subarray(24000), 700)];
      expect([id, value, Math.abs(db(is / was)) < 6]).toEqual([id, value, true]);
      expect(is).toBeGreaterThan(3 * tones(after.subarray(24000), 3000));
    }
  });

  it('tells the levels of voice, carrier and output by band', () => {
    const tone = (hz: number, gain: number) =>
      Float32Array.from({ length: 48000 }, (_, n) => gain * Math.sin((2 * Math.PI * hz * n) / 48000));
    const values = { ...PLAIN, bands: 16, spacing: 'logarithmic', low: 100, high: 6400, order: '8' };
    const layout = { bands: 16, order: 8, spacing: 'logarithmic', lowHz: 100, highHz: 6400, bandwidth: 1 } as const;
    const centres = bandCentres(layout);
    const kernel = kernelOf('vocoder', values);
    speak(kernel, tone(centres[5]!, 0.5), tone(centres[5]!, 0.25));
    const levels = readMeter(kernel, 'vocoder', 'bands');
    const [voice, carrier, out] = [0, 1, 2].map((n) => levels.slice(n * MOST_BANDS, n * MOST_BANDS + 16));
    expect(voice!.indexOf(Math.max(...voice!))).toBe(5);
    expect(carrier![5]).toBeCloseTo(db(0.25 / Math.SQRT2), 0);
    // The product of both, brought back to the level of a voice on a carrier at full scale.
    expect(out![5]! - (voice![5]! + carrier![5]!)).toBeCloseTo(db(4 * Math.sqrt(16)), 0);
    const band = designBandPass(bandEdges(layout)[5]!, bandEdges(layout)[6]!, 8, 48000);
    expect(db(bandPassAt(band, centres[5]!, 48000))).toBeCloseTo(0, 1);
  });

  it('lets hiss through as noise, as strong as the carrier', () => {
    const high = Float32Array.from({ length: 24000 }, (_, n) => 0.3 * Math.sin((2 * Math.PI * 7000 * n) / 48000));
    const carrier = Float32Array.from({ length: 24000 }, (_, n) => 0.3 * Math.sin((2 * Math.PI * 200 * n) / 48000));
    const strength = (unvoiced: number) => {
      const { left } = speak(kernelOf('vocoder', { ...PLAIN, unvoiced }), high, carrier);
      return Math.sqrt(left.subarray(9600).reduce((sum, x) => sum + x * x, 0) / 14400);
    };
    expect(strength(0)).toBeLessThan(1e-3);
    expect(strength(100)).toBeGreaterThan(0.01);
    expect(db(strength(100) / strength(50))).toBeCloseTo(6, 0);
  });

  it('stays finite and within bounds over random settings, with everything changing', async () => {
    const values = fc.record({
      bands: fc.integer({ min: 4, max: 64 }),
      order: fc.constantFrom('2', '4', '6', '8'),
      bandwidth: fc.double({ min: 0.25, max: 4, noNaN: true }),
      low: fc.constantFrom(40, 800),
      high: fc.constantFrom(1500, 16000),
      formantShift: fc.integer({ min: -24, max: 24 }),
      attack: fc.constantFrom(0.5, 200),
      carrierWave: fc.constantFrom('saw', 'pulse', 'stack', 'fm', 'noise'),
      noteSource: fc.constantFrom('chord', 'follow'),
      sibilance: fc.constantFrom(-60, 12),
    });
    const voice = (await shipped('announcer.flac')).subarray(0, 24000);
    fc.assert(
      fc.property(values, values, fc.constantFrom(...RATES), (first, second, rate) => {
        const kernel = kernelOf('vocoder', first, rate);
        speak(kernel, voice);
        for (const [id, value] of Object.entries(second)) setValue(kernel, 'vocoder', id, value);
        const { left, right } = speak(kernel, voice);
        expect(Math.max(largest(left), largest(right))).toBeLessThan(12);
      }),
      { numRuns: thinned(15) },
    );
  });
});
