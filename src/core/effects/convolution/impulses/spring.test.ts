import { drawn } from '../../../../../test/support/sweep';
import { decayCurveOf, decaySeconds } from '../../../dsp/decay';
import { figuresOf } from './simulator';
import { spring } from './spring';

describe('springs', () => {
  it.each(
    drawn('springs', [
      [0.5, 48000],
      [1.3, 44100],
      [3, 48000],
      [8, 48000],
      [2, 96000],
    ] as const),
  )('decay in the %d s that are set, at %d Hz, within 5 %% over eight seeds', (decay, rate) => {
    let sum = 0;
    for (let seed = 1; seed <= 8; seed++) {
      const impulse = spring.simulate(figuresOf(spring, { decay }), seed, rate, () => {});
      sum += decaySeconds(decayCurveOf(impulse), rate)!;
    }
    expect(Math.abs(sum / 8 / decay - 1)).toBeLessThan(0.05);
  });

  it('carry nothing an octave above their cut-off', () => {
    const [left] = spring.simulate(figuresOf(spring, { cutoff: 2000 }), 1, 48000, () => {});
    let power = 0;
    let above = 0;
    for (let n = 1; n < left!.length; n++) {
      power += left![n]! ** 2;
      // The second difference weighs what is above 4 kHz more than 20 dB over what is under 1 kHz.
      if (n > 1) above += (left![n]! - 2 * left![n - 1]! + left![n - 2]!) ** 2;
    }
    expect(10 * Math.log10(above / power)).toBeLessThan(-15);
  });
});
