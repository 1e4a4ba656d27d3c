import {
  amplitudeAt,
  db,
  firstDifference,
  floats,
  inMemory,
  kernelOf,
  largest,
  largestBend,
  partOf,
  RATES,
  run,
  setValue,
  sine,
  TIMING,
  readMeter,
} from '../../../test/support/render';
import { staticReduction } from './compressor/kernel';
import type { SidechainBlock } from './kernel';
import { formatValue, parseValue } from './parameterText';
import { effectById } from './registry';
import { findParameter, type ParameterValues } from './spec';

/** Settled level of a tone through an effect, in dB. */
function settled(
  effect: string,
  values: Record<string, number | string | boolean>,
  levelDb: number,
  hz: number,
  rate: number,
) {
  const tone = sine(hz, rate, rate, 10 ** (levelDb / 20));
  const out = run(kernelOf(effect, values, rate), tone).left.slice(rate / 2);
  return db(amplitudeAt(out, hz, rate));
}

/** A tone that leaps from one level to another. */
function leap(fromDb: number, toDb: number, rate: number, seconds: number): Float32Array {
  const tone = sine(1000, rate, Math.round(2 * seconds * rate));
  return tone.map((x, n) => x * 10 ** ((n < seconds * rate ? fromDb : toDb) / 20));
}

/** Gain in dB of an effect over time, from what it makes of a key that leaps while the sound is steady. */
function gainUnderKey(
  effect: string,
  values: Record<string, number | string | boolean>,
  key: Float32Array,
  rate: number,
) {
  const kernel = kernelOf(effect, values, rate);
  const steady = new Float32Array(key.length).fill(0.5);
  const keyBlock: SidechainBlock = { left: floats(128), right: floats(128) };
  const { left: out } = inMemory({ left: steady, right: steady }, ({ left, right }) => {
    for (let at = 0; at < key.length; at += 128) {
      const end = Math.min(key.length, at + 128);
      for (const side of [keyBlock.left, keyBlock.right]) side.set(key.subarray(at, end));
      kernel.process(partOf(left, at, end), partOf(right, at, end), end - at, [keyBlock]);
    }
  });
  return out.map((x) => db(Math.max(1e-9, x) / 0.5));
}

describe.each(RATES)('compressor at %d Hz', (rate) => {
  const steady = { attack: 1, release: 100, lookahead: 0 };

  it.each([
    [2, 0],
    [4, 6],
    [10, 12],
    [100, 0],
  ])('follows its static curve within 0.1 dB at ratio %d and knee %d dB', (ratio, knee) => {
    for (const level of [-40, -24, -20, -16, -10, -3]) {
      const slope = ratio >= 100 ? 1 : 1 - 1 / ratio;
      for (const detector of ['peak', 'rms']) {
        // The mean power of a sine lies 3 dB under its peak.
        const read = detector === 'rms' ? level - 3.0103 : level;
        const expected = level + staticReduction(read, -20, slope, knee);
        const got = settled('compressor', { ...steady, threshold: -20, ratio, knee, detector }, level, 1000, rate);
        expect(Math.abs(got - expected)).toBeLessThan(0.1);
      }
    }
  });

  it.each([
    [5, 100],
    [50, 400],
    [0.5, 40],
  ])('takes %d ms to attack and %d ms to release, within 10 %%', (attack, release) => {
    const values = { threshold: -30, ratio: 4, knee: 0, attack, release };
    const latency = kernelOf('compressor', values, rate).latencyFrames;
    const seconds = 2;
    const down = gainUnderKey('compressor', values, leap(-60, -10, rate, seconds), rate).slice(latency);
    const start = seconds * rate;
    const full = -15;
    const reached = down.findIndex((gain, n) => n >= start && gain <= full * (1 - Math.exp(-1)));
    // The first quarter period of the tone passes before its peak is there.
    expect(Math.abs(((reached - start) / rate) * 1000 - attack)).toBeLessThan(attack * 0.1 + 0.3);
    const up = gainUnderKey('compressor', values, leap(-10, -60, rate, seconds), rate).slice(latency);
    const back = up.findIndex((gain, n) => n >= start && gain >= full * Math.exp(-1));
    expect(Math.abs(((back - start) / rate) * 1000 - release)).toBeLessThan(release * 0.1 + 0.3);
  });
});

describe('compressor', () => {
  it('is the sound itself, held back, below the threshold and at mix 0', () => {
    const tone = sine(330, 48000, 4800, 0.5);
    const untouched: ParameterValues[] = [
      { threshold: 0, knee: 0 },
      { threshold: -50, mix: 0 },
    ];
    for (const values of untouched) {
      const kernel = kernelOf('compressor', values);
      const out = run(kernel, tone).left;
      expect(firstDifference(out.slice(kernel.latencyFrames), tone.slice(0, tone.length - kernel.latencyFrames))).toBe(
        -1,
      );
    }
  });

  it('gives way before the peak with look-ahead', () => {
    const values = { threshold: -30, ratio: 100, knee: 0, attack: 1, release: 200 };
    const burst = leap(-80, -6, 48000, 0.1);
    const over = (lookahead: number) => largest(run(kernelOf('compressor', { ...values, lookahead }), burst).left);
    expect(db(over(0))).toBeGreaterThan(-12);
    expect(db(over(10))).toBeLessThan(-29.5);
  });

  it('plays its key when asked, and filters it', () => {
    const low = sine(50, 48000, 48000, 0.5);
    const out = run(kernelOf('compressor', { keyListen: true, keyLowCut: 500 }), low).left.slice(24000);
    expect(db(amplitudeAt(out, 50, 48000) / 0.5)).toBeLessThan(-39);
    expect(settled('compressor', { threshold: -40, ratio: 10, keyLowCut: 2000 }, -10, 50, 48000)).toBeCloseTo(-10, 1);
  });

  it('makes up half of what full scale would lose', () => {
    const values = { threshold: -20, ratio: 4, knee: 0, autoMakeup: true };
    expect(settled('compressor', values, -40, 1000, 48000)).toBeCloseTo(-40 + 7.5, 1);
  });

  it('tells what it takes away', () => {
    const kernel = kernelOf('compressor', { threshold: -20, ratio: 4, knee: 0 });
    run(kernel, sine(1000, 48000, 48000, 0.5));
    expect(readMeter(kernel, 'compressor', 'reduction')[0]).toBeCloseTo(-0.75 * (20 + db(0.5)), 1);
  });

  it('changes every parameter without a click', () => {
    const kernel = kernelOf('compressor', { threshold: -20 });
    const tone = sine(100, 48000, 48000, 0.5);
    const out = run(kernel, tone, undefined, [100], (frame) => {
      if (frame === 9600) setValue(kernel, 'compressor', 'threshold', -40);
      if (frame === 19200) setValue(kernel, 'compressor', 'makeup', 6);
      if (frame === 28800) setValue(kernel, 'compressor', 'mix', 30);
    }).left;
    expect(largestBend(out.slice(4800))).toBeLessThan(3 * largestBend(tone));
  });
});

describe('gate', () => {
  const RATE = 48000;
  const values = { threshold: -30, hysteresis: 6, range: -40, attack: 10, hold: 50, release: 200 };

  it('opens at the threshold and closes below the hysteresis', () => {
    const open = (levels: number[]) => {
      const kernel = kernelOf('gate', values);
      return levels.map((level) => {
        const tone = sine(1000, RATE, RATE, 10 ** (level / 20));
        return db(amplitudeAt(run(kernel, tone).left.slice(RATE / 2), 1000, RATE)) - level;
      });
    };
    const [closed, opened, between, closedAgain] = open([-31, -29, -35, -37]);
    expect(closed).toBeCloseTo(-40, 1);
    expect(opened).toBeCloseTo(0, 2);
    expect(between).toBeCloseTo(0, 2);
    expect(closedAgain).toBeCloseTo(-40, 1);
  });

  it('takes its attack, hold and release', () => {
    const key = Float32Array.from({ length: 2 * RATE }, (_, n) => (n >= RATE / 2 && n < RATE ? 0.5 : 0));
    const gain = gainUnderKey('gate', values, key, RATE);
    const ms = (frames: number) => (frames / RATE) * 1000;
    expect(ms(gain.findIndex((g) => g > -0.01) - RATE / 2)).toBeCloseTo(10, 0);
    const closing = gain.findIndex((g, n) => n > RATE && g < -0.05);
    expect(Math.abs(ms(closing - RATE) - 55)).toBeLessThan(3);
    const half = gain.findIndex((g, n) => n > RATE && g < -20);
    expect(Math.abs(ms(half - closing) - 100)).toBeLessThan(5);
    expect(gain.at(-1)).toBeCloseTo(-40, 1);
  });

  it('is silent when closed with no range left, and bit for bit the sound when open', () => {
    const tone = sine(440, RATE, RATE, 0.5);
    expect(
      largest(
        run(
          kernelOf('gate', { threshold: 0, range: -100 }),
          tone.map((x) => x * 0.1),
        ).left,
      ),
    ).toBe(0);
    const out = run(kernelOf('gate', { threshold: -60, attack: 0.1 }), tone).left;
    expect(firstDifference(out.slice(1000), tone.slice(1000))).toBe(-1);
  });
});

describe.each(RATES)('the look-ahead of a compressor at %d Hz', (rate) => {
  const values = { threshold: -30, ratio: 20, knee: 0, attack: 0.5, release: 20 };
  const burst = () => {
    const sound = new Float32Array(rate);
    sound.set(sine(1000, rate, rate / 2, 0.9), rate / 4);
    return sound;
  };

  it.each([0, 3, 10])('of %d ms gives way before a loud tone and holds to its end', (lookahead) => {
    const kernel = kernelOf('compressor', { ...values, lookahead }, rate);
    const late = kernel.latencyFrames;
    const out = run(kernel, burst()).left.slice(late);
    const level = (at: number) => db(largest(out.slice(at, at + 0.002 * rate)));
    const middle = level(rate / 2);
    const end = 0.75 * rate;
    for (let before = 0.012; before >= 0.002; before -= 0.002) {
      expect(Math.abs(level(Math.round(end - before * rate)) - middle)).toBeLessThan(0.3);
    }
    const first = level(Math.round(rate / 4)) - middle;
    if (lookahead >= 3) expect(first).toBeLessThan(1);
    else expect(first).toBeGreaterThan(6);
  });

  it('lets the key be heard in time with the sound and from its first frame on', () => {
    const kernel = kernelOf('compressor', { ...values, lookahead: 5, keyListen: true }, rate);
    const late = kernel.latencyFrames;
    const sound = burst();
    sound[0] = 0.5;
    const out = run(kernel, sound).left;
    expect(firstDifference(out.slice(late), sound.slice(0, -late))).toBe(-1);
  });
});

describe('a ratio without end', () => {
  const ratio = findParameter(effectById('compressor'), 'ratio')!;

  it('is written inf, and lets nothing more through', () => {
    for (const text of ['inf', 'inf:1', 'Infinity', '∞:1', '+inf']) expect(parseValue(ratio, text)).toBe(100);
    expect(formatValue(ratio, 100, TIMING)).toBe('inf:1');
    expect(parseValue(ratio, formatValue(ratio, 100, TIMING))).toBe(100);
    expect(formatValue(ratio, 4, TIMING)).not.toContain('inf');
    expect(settled('compressor', { threshold: -20, ratio: 100, knee: 0, attack: 1 }, -3, 1000, 48000)).toBeCloseTo(
      -20,
      1,
    );
    expect(() => parseValue(ratio, '-inf')).toThrow('ratio takes');
  });
});

describe('de-esser', () => {
  const RATE = 48000;

  /** Octaves between the frequencies at which its cut is half as deep as on the centre. */
  const cutWidth = (settings: { frequency: number; amount: number; width: number }, rate: number) => {
    const { frequency, amount } = settings;
    const depthAt = (hz: number) => {
      // A loud tone on the centre keeps the whole amount at work; a soft one beside it reads the cut.
      const both = Float32Array.from(
        { length: rate / 5 },
        (_, n) =>
          0.5 * Math.sin((2 * Math.PI * frequency * n) / rate) + 0.001 * Math.sin((2 * Math.PI * hz * n) / rate),
      );
      const kernel = kernelOf('deesser', { threshold: -60, ...settings }, rate);
      return -db(amplitudeAt(run(kernel, both).left.slice(rate / 20), hz, rate) / 0.001);
    };
    const edge = (inside: number, outside: number) => {
      for (let n = 0; n < 9; n++) {
        const middle = Math.sqrt(inside * outside);
        if (depthAt(middle) > amount / 2) inside = middle;
        else outside = middle;
      }
      return Math.sqrt(inside * outside);
    };
    const far = 2 ** (settings.width + 1);
    const [low, high] = [edge(0.985 * frequency, frequency / far), edge(1.015 * frequency, 0.499 * rate)];
    return Math.log2(high / low);
  };

  it.each([
    [6000, 0.5, 6, 48000],
    [6000, 1, 20, 48000],
    [12000, 1, 12, 44100],
    [16000, 0.5, 12, 48000],
    [16000, 1, 12, 48000],
    [16000, 1, 12, 44100],
    [16000, 1, 6, 96000],
    [9000, 2, 12, 48000],
  ])('on %i Hz has a cut %f octaves wide, %i dB deep, within 5 %% at %i Hz', (frequency, width, amount, rate) => {
    expect(Math.abs(cutWidth({ frequency, width, amount }, rate) / width - 1)).toBeLessThan(0.05);
  });

  const values = { frequency: 6500, threshold: -30, amount: 10, width: 1 };

  it('lowers the middle of its band by what it is over the threshold, up to the amount', () => {
    expect(settled('deesser', values, -36, 6500, RATE)).toBeCloseTo(-36, 2);
    expect(settled('deesser', values, -24, 6500, RATE)).toBeCloseTo(-30, 1);
    expect(settled('deesser', values, -10, 6500, RATE)).toBeCloseTo(-20, 1);
  });

  it('leaves alone what is far away, even while it works', () => {
    const both = sine(6500, RATE, RATE, 0.3).map((x, n) => x + 0.3 * Math.sin((2 * Math.PI * 300 * n) / RATE));
    const out = run(kernelOf('deesser', values), both).left.slice(RATE / 2);
    expect(db(amplitudeAt(out, 300, RATE) / 0.3)).toBeCloseTo(0, 1);
    expect(db(amplitudeAt(out, 6500, RATE) / 0.3)).toBeCloseTo(-10, 1);
  });

  it('is bit for bit the sound below the threshold, and plays its band when asked', () => {
    const soft = sine(6500, RATE, 4800, 0.01);
    expect(run(kernelOf('deesser', values), soft).left).toEqual(soft);
    expect(settled('deesser', { ...values, amount: 0, listen: true }, -20, 300, RATE)).toBeLessThan(-45);
  });
});

describe('transient', () => {
  const RATE = 48000;
  /** A pluck: sudden, then dying away by 60 dB in a second. */
  const pluck = Float32Array.from({ length: RATE }, (_, n) =>
    n < 4800 ? 0 : 0.3 * Math.sin((2 * Math.PI * 400 * n) / RATE) * 10 ** ((-3 * (n - 4800)) / RATE),
  );
  const level = (sound: Float32Array, from: number, to: number) => db(largest(sound.slice(from, to)));
  const change = (values: Record<string, number>, from: number, to: number, scale = 1) => {
    const sound = pluck.map((x) => x * scale);
    return level(run(kernelOf('transient', values), sound).left, from, to) - level(sound, from, to);
  };

  it('lifts and lowers beginnings and tails, whatever the level', () => {
    expect(change({ attack: 60 }, 4800, 5280)).toBeGreaterThan(5);
    expect(change({ attack: -60 }, 4800, 5280)).toBeLessThan(-5);
    expect(Math.abs(change({ attack: 60 }, 24000, 30000))).toBeLessThan(1);
    expect(change({ sustain: 60 }, 24000, 30000)).toBeGreaterThan(3);
    expect(change({ sustain: -60 }, 24000, 30000)).toBeLessThan(-3);
    expect(change({ attack: 60 }, 4800, 5280, 0.2)).toBeCloseTo(change({ attack: 60 }, 4800, 5280), 0);
  });

  it('leaves a steady tone alone, and every bit at zero', () => {
    expect(settled('transient', { attack: 100, sustain: -100 }, -12, 1000, RATE)).toBeCloseTo(-12, 1);
    expect(run(kernelOf('transient', {}), pluck).left).toEqual(pluck);
  });
});

describe('limiter', () => {
  it('tells what it takes away', () => {
    const kernel = kernelOf('limiter', { ceiling: -6 });
    run(kernel, sine(997, 48000, 48000, 1));
    expect(readMeter(kernel, 'limiter', 'reduction')[0]).toBeCloseTo(-6, 0);
  });
});
