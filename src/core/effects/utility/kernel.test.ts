import {
  amplitudeAt,
  db,
  firstDifference,
  kernelOf,
  largestBend,
  run,
  setValue,
  sine,
} from '../../../../test/support/render';

const left = sine(300, 48000, 9601, 0.5).slice(1);
const right = sine(700, 48000, 9601, 0.25).slice(1);

describe('utility', () => {
  it('is the input bit for bit by default', () => {
    const out = run(kernelOf('utility', {}), left, right);
    expect(firstDifference(out.left, left)).toBe(-1);
    expect(firstDifference(out.right, right)).toBe(-1);
  });

  it('sets level, polarity, sides, mono and delay', () => {
    expect(run(kernelOf('utility', { gain: -100 }), left, right).left.every((x) => x === 0)).toBe(true);
    expect(
      firstDifference(
        run(kernelOf('utility', { polarityRight: true }), left, right).right,
        right.map((x) => -x),
      ),
    ).toBe(-1);
    expect(firstDifference(run(kernelOf('utility', { swap: true }), left, right).left, right)).toBe(-1);
    const mono = run(kernelOf('utility', { mono: true }), left, right);
    expect(firstDifference(mono.left, mono.right)).toBe(-1);
    expect(mono.left[100]).toBeCloseTo((left[100]! + right[100]!) / 2, 6);
    const late = run(kernelOf('utility', { delaySamples: 37 }), left, right).left;
    expect(firstDifference(late.slice(37), left.slice(0, -37))).toBe(-1);
  });

  it('cuts lows by 12 dB an octave', () => {
    const low = sine(50, 48000, 48000, 0.5);
    const out = run(kernelOf('utility', { lowCut: 200 }), low).left.slice(9600);
    expect(db(amplitudeAt(out, 50, 48000) / 0.5)).toBeCloseTo(-24.1, 0);
  });

  it.each<[string, number | boolean]>([
    ['gain', -20],
    ['polarityLeft', true],
    ['swap', true],
    ['mono', true],
    ['delaySamples', 900],
    ['lowCut', 500],
  ])('moves %s without a click', (id, value) => {
    const kernel = kernelOf('utility', {});
    const tone = sine(100, 48000, 9600, 0.5);
    const out = run(kernel, tone, sine(120, 48000, 9600, 0.5), [128], (frame) => {
      if (frame === 4864) setValue(kernel, 'utility', id, value);
    }).left;
    expect(largestBend(out.slice(128))).toBeLessThan(0.002);
  });
});
