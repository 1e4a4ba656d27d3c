import { airLossDb } from './airAbsorption';

describe('loss of sound in air', () => {
  it.each([
    // ISO 9613-1, table 1: dB a kilometre at 20 degrees and 50 % humidity, and at 10 degrees and 70 %.
    [125, 20, 50, 0.445],
    [1000, 20, 50, 4.66],
    [4000, 20, 50, 29.7],
    [8000, 20, 50, 105],
    [1000, 10, 70, 3.66],
    [4000, 10, 70, 32.8],
  ])('at %d Hz, %d degrees and %d %% humidity is what the standard has', (hz, celsius, humidity, perKilometre) => {
    expect(Math.abs((1000 * airLossDb(hz, celsius, humidity)) / perKilometre - 1)).toBeLessThan(0.02);
  });
});
