import {
  amplitudeAt,
  db,
  firstDifference,
  floats,
  impulse,
  inMemory,
  kernelOf,
  largest,
  largestBend,
  partOf,
  RATES,
  run,
  setValue,
  sine,
  readMeter,
} from '../../../../test/support/render';
import { delayTrack, pitchTrack } from '../../../../test/support/pitch';
import { Noise } from '../../dsp/noise';
import { resample } from '../../dsp/resampler';
import type { ParameterValues } from '../spec';
import { WOW_DEVIATION, WOW_HZ } from './degradation';

const line = (n: number, timeMs: number, more: ParameterValues = {}): ParameterValues =>
  Object.fromEntries(
    Object.entries({ on: true, timeLeft: timeMs, feedback: 0, ...more }).map(([id, value]) => [
      `lines.${n}.${id}`,
      value,
    ]),
  );
const wet = { mix: 100 };

/** Frames at 48 kHz, as milliseconds, and levels of everything that comes out on the left. */
function arrivals(values: ParameterValues, ms: number, rate = 48000): [number, number][] {
  const out = run(kernelOf('delay', values, rate), impulse(Math.round((ms / 1000) * rate))).left;
  return [...out].flatMap((x, frame) =>
    Math.abs(x) > 1e-6 ? [[(frame * 1000) / rate, Number(x.toFixed(5))] as [number, number]] : [],
  );
}

describe('the lines of a delay', () => {
  it.each(RATES)(
    'one after another: 400 ms and then three repeats 100 ms apart, without feedback, at %d Hz',
    (rate) => {
      const values = { ...wet, routing: 'series', ...line(1, 400), ...line(2, 100), ...line(3, 100), ...line(4, 100) };
      const found = arrivals(values, 1000, rate);
      expect(found.map(([, level]) => level)).toEqual([1, 1, 1, 1]);
      found.forEach(([at], n) => expect(at).toBeCloseTo(400 + 100 * n, 1));
    },
  );

  it('side by side each repeats alone, and levels, mutes and solos are its own', () => {
    const three = { ...wet, ...line(1, 100), ...line(2, 200, { level: -6 }), ...line(3, 300, { mute: true }) };
    expect(arrivals(three, 500)).toEqual([
      [100, 1],
      [200, 0.50119],
    ]);
    expect(arrivals({ ...three, 'lines.3.solo': true }, 500)).toEqual([[300, 1]]);
    // A muted line goes on turning: what it feeds is heard.
    expect(arrivals({ ...wet, routing: 'series', ...line(1, 100, { mute: true }), ...line(2, 50) }, 500)).toEqual([
      [150, 1],
    ]);
  });

  it('in pairs the second of each follows the first; in a ring the last feeds the first at half', () => {
    const four = { ...wet, ...line(1, 100), ...line(2, 10), ...line(3, 200), ...line(4, 20) };
    expect(arrivals({ ...four, routing: 'pairs' }, 500).map(([at]) => at)).toEqual([100, 110, 200, 220]);
    const ring = arrivals({ ...wet, routing: 'ring', ...line(1, 100), ...line(2, 50) }, 500);
    expect(ring).toEqual([
      [100, 1],
      [150, 1],
      [250, 0.5],
      [300, 0.5],
      [400, 0.25],
      [450, 0.25],
    ]);
  });

  it('takes any mixture from the matrix: from the input, from the sum of all as it is heard, from each other', () => {
    const values = {
      ...wet,
      routing: 'matrix',
      ...line(1, 100, { level: -6 }),
      ...line(2, 30),
      'routing.in.2': 0,
      'routing.1.2': -50,
      'routing.all.1': 40,
    };
    // Line 1 sounds at half and feeds line 2 with minus half of it whole; the sum comes back into line 1 with 0.4.
    const half = 10 ** (-6 / 20);
    const found = new Map(arrivals(values, 260).map(([at, level]) => [Math.round(at), level]));
    expect(found.get(100)).toBeCloseTo(half, 4);
    expect(found.get(130)).toBeCloseTo(-0.5, 4);
    expect(found.get(200)).toBeCloseTo(0.4 * half * half, 4);
    expect(found.get(230)).toBeCloseTo(0.4 * -0.5 * half + 0.4 * half * -0.5, 4);
  });

  it('switches lines on and off, and changes its arrangement, without a click', () => {
    const tone = sine(100, 48000, 48000, 0.3);
    const base = { mix: 50, ...line(1, 50), ...line(2, 33), 'lines.2.on': false, hissOn: false };
    for (const [id, value] of [
      ['lines.2.on', true],
      ['routing', 'series'],
      ['domain', 'midSide'],
      ['hold', true],
      ['safety', true],
      ['wear', 'tape'],
      ['duckAmount', 30],
      ['lines.1.on', false],
    ] as const) {
      const kernel = kernelOf('delay', base);
      const out = run(kernel, tone, undefined, [128], (frame) => {
        if (frame === 128 * 190) setValue(kernel, 'delay', id, value);
      }).left;
      expect([id, largestBend(out.slice(20000)) < 0.0015]).toEqual([id, true]);
    }
  });

  it('forgets what a line held that was switched off', () => {
    const kernel = kernelOf('delay', { ...wet, ...line(1, 100), ...line(2, 5000) });
    run(kernel, sine(300, 48000, 48000));
    setValue(kernel, 'delay', 'lines.2.on', false);
    run(kernel, new Float32Array(24000));
    setValue(kernel, 'delay', 'lines.2.on', true);
    expect(largest(run(kernel, new Float32Array(48000 * 5)).left)).toBe(0);
  });

  it.each(RATES)(
    'links the right time to the left at a ratio, which both keep while the left moves, at %d Hz',
    (rate) => {
      const first = (one: Float32Array) => (one.indexOf(1) / rate) * 1000;
      for (const [left, ratio, right] of [
        [400, 100, 400],
        [400, 75, 300],
        [90, 133.3, 119.97],
        [3000, 400, 12000],
        [0.4, 25, 0.1],
      ] as const) {
        const values = { ...wet, ...line(1, left, { rightRatio: ratio, timeRight: 777 }) };
        const out = run(kernelOf('delay', values, rate), impulse(13 * rate));
        expect(Math.abs(first(out.left) - left)).toBeLessThanOrEqual(500 / rate + 1e-9);
        expect(Math.abs(first(out.right) - right)).toBeLessThanOrEqual(500 / rate + 1e-9);
      }
      const moved = kernelOf('delay', { ...wet, ...line(1, 300, { rightRatio: 50 }) }, rate);
      setValue(moved, 'delay', 'lines.1.timeLeft', 100);
      run(moved, new Float32Array(2 * rate));
      const out = run(moved, impulse(rate));
      expect([out.left.indexOf(1), out.right.indexOf(1)]).toEqual([0.1 * rate, 0.05 * rate]);
    },
  );

  it('works on middle and sides when asked to', () => {
    const values = { ...wet, domain: 'midSide', 'lines.1.linked': false, ...line(1, 10), 'lines.1.timeRight': 20 };
    // An impulse on the left alone is half middle and half sides.
    const out = run(kernelOf('delay', values), impulse(2000), new Float32Array(2000));
    expect([out.left[480], out.right[480]]).toEqual([0.5, 0.5]);
    expect([out.left[960], out.right[960]]).toEqual([0.5, -0.5]);
  });

  it('holds what it has for a minute without loss, and lets nothing in', () => {
    const noise = new Noise(2);
    const sound = Float32Array.from({ length: 24000 }, () => 0.5 * noise.white());
    const values = {
      ...wet,
      ...line(1, 500, { feedback: 20, drive: 12, filterType: 'lowPass', modDepth: 1, modRate: 2 }),
    };
    const kernel = kernelOf('delay', values);
    run(kernel, sound);
    setValue(kernel, 'delay', 'hold', true);
    const closed = sine(50, 48000, 24000);
    run(kernel, closed);
    run(kernel, closed);
    const early = run(kernel, closed).left;
    for (let turn = 0; turn < 117; turn++) run(kernel, closed);
    const late = run(kernel, closed).left;
    const power = (one: Float32Array) => one.reduce((sum, x) => sum + x * x, 0);
    expect(Math.abs(10 * Math.log10(power(late) / power(early)))).toBeLessThan(0.05);
    expect(kernel.tailSeconds()).toBe(Infinity);
  });

  it('makes a flanger of the repeats alone: a swaying line fed by another', () => {
    const rate = 48000;
    const values = {
      ...wet,
      routing: 'matrix',
      ...line(1, 300),
      ...line(2, 1, { modDepth: 0 }),
      'routing.in.2': 0,
      'routing.1.2': 100,
    };
    const level = (hz: number) =>
      db(amplitudeAt(run(kernelOf('delay', values), sine(hz, rate, rate, 0.2)).left.slice(rate / 2), hz, rate) / 0.2);
    expect(level(500)).toBeLessThan(-40);
    expect(level(1500)).toBeLessThan(-40);
    expect(level(1000)).toBeCloseTo(6.02, 1);
  });

  it('copes with every line at its shortest, all fed by all, at full feedback', () => {
    const lines = Array.from({ length: 8 }, (_, n) =>
      line(n + 1, 0.1 + n, { feedback: 110, modDepth: 100, modRate: 20 }),
    );
    const feeds = Array.from({ length: 8 }, (_, n) => ({ [`routing.all.${n + 1}`]: 110 }));
    const noise = new Noise(9);
    const loud = Float32Array.from({ length: 48000 }, () => noise.white());
    const out = run(
      kernelOf('delay', Object.assign({ ...wet, routing: 'matrix', safety: true }, ...lines, ...feeds)),
      loud,
    );
    expect(out.left.every(Number.isFinite)).toBe(true);
    expect(largest(out.left)).toBeLessThan(1.001);
  });

  it('stays finite and under +6 dBFS for ten minutes at 110 % feedback', () => {
    const kernel = kernelOf('delay', { ...wet, ...line(1, 330, { feedback: 110 }) });
    const noise = new Noise(9);
    const loud = Float32Array.from({ length: 48000 }, () => noise.white());
    let most = 0;
    for (let second = 0; second < 600; second++) {
      const out = run(kernel, second < 5 ? loud : new Float32Array(48000)).left;
      most = Math.max(most, largest(out));
      if (second % 60 === 59) expect(out.every(Number.isFinite)).toBe(true);
    }
    expect(most).toBeLessThan(1.995);
    expect(most).toBeGreaterThan(0.9);
  });
});

describe('the ducking of a delay', () => {
  it('takes a decibel for each above the threshold, up to its amount, and gives it back in the pauses', () => {
    const rate = 48000;
    const level = (keyDb: number, duckAmount: number) => {
      const kernel = kernelOf('delay', { ...wet, ...line(1, 10), duckAmount, duckThreshold: -30, duckRelease: 100 });
      const sound = sine(1000, rate, rate, 0.1);
      const key = sine(300, rate, rate, 10 ** (keyDb / 20));
      const [keyLeft, keyRight] = [floats(128), floats(128)];
      const out = inMemory({ left: sound, right: sound }, ({ left, right }) => {
        for (let at = 0; at < rate; at += 128) {
          for (const side of [keyLeft, keyRight]) side.set(key.subarray(at, at + 128));
          const inputs = [{ left: keyLeft, right: keyRight }];
          const end = Math.min(rate, at + 128);
          kernel.process(partOf(left, at, end), partOf(right, at, end), end - at, inputs);
        }
      });
      return db(amplitudeAt(out.left.slice(rate / 2), 1000, rate) / 0.1);
    };
    expect(Math.abs(level(-40, 20))).toBeLessThan(0.1);
    expect(Math.abs(level(-20, 20) + 10)).toBeLessThan(1);
    expect(Math.abs(level(-3, 20) + 20)).toBeLessThan(0.2);
  });

  it('comes back with the release that is set', () => {
    const rate = 48000;
    const kernel = kernelOf('delay', { ...wet, ...line(1, 10), duckAmount: 20, duckThreshold: -60, duckRelease: 200 });
    const reduction = () => readMeter(kernel, 'delay', 'reduction')[0]!;
    run(kernel, sine(500, rate, rate, 0.8));
    expect(reduction()).toBeCloseTo(-20, 0);
    run(kernel, new Float32Array(rate / 2));
    const start = reduction();
    run(kernel, new Float32Array(rate / 5));
    expect(reduction() / start).toBeGreaterThan(0.3);
    expect(reduction() / start).toBeLessThan(0.45);
  });
});

describe('the safety limiter of a delay', () => {
  it('keeps the ceiling within 0.1 dB true peak, and leaves the dry sound alone', () => {
    const rate = 48000;
    const noise = new Noise(5);
    const sound = resample(
      resample(
        Float32Array.from({ length: rate }, () => 0.8 * noise.white()),
        1,
        0.9,
      )!,
      0.9,
      1,
    )!;
    const values = { ...line(1, 20, { feedback: 60 }), safety: true, safetyCeiling: -6 };
    const out = run(kernelOf('delay', { ...values, mix: 100 }), sound).left;
    const peak = db(largest(resample(out, 1, 16)!.slice(4000, -4000)));
    expect(peak).toBeLessThan(-6 + 0.1);
    expect(peak).toBeGreaterThan(-6.6);
    const kernel = kernelOf('delay', { ...values, mix: 0 });
    const dry = run(kernel, sound).left;
    expect(firstDifference(dry.slice(kernel.latencyFrames), sound.slice(0, sound.length - kernel.latencyFrames))).toBe(
      -1,
    );
  });
});

describe('the safety limiter of a delay at any mix', () => {
  it.each([20, 50, 80, 100])('keeps the ceiling of all that leaves at %d %%', (mix) => {
    const noise = new Noise(5);
    const broad = Float32Array.from({ length: 48000 }, () => 0.9 * noise.white());
    // Up to nine tenths of the band: peaks between samples then are the same for every meter.
    const sound = resample(resample(broad, 1, 0.9)!, 0.9, 1)!;
    const values = { ...line(1, 20, { feedback: 60 }), safety: true, safetyCeiling: -6, mix };
    const out = run(kernelOf('delay', values), sound).left;
    expect(db(largest(resample(out, 1, 8)!.slice(4000, -4000)))).toBeLessThan(-6 + 0.1);
  });
});

describe('the wear of a delay', () => {
  const none = { wowOn: false, flutterOn: false, hissOn: false, humOn: false, bandwidthOn: false, saturationOn: false };
  const worn = (kind: string, more: ParameterValues, time = 100) => ({
    ...wet,
    ...line(1, time),
    wear: kind,
    ...none,
    ...more,
  });

  it('wow bends the pitch by its deviation at its rate', () => {
    const rate = 48000;
    const out = run(kernelOf('delay', worn('tape', { wowOn: true, wow: 100 })), sine(2000, rate, 6 * rate, 0.5)).left;
    const track = pitchTrack(out, rate).filter(([at]) => at > rate);
    const deviation = track.map(([, hz]) => hz / 2000 - 1);
    expect(Math.abs(Math.max(...deviation) / WOW_DEVIATION - 1)).toBeLessThan(0.03);
    expect(Math.abs(Math.min(...deviation) / WOW_DEVIATION + 1)).toBeLessThan(0.03);
    const tops = deviation.flatMap((one, n) => (one > 0 && (deviation[n - 1] ?? 1) <= 0 ? [track[n]![0]] : []));
    expect(Math.abs(rate / (tops[2]! - tops[1]!) / WOW_HZ - 1)).toBeLessThan(0.05);
  });

  it('flutter wavers faster and less far, and both stop with their switches', () => {
    const rate = 48000;
    const delays = (more: ParameterValues) => {
      const out = run(kernelOf('delay', worn('tape', more, 20)), sine(500, rate, 3 * rate, 0.5)).left;
      const track = delayTrack(out, 500, rate).filter(([at]) => at > rate);
      return track.map(([, delay]) => delay);
    };
    const spread = (one: number[]) => Math.max(...one) - Math.min(...one);
    expect(spread(delays({}))).toBeLessThan(1e-7);
    expect(spread(delays({ flutterOn: true, flutter: 100 }))).toBeGreaterThan(1e-4);
    expect(spread(delays({ flutterOn: true, flutter: 100 }))).toBeLessThan(3.2e-4);
  });

  it('hums at the frequency of the mains, and hisses', () => {
    const rate = 48000;
    const silence = new Float32Array(2 * rate);
    for (const [frequency, hz] of [
      ['50', 50],
      ['60', 60],
    ] as const) {
      const out = run(
        kernelOf('delay', worn('tape', { humOn: true, hum: 100, humFrequency: frequency })),
        silence,
      ).left;
      expect(db(amplitudeAt(out.slice(rate), hz, rate))).toBeGreaterThan(-46);
      expect(db(amplitudeAt(out.slice(rate), 110 - hz, rate))).toBeLessThan(-100);
    }
    const hiss = run(kernelOf('delay', worn('tape', { hissOn: true, hiss: 100 })), silence).left.slice(rate);
    const rms = Math.sqrt(hiss.reduce((sum, x) => sum + x * x, 0) / hiss.length);
    expect(db(rms)).toBeGreaterThan(-42);
    expect(db(rms)).toBeLessThan(-36);
  });

  it('loses highs with every pass on tape, and the more the longer on a bucket brigade', () => {
    const level = (kind: string, time: number, amount: number) => {
      const values = worn(kind, { bandwidthOn: true, bandwidth: amount }, time);
      return db(
        amplitudeAt(run(kernelOf('delay', values), sine(3000, 48000, 96000, 0.2)).left.slice(48000), 3000, 48000) / 0.2,
      );
    };
    expect(level('tape', 100, 100)).toBeLessThan(level('tape', 100, 30) - 3);
    expect(Math.abs(level('tape', 100, 50) - level('tape', 400, 50))).toBeLessThan(0.1);
    expect(level('bucket', 400, 50)).toBeLessThan(level('bucket', 40, 50) - 6);
  });

  it('saturates loud sounds and lets the time stand', () => {
    const values = worn('tape', { saturationOn: true, saturation: 100 });
    const loud = run(kernelOf('delay', values), sine(500, 48000, 48000, 0.9)).left.slice(24000);
    expect(db(amplitudeAt(loud, 1500, 48000) / amplitudeAt(loud, 500, 48000))).toBeGreaterThan(-25);
    const click = run(kernelOf('delay', values), impulse(9600)).left;
    expect(click.indexOf(Math.max(...click))).toBe(4800);
  });

  it('hisses along with the sound on a bucket brigade', () => {
    const noise = (tone: Float32Array) => {
      const out = run(kernelOf('delay', worn('bucket', { hissOn: true, hiss: 100 })), tone).left.slice(24000);
      let sum = 0;
      for (let n = 2; n < out.length; n++) sum += (out[n]! - 2 * out[n - 1]! + out[n - 2]!) ** 2;
      return Math.sqrt(sum / out.length);
    };
    expect(noise(sine(60, 48000, 48000, 0.5))).toBeGreaterThan(4 * noise(new Float32Array(48000)));
  });
});
