import { db, firstDifference, kernelOf, largest, RATES, run, setValue, sine } from '../../../../test/support/render';
import { resample } from '../../dsp/resampler';
import { SeededRandom } from '../../math/random';

/** True peak by sixteenfold resampling. */
const truePeak = (sound: Float32Array) => largest(resample(sound, 1, 16)!.slice(2000, -2000));

describe('limiter', () => {
  it.each(RATES)('keeps the ceiling within 0.1 dB true peak at %d Hz', (rate) => {
    const random = new SeededRandom(4);
    const broad = Float32Array.from({ length: rate / 2 }, (_, n) => {
      const gate = Math.floor(n / 3000) % 2 === 0 ? 1 : 0.1;
      return gate * (0.6 * random.bipolar() + 0.9 * Math.sin(2 * Math.PI * 0.23 * n));
    });
    // Nothing above 0.45 of the rate, where no practical peak meter reads right.
    const burst = resample(resample(broad, 1, 0.9)!, 0.9, 1)!;
    for (const lookahead of [0.5, 4, 10]) {
      const out = run(kernelOf('limiter', { gain: 6, ceiling: -3, lookahead }, rate), burst).left;
      expect(db(truePeak(out))).toBeLessThan(-3 + 0.1);
      expect(db(truePeak(out))).toBeGreaterThan(-3.6);
    }
  });

  it('passes what is under the ceiling bit for bit, late by its latency', () => {
    const kernel = kernelOf('limiter', {});
    const tone = sine(440, 48000, 9600, 0.5);
    const out = run(kernel, tone).left;
    const late = kernel.latencyFrames;
    expect(late).toBe(480 + 12);
    expect(firstDifference(out.slice(late), tone.slice(0, tone.length - late))).toBe(-1);
  });

  it('comes back at the release time', () => {
    const rate = 48000;
    const sound = sine(1000, rate, rate, 0.1);
    for (let n = 4800; n < 5040; n++) sound[n]! *= 20;
    const out = run(kernelOf('limiter', { ceiling: -6, release: 100 }), sound).left.slice(492);
    const gainAt = (n: number) => largest(out.slice(n, n + 96)) / 0.1;
    const reduced = 1 - gainAt(5300);
    expect((1 - gainAt(5300 + 4800)) / reduced).toBeCloseTo(Math.exp(-1), 1);
  });

  it('does not depend on block sizes and moves its settings without clicks', () => {
    const tone = sine(200, 48000, 24000, 0.9);
    const values = { gain: 6, ceiling: -6 };
    expect(run(kernelOf('limiter', values), tone, undefined, [1, 33, 128]).left).toEqual(
      run(kernelOf('limiter', values), tone).left,
    );
    const kernel = kernelOf('limiter', values);
    const out = run(kernel, tone, undefined, [128], (frame) => {
      if (frame === 9600) setValue(kernel, 'limiter', 'lookahead', 0.5);
      if (frame === 12800) setValue(kernel, 'limiter', 'ceiling', -12);
      if (frame === 16000) setValue(kernel, 'limiter', 'gain', -6);
    }).left.slice(2000);
    for (let n = 1; n < out.length; n++) expect(Math.abs(out[n]! - out[n - 1]!)).toBeLessThan(0.02);
  });
});
