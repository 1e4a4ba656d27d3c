import { amplitudeAt, db, largest } from '../../../test/support/render';
import { renderTestSignal, TEST_SIGNALS } from './testSignals';

const rms = (sound: Float32Array) => Math.sqrt(sound.reduce((sum, x) => sum + x * x, 0) / sound.length);

describe('test signals', () => {
  it.each(TEST_SIGNALS.map(({ id, seconds }) => [id, seconds] as const))(
    '%s lasts what it says, does not clip and begins and ends in silence',
    (id, seconds) => {
      for (const rate of [44100, 96000]) {
        const { left, right } = renderTestSignal(id, rate);
        expect(left).toHaveLength(Math.round(seconds * rate));
        expect(largest(left)).toBeLessThanOrEqual(1);
        expect(largest(right)).toBeGreaterThan(0.05);
        expect(Math.abs(left.at(-1)!)).toBeLessThan(0.01);
      }
    },
  );

  it('are what they are called', () => {
    const rate = 48000;
    expect(renderTestSignal('click', rate).left.filter((x) => x !== 0)).toEqual(Float32Array.of(1));
    const sine = renderTestSignal('sine', rate).left.slice(rate, 2 * rate);
    expect(db(amplitudeAt(sine, 1000, rate))).toBeCloseTo(-12.04, 1);
    expect(db(rms(sine) * Math.SQRT2)).toBeCloseTo(-12.04, 1);
    // A sweep is at the geometric mean of its ends half-way through.
    const sweep = renderTestSignal('sweep', rate).left;
    const middle = sweep.slice(4 * rate - 1200, 4 * rate + 1200);
    expect(amplitudeAt(middle, Math.sqrt(20 * 20000), rate)).toBeGreaterThan(0.15);
    // Octaves of pink noise are alike.
    const noise = renderTestSignal('noise', rate).left;
    const octave = (low: number) => {
      let power = 0;
      for (let hz = low; hz < 2 * low; hz *= 1.01) power += amplitudeAt(noise.slice(0, 65536), hz, rate) ** 2 * hz;
      return 10 * Math.log10(power);
    };
    expect(Math.abs(octave(400) - octave(3200))).toBeLessThan(3);
  });

  it('the chord has one note on the left, one in the centre, one on the right', () => {
    const { left, right } = renderTestSignal('chord', 48000);
    const at = (sound: Float32Array, hz: number) => amplitudeAt(sound.slice(4800, 52800), hz, 48000);
    expect(db(at(left, 146.8324) / at(right, 146.8324))).toBeGreaterThan(40);
    expect(Math.abs(db(at(left, 174.6141) / at(right, 174.6141)))).toBeLessThan(0.1);
    expect(db(at(right, 220) / at(left, 220))).toBeGreaterThan(40);
  });

  it('names the signal there is not', () => {
    expect(() => renderTestSignal('whistle', 48000)).toThrow('whistle');
  });
});
