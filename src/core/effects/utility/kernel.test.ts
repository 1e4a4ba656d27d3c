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

  it('holds back by whole frames, and goes from one delay to another and a third without a click', () => {
    const between = run(kernelOf('utility', { delaySamples: 10.4 }), left, right).left;
    expect(firstDifference(between.slice(10), left.slice(0, -10))).toBe(-1);
    const tone = sine(300, 48000, 48000, 0.5);
    const kernel = kernelOf('utility', { delaySamples: 100 });
    // The second change comes while the first is under way.
    const moves = new Map([
      [12800, 900],
      [13056, 3.6],
    ]);
    const out = run(kernel, tone, tone, [128], (frame) => {
      const delay = moves.get(frame);
      if (delay !== undefined) setValue(kernel, 'utility', 'delaySamples', delay);
    });
    // A straight crossfade of 20 ms between opposite phases bends by that much more at its ends.
    expect(largestBend(out.left.slice(200))).toBeLessThan(largestBend(tone) + 1 / 960);
    expect(firstDifference(out.left.slice(20000), tone.slice(19996, -4))).toBe(-1);
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
