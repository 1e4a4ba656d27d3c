import {
  amplitudeAt,
  db,
  firstDifference,
  impulse,
  kernelOf,
  largest,
  largestBend,
  RATES,
  run,
  setValue,
  sine,
} from '../../../test/support/render';
import { SeededRandom } from '../math/random';
import type { ParameterValues } from './spec';

/** Magnitude in dB at a frequency from an impulse response. */
function magnitude(response: Float32Array, hz: number, rate: number): number {
  let re = 0;
  let im = 0;
  for (let n = 0; n < response.length; n++) {
    re += response[n]! * Math.cos((2 * Math.PI * hz * n) / rate);
    im += response[n]! * Math.sin((2 * Math.PI * hz * n) / rate);
  }
  return db(Math.hypot(re, im));
}

/** Analogue prototypes, from the formulas themselves. */
const prototype = {
  bell: (w: number, gain: number, q: number) => {
    const a = 10 ** (gain / 40);
    return Math.hypot(1 - w * w, (w * a) / q) / Math.hypot(1 - w * w, w / (a * q));
  },
  lowShelf: (w: number, gain: number, q: number) => {
    const a = 10 ** (gain / 40);
    const middle = (Math.sqrt(a) / q) * w;
    return (a * Math.hypot(a - w * w, middle)) / Math.hypot(1 - a * w * w, middle);
  },
  highShelf: (w: number, gain: number, q: number) => prototype.lowShelf(1 / w, gain, q),
  notch: (w: number, _gain: number, q: number) => Math.abs(1 - w * w) / Math.hypot(1 - w * w, w / q),
  lowCut: (w: number, order: number) => Math.sqrt(1 / (1 + w ** (-2 * order))),
  highCut: (w: number, order: number) => Math.sqrt(1 / (1 + w ** (2 * order))),
};

const band = (values: ParameterValues): ParameterValues =>
  Object.fromEntries(Object.entries({ on: true, ...values }).map(([id, value]) => [`bands.1.${id}`, value]));

const OFTEN = [31, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 12000];

describe.each(RATES)('equalizer at %d Hz', (rate) => {
  const responseOf = (values: ParameterValues) => run(kernelOf('eq', values, rate), impulse(1 << 15)).left;
  /** Largest distance from a prototype up to a quarter of the rate, where it is above -60 dB. */
  const distance = (values: ParameterValues, expected: (hz: number) => number) => {
    const response = responseOf(band(values));
    let most = 0;
    for (const hz of OFTEN.filter((one) => one <= rate / 4)) {
      const wanted = db(expected(hz));
      if (wanted > -60) most = Math.max(most, Math.abs(magnitude(response, hz, rate) - wanted));
    }
    return most;
  };

  it.each(['bell', 'lowShelf', 'highShelf'] as const)('%s follows the analogue prototype within 0.1 dB', (type) => {
    for (const frequency of [100, 900, 5000, 9000]) {
      for (const gain of [12, -12]) {
        for (const q of [0.71, type === 'bell' ? 3 : 1]) {
          const off = distance({ type, frequency, gain, q }, (hz) => prototype[type](hz / frequency, gain, q));
          expect([type, frequency, gain, q, off < 0.1]).toEqual([type, frequency, gain, q, true]);
        }
      }
    }
  });

  it('bells stay within 0.5 dB of the prototype up to 16 kHz, wherever they are', () => {
    const random = new SeededRandom(rate);
    for (let turn = 0; turn < 40; turn++) {
      const frequency = Math.round(20 * 1000 ** random.uniform());
      const gain = Math.round(48 * random.uniform() - 24);
      const q = Number((0.1 * 200 ** random.uniform()).toPrecision(3));
      const response = responseOf(band({ type: 'bell', frequency, gain, q }));
      for (const hz of [100, 1000, 4000, 8000, 10000, 12000, 14000, 15000, 16000]) {
        const off = Math.abs(magnitude(response, hz, rate) - db(prototype.bell(hz / frequency, gain, q)));
        expect([frequency, gain, q, hz, off < 0.5]).toEqual([frequency, gain, q, hz, true]);
      }
    }
  });

  it.each(['lowCut', 'highCut'] as const)('%s follows Butterworth within 0.1 dB at every slope', (type) => {
    for (const slope of [6, 12, 18, 24, 36, 48]) {
      for (const frequency of [150, 1500, 6000]) {
        const off = distance({ type, frequency, slope: String(slope), q: Math.SQRT1_2 }, (hz) =>
          prototype[type](hz / frequency, slope / 6),
        );
        expect([type, slope, frequency, off < 0.1]).toEqual([type, slope, frequency, true]);
      }
    }
  });

  it('notches deeply and narrowly', () => {
    const off = distance({ type: 'notch', frequency: 1500, q: 2 }, (hz) => prototype.notch(hz / 1500, 0, 2));
    expect(off).toBeLessThan(0.1);
    expect(magnitude(responseOf(band({ type: 'notch', frequency: 1000, q: 4 })), 1000, rate)).toBeLessThan(-50);
  });
});

describe('equalizer', () => {
  const left = sine(300, 48000, 9600, 0.3);
  const right = sine(700, 48000, 9600, 0.2);

  it('is bit for bit the sound with all bands off', () => {
    expect(run(kernelOf('eq', {}), left, right)).toEqual({ left, right });
  });

  it('works on one side, on the middle or on the sides alone', () => {
    const low = { type: 'lowShelf', frequency: 5000, gain: -12, q: 0.71 };
    const on = (channel: string) => run(kernelOf('eq', band({ ...low, channel })), left, right);
    expect(firstDifference(on('left').right, right)).toBe(-1);
    expect(largest(on('left').left.slice(4800))).toBeLessThan(0.3 * 10 ** (-11.5 / 20));
    expect(firstDifference(on('right').left, left)).toBe(-1);
    const mid = on('mid');
    const sides = (sound: { left: Float32Array; right: Float32Array }) => sound.left.map((x, n) => x - sound.right[n]!);
    const before = sides({ left, right });
    expect(largest(sides(mid).map((x, n) => x - before[n]!))).toBeLessThan(1e-6);
    const side = on('side');
    const sums = (sound: { left: Float32Array; right: Float32Array }) => sound.left.map((x, n) => x + sound.right[n]!);
    const sum = sums({ left, right });
    expect(largest(sums(side).map((x, n) => x - sum[n]!))).toBeLessThan(1e-6);
  });

  it('is swept, switched and reshaped without clicks', () => {
    const kernel = kernelOf('eq', band({ type: 'bell', frequency: 300, gain: 9, q: 1 }));
    const tone = sine(100, 48000, 96000, 0.4);
    const out = run(kernel, tone, undefined, [128, 77], (frame) => {
      if (frame % 960 < 100) setValue(kernel, 'eq', 'bands.1.frequency', 200 + ((frame * 7) % 4000));
      if (frame > 48000 && frame < 48200) setValue(kernel, 'eq', 'bands.1.type', 'highShelf');
      if (frame > 72000 && frame < 72200) setValue(kernel, 'eq', 'bands.1.on', false);
    }).left;
    // The tone lifted by 9 dB, and no step above -60 dB of it.
    expect(largestBend(out.slice(4800)) - 2.82 * largestBend(tone)).toBeLessThan(0.4e-3);
  });
});

describe('saturator', () => {
  const RATE = 48000;
  const CURVES = ['soft', 'hard', 'fold', 'asymmetric', 'tape'];

  it.each(CURVES.flatMap((curve) => [12, 24, 36].map((drive) => [curve, drive] as const)))(
    '%s at %d dB keeps aliases of a full-scale 5 kHz tone under -80 dB',
    (curve, drive) => {
      const hz = 5000;
      const length = RATE;
      const out = run(kernelOf('saturator', { curve, drive }), sine(hz, RATE, length + 4800, 1)).left.slice(4800);
      // A whole number of periods: harmonics fall on multiples of 5000 Hz and nowhere else.
      let worst = 0;
      for (let alias = 1000; alias < 20000; alias += 1000) {
        if (alias % hz !== 0) worst = Math.max(worst, amplitudeAt(out, alias, RATE));
      }
      expect(db(worst / amplitudeAt(out, hz, RATE))).toBeLessThan(-80);
    },
  );

  it('makes the harmonics of its curve', () => {
    const at = (curve: string, hz: number) => {
      const out = run(kernelOf('saturator', { curve, drive: 12 }), sine(500, RATE, RATE, 0.5)).left.slice(RATE / 2);
      return db(amplitudeAt(out, hz, RATE) / amplitudeAt(out, 500, RATE));
    };
    expect(at('soft', 1500)).toBeGreaterThan(-30);
    expect(at('soft', 1000)).toBeLessThan(-90);
    expect(at('asymmetric', 1000)).toBeGreaterThan(-30);
  });

  it('matches its curve on a slow sound, and keeps the reference level', () => {
    const values = { curve: 'soft', drive: 20, mix: 100 };
    const slow = sine(40, RATE, RATE, 0.8);
    const kernel = kernelOf('saturator', values);
    const late = kernel.latencyFrames;
    const out = run(kernel, slow).left;
    const soft = (x: number) => (Math.abs(x) >= 1.5 ? Math.sign(x) : x - (4 / 27) * x ** 3);
    const makeup = 0.25 / soft(2.5);
    const off = Array.from({ length: 20000 }, (_, n) =>
      Math.abs(out[20000 + n + late]! - makeup * soft(10 * slow[20000 + n]!)),
    );
    // The removal of the offset at 0 Hz turns the phase of so low a tone a little.
    expect(largest(off)).toBeLessThan(0.05);
    expect(largest(run(kernelOf('saturator', values), sine(997, RATE, RATE, 0.25)).left.slice(4800))).toBeCloseTo(
      0.25,
      1,
    );
  });

  it('leaves no offset, and nothing but the late dry sound at mix 0', () => {
    const out = run(kernelOf('saturator', { curve: 'asymmetric', drive: 20 }), sine(500, RATE, RATE * 2, 0.8)).left;
    const mean = out.slice(RATE).reduce((sum, x) => sum + x, 0) / RATE;
    expect(Math.abs(mean)).toBeLessThan(1e-3);
    const kernel = kernelOf('saturator', { mix: 0 });
    const tone = sine(500, RATE, 4800, 0.8);
    expect(
      firstDifference(run(kernel, tone).left.slice(kernel.latencyFrames), tone.slice(0, 4800 - kernel.latencyFrames)),
    ).toBe(-1);
  });

  it('changes its curve, its drive and its tone without clicks', () => {
    const kernel = kernelOf('saturator', { drive: 6 });
    const tone = sine(100, RATE, RATE, 0.4);
    const out = run(kernel, tone, undefined, [128, 50], (frame) => {
      if (frame > 9600 && frame < 9800) setValue(kernel, 'saturator', 'curve', 'asymmetric');
      if (frame > 19200 && frame < 19400) setValue(kernel, 'saturator', 'drive', 12);
      if (frame > 28800 && frame < 29000) setValue(kernel, 'saturator', 'highCut', 2000);
    }).left;
    expect(largestBend(out.slice(2400))).toBeLessThan(12 * largestBend(tone));
  });
});

describe('autopan', () => {
  const RATE = 48000;
  const ones = new Float32Array(RATE * 2).fill(0.5);

  it('moves the power from side to side and keeps its sum', () => {
    const out = run(kernelOf('autopan', { rate: 1, depth: 100, phase: 180, smooth: 0 }), ones);
    let most = 0;
    for (let n = 0; n < RATE; n++) {
      most = Math.max(most, Math.abs(out.left[n]! ** 2 + out.right[n]! ** 2 - 0.25));
    }
    expect(most).toBeLessThan(0.25 * 0.01);
    expect(out.left[RATE / 4]).toBeCloseTo(0.5, 2);
    expect(out.right[RATE / 4]).toBeLessThan(0.02);
    expect(out.right[(3 * RATE) / 4]).toBeCloseTo(0.5, 2);
  });

  it('is a tremolo at phase 0: both sides alike, amplitude between 1 - depth and 1', () => {
    const out = run(kernelOf('autopan', { rate: 2, depth: 75, phase: 0, smooth: 0 }), ones);
    expect(firstDifference(out.left, out.right)).toBe(-1);
    const second = out.left.slice(RATE);
    expect(largest(second)).toBeCloseTo(0.5, 2);
    expect(Math.min(...second)).toBeCloseTo(0.5 * 0.25, 2);
    const half = run(kernelOf('autopan', { rate: 2, depth: 50, phase: 0, smooth: 0 }), ones).left.slice(RATE);
    expect(db(Math.min(...half) / 0.5)).toBeCloseTo(-6.02, 1);
  });

  it('follows the tempo from the place in the session', () => {
    const kernel = kernelOf('autopan', { rate: '1bar', depth: 100, smooth: 0 });
    const bar = Math.round((3 * 60 * RATE) / 84);
    kernel.locate(bar * 5 + Math.round(bar / 4));
    const out = run(kernel, ones.slice(0, 64));
    expect(out.left[0]).toBeCloseTo(0.5, 2);
    expect(out.right[0]).toBeLessThan(0.03);
  });

  it('is bit for bit the sound at depth 0', () => {
    const tone = sine(333, RATE, 4800, 0.7);
    expect(firstDifference(run(kernelOf('autopan', { depth: 0 }), tone).left, tone)).toBe(-1);
  });
});
