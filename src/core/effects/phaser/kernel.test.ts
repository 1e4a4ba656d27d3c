import { drawn } from '../../../../test/support/sweep';
import {
  amplitudeAt,
  db,
  impulse,
  kernelOf,
  largest,
  RATES,
  run,
  setValue,
  sine,
} from '../../../../test/support/render';
import { FourierTransform } from '../../dsp/fft';
import { Noise } from '../../dsp/noise';
import { STAGE_COUNTS } from './spec';

/** Magnitudes up to half the rate from an impulse response. */
function magnitudes(values: Record<string, number | string | boolean>, rate: number): Float64Array {
  const size = 65536;
  const out = run(kernelOf('phaser', values, rate), impulse(size)).left;
  const re = Float64Array.from(out);
  const im = new Float64Array(size);
  new FourierTransform(size).forward(re, im);
  return re.slice(0, size / 2).map((x, bin) => Math.hypot(x, im[bin]!));
}

describe('phaser', () => {
  it.each(drawn('rates of notches', RATES))('has half as many notches as stages at %d Hz', (rate) => {
    for (const stages of STAGE_COUNTS) {
      for (const spread of [0, 1.5]) {
        const levels = magnitudes({ stages: String(stages), spread, depth: 0, centre: 1000, mix: 50 }, rate);
        let notches = 0;
        for (let bin = 2; bin < levels.length - 2; bin++) {
          const least = levels[bin]! <= levels[bin - 1]! && levels[bin]! < levels[bin + 1]!;
          if (least && levels[bin]! < 0.3) notches++;
        }
        expect([stages, spread, notches]).toEqual([stages, spread, stages / 2]);
      }
    }
  });

  it('two stages at one frequency have their notch there, deeper than 40 dB', () => {
    const values = { stages: '2', spread: 0, depth: 0, centre: 1000, mix: 50 };
    const tone = sine(1000, 48000, 48000, 0.25);
    const out = run(kernelOf('phaser', values), tone).left.slice(24000);
    expect(db(amplitudeAt(out, 1000, 48000) / 0.25)).toBeLessThan(-40);
  });

  it('is all-pass when only the wet sound is heard', () => {
    const levels = magnitudes({ mix: 100, depth: 0, stages: '8' }, 48000);
    for (let bin = 20; bin < levels.length; bin += 97) expect(Math.abs(db(levels[bin]!))).toBeLessThan(0.05);
  });

  it('moves its notch by its depth in octaves and back', () => {
    const rate = 48000;
    const values = { stages: '2', spread: 0, centre: 800, depth: 1, rate: 0.5, stereoPhase: 180, mix: 50 };
    const level = (hz: number, second: number, side: 'left' | 'right') => {
      const kernel = kernelOf('phaser', values);
      kernel.locate(Math.round((second - 0.1) * rate));
      const out = run(kernel, sine(hz, rate, rate / 5, 0.25))[side].slice(rate * 0.08, rate * 0.12);
      return db(amplitudeAt(out, hz, rate) / 0.25);
    };
    // Half a second into a cycle of two the left side is at the top, an octave up, the right at the bottom.
    expect(level(1600, 0.5, 'left')).toBeLessThan(-20);
    expect(level(400, 0.5, 'right')).toBeLessThan(-20);
    expect(level(400, 0.5, 'left')).toBeGreaterThan(-3);
  });

  it('holds its sweep', () => {
    const kernel = kernelOf('phaser', { depth: 3, rate: 2, feedback: 60 });
    setValue(kernel, 'phaser', 'holdSweep', true);
    run(kernel, impulse(48000));
    const first = run(kernel, impulse(4800)).left;
    run(kernel, new Float32Array(48000));
    const second = run(kernel, impulse(4800)).left;
    for (let n = 0; n < 4800; n += 11) expect(Math.abs(first[n]! - second[n]!)).toBeLessThan(1e-6);
  });

  it('never runs away', () => {
    const noise = new Noise(3);
    const loud = Float32Array.from({ length: 48000 * 8 }, () => noise.white());
    for (const feedback of [95, -95]) {
      const out = run(kernelOf('phaser', { feedback, stages: '24', mix: 100, spread: 0 }), loud).left;
      expect(largest(out)).toBeLessThan(1.995);
      expect(largest(out)).toBeGreaterThan(0.1);
    }
  });
});
