import {} from '../test/support/sweep';
import { shippedSession, shippedStereo } from '../test/support/shipped';
import { pitchCourse } from '../src/core/analysis/pitch';
import { FourierTransform } from '../src/core/dsp/fft';
import { renderPlan } from '../src/core/engine/render';
import { hann } from '../src/core/math/windows';
import { compile } from '../src/core/session/compile/compiler';
import { PEDAL, pitchOf, RATE, SECONDS_PER_BEAT, SONG } from './score';

/** Spectrum of a stretch through a Hann window: powers of the bins between two frequencies, and their sum in dB. */
function spectrumOf(sound: Float32Array, from: number, frames: number, size: number) {
  const re = new Float64Array(size);
  const im = new Float64Array(size);
  const window = hann(frames);
  for (let n = 0; n < frames; n++) re[n] = sound[from + n]! * window[n]!;
  new FourierTransform(size).forward(re, im);
  const bin = (hz: number) => Math.round((hz * size) / RATE);
  const powers = (low: number, high: number) =>
    Array.from({ length: bin(high) - bin(low) }, (_, n) => re[bin(low) + n]! ** 2 + im[bin(low) + n]! ** 2);
  return { powers, db: (low: number, high: number) => 10 * Math.log10(powers(low, high).reduce((a, b) => a + b, 0)) };
}

const median = (values: readonly number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!;

/** Frames of the held part of a word's vowel. */
function vowelOf([, beat, beats]: (typeof SONG)[number]) {
  const frame = (part: number) => Math.round((beat + part * beats) * SECONDS_PER_BEAT * RATE);
  return { from: frame(0.35), to: frame(0.7) };
}

describe('the sounds of the demo', () => {
  let left: Float32Array;
  beforeAll(async () => {
    ({ left } = await shippedStereo('lamp-keeper.flac'));
  });

  const held = SONG.filter(([, , beats]) => beats >= 1);

  it.each(held.map((word) => [`${word[0]} on beat ${word[1]}`, word] as const))(
    'sing %s with harmonics up to 8 kHz',
    (_, word) => {
      const { from, to } = vowelOf(word);
      const whole = spectrumOf(left, from, to - from, 65536);
      expect(whole.db(4000, 8000) - whole.db(1000, 2000)).toBeGreaterThan(-26);
      const over: number[] = [];
      for (let start = from; start + 2048 <= to; start += 1024) {
        const { powers, db } = spectrumOf(left, start, 2048, 16384);
        // The pitch of the moment, with its vibrato: where the harmonics are strongest.
        const near = 440 * 2 ** ((pitchOf(word[3]) - 69) / 12);
        const strength = (hz: number) => {
          let sum = 0;
          for (let k = 1; k * hz < 4000; k++) sum += db(k * hz - 4, k * hz + 4);
          return sum / Math.floor(4000 / hz);
        };
        const guesses = Array.from({ length: 161 }, (_, n) => near * (0.96 + n * 0.0005));
        const hz = guesses.reduce((best, one) => (strength(one) > strength(best) ? one : best));
        for (let k = Math.ceil(4000 / hz); k * hz < 8000; k++) {
          const peak = Math.max(...powers((k - 0.15) * hz, (k + 0.15) * hz));
          over.push(10 * Math.log10(peak / median(powers((k + 0.4) * hz, (k + 0.6) * hz))));
        }
      }
      expect(median(over)).toBeGreaterThan(10);
    },
  );

  it('hiss up to 14 kHz', () => {
    for (const [word, beat] of SONG.filter(([word]) => word[0] === 's')) {
      const { db } = spectrumOf(left, Math.round((beat * SECONDS_PER_BEAT + 0.02) * RATE), 2048, 2048);
      expect([word, db(11000, 14000) - db(5000, 10000) > -25]).toEqual([word, true]);
    }
  });

  it('have a pedal in tune, as strong as the middle of the mix', async () => {
    const pedal = await shippedStereo('tide-pedal.flac');
    const { hz, hopSeconds } = pitchCourse(pedal.left, RATE, 50, 200);
    for (const { beat, beats, pitch } of PEDAL) {
      const at = Math.round(((beat + beats / 2) * SECONDS_PER_BEAT) / hopSeconds);
      expect(Math.abs(1200 * Math.log2(hz[at]! / (440 * 2 ** ((pitch - 69) / 12))))).toBeLessThan(5);
    }
    const { document, samples } = await shippedSession();
    const range = { fromFrame: 8 * RATE, toFrame: 18 * RATE, tailSeconds: 0 };
    const mix = renderPlan(compile(document), samples, range)!;
    const { db } = spectrumOf(mix.left, 4 * RATE, 262144, 262144);
    expect(Math.abs(db(60, 120) - db(354, 707))).toBeLessThan(8);
  });
});
