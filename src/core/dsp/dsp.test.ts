import fc from 'fast-check';
import { firstDifference } from '../../../test/support/render';
import { Arena } from '../wasm/arena';
import { DelayLine } from './delayLine';
import { HalfBandTwin } from '../wasm/twins/halfBand';
import { Ring } from './ring';
import { LFO_SHAPES, LowFrequencyOscillator } from './lowFrequencyOscillator';
import { Noise } from './noise';
import { Ramp } from './ramp';
import { resample, resampleStretch } from './resampler';
import { StateVariableFilter, type FilterType } from './stateVariableFilter';
import { truePeakOf } from './truePeak';
import { firstFailure } from '../../../test/support/frames';

/** Complex response of an impulse response at a frequency in cycles per sample. */
function response(impulse: ArrayLike<number>, frequency: number): { magnitude: number; phase: number } {
  let re = 0;
  let im = 0;
  for (let n = 0; n < impulse.length; n++) {
    re += impulse[n]! * Math.cos(2 * Math.PI * frequency * n);
    im -= impulse[n]! * Math.sin(2 * Math.PI * frequency * n);
  }
  return { magnitude: Math.hypot(re, im), phase: Math.atan2(im, re) };
}

const db = (x: number) => 20 * Math.log10(x);

function groupDelay(impulse: ArrayLike<number>, frequency: number): number {
  const h = 1e-4;
  const difference = response(impulse, frequency + h).phase - response(impulse, frequency - h).phase;
  const wrapped = difference - 2 * Math.PI * Math.round(difference / (2 * Math.PI));
  return -wrapped / (2 * Math.PI * 2 * h);
}

describe('delay line', () => {
  it('reads whole delays exactly', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 0, max: 3000 }), (delay, lead) => {
        const line = new DelayLine(500);
        for (let i = 0; i < lead; i++) line.write(0);
        line.write(0.75);
        for (let i = 1; i < delay; i++) line.write(0);
        expect(line.readInteger(delay)).toBe(0.75);
      }),
    );
  });

  const fractionalImpulse = (delay: number) => {
    const memory = new Arena();
    const ring = new Ring(memory, 64 + 128);
    const block = memory.doubles(128);
    block[0] = 1;
    ring.write(block, 64, false);
    ring.read(block, delay, 0, 0, 4, 64, 64);
    const out = [...block.subarray(0, 64)];
    memory.free();
    return out;
  };

  it.each([20, 20.1, 20.25, 20.5, 20.77, 20.999])('sinc delay of %f has that group delay below rate/4', (delay) => {
    const impulse = fractionalImpulse(delay);
    for (const frequency of [0.005, 0.05, 0.1, 0.15, 0.2, 0.245]) {
      expect(Math.abs(groupDelay(impulse, frequency) - delay)).toBeLessThan(0.01);
      expect(Math.abs(db(response(impulse, frequency).magnitude))).toBeLessThan(0.35);
    }
  });

  it.each([44100, 48000, 96000])(
    'moving reads lose under 0.1 dB at 16 kHz at %d Hz, wherever between two frames',
    (rate) => {
      for (let part = 0; part < 1; part += 0.07) {
        const impulse = fractionalImpulse(20 + part);
        for (const hz of [100, 1000, 8000, 12000, 16000]) {
          expect(Math.abs(db(response(impulse, hz / rate).magnitude))).toBeLessThan(0.1);
        }
      }
    },
  );
});

describe('ramp', () => {
  it('arrives exactly and in time', () => {
    const ramp = new Ramp(0.1);
    ramp.moveTo(0.7, 10);
    const values = Array.from({ length: 12 }, () => ramp.next());
    expect(values[0]).toBe(0.1);
    expect(values[5]).toBeCloseTo(0.4, 12);
    expect(values[10]).toBe(0.7);
    expect(ramp.settled).toBe(true);
  });
});

describe('state-variable filter', () => {
  const rate = 48000;
  const impulseOf = (type: FilterType, cutoff: number, q: number) => {
    const filter = new StateVariableFilter(rate);
    filter.configure(type, cutoff, q);
    const block = new Float64Array(1 << 15);
    block[0] = 1;
    filter.process(block, block.length);
    return block;
  };
  /** |H| of the analogue prototype through the bilinear transform. */
  const theory = (type: FilterType, cutoff: number, q: number, frequency: number) => {
    const w = Math.tan((Math.PI * frequency) / rate) / Math.tan((Math.PI * cutoff) / rate);
    const denominator = Math.hypot(1 - w * w, w / q);
    const numerator = { lowPass: 1, highPass: w * w, bandPass: w / q, notch: Math.abs(1 - w * w) }[type];
    return numerator / denominator;
  };

  it.each<[FilterType, number, number]>([
    ['lowPass', 1000, Math.SQRT1_2],
    ['highPass', 300, Math.SQRT1_2],
    ['bandPass', 2000, 5],
    ['notch', 5000, 2],
    ['lowPass', 15000, 8],
  ])('%s at %d Hz, q %d follows theory within 0.05 dB', (type, cutoff, q) => {
    const impulse = impulseOf(type, cutoff, q);
    for (const frequency of [50, 200, 900, 3100, 8000, 16000]) {
      const expected = db(theory(type, cutoff, q, frequency));
      if (expected > -80)
        expect(Math.abs(db(response(impulse, frequency / rate).magnitude) - expected)).toBeLessThan(0.05);
    }
  });

  it('stays bounded while the cutoff jumps about every sample', () => {
    const filter = new StateVariableFilter(rate);
    const noise = new Noise(3);
    const block = new Float64Array(1);
    let highest = 0;
    for (let i = 0; i < 40000; i++) {
      filter.configure('lowPass', i % 2 ? 20 : 20000, 4);
      block[0] = noise.white();
      filter.process(block, 1);
      highest = Math.max(highest, Math.abs(block[0]));
    }
    expect(highest).toBeLessThan(20);
  });
});

describe('low-frequency oscillator', () => {
  it.each(LFO_SHAPES)('%s stays within -1 and 1, never jumps, and depends on place alone', (shape) => {
    const build = (start: number) => {
      const lfo = new LowFrequencyOscillator(48000, 5);
      lfo.configure(shape, 3);
      lfo.locate(start, 0, false);
      return lfo;
    };
    const walked = build(0);
    let previous = walked.read(0);
    const isSmooth = () => {
      const value = walked.read(0);
      const smooth = Math.abs(value) <= 1 && Math.abs(value - previous) < 0.15;
      previous = value;
      walked.advance(16);
      return smooth;
    };
    expect(firstFailure(0, 48000, isSmooth, 16)).toBeNull();
    expect(build(48000).read(0.1)).toBeCloseTo(walked.read(0.1), 9);
  });

  it('glides to its new place when relocated while sounding', () => {
    const lfo = new LowFrequencyOscillator(48000, 5);
    lfo.configure('sine', 1);
    lfo.locate(12000, 0, false);
    lfo.locate(36000, 0, true);
    expect(lfo.read(0)).toBeCloseTo(1, 9);
    lfo.advance(960);
    expect(lfo.read(0)).toBeCloseTo(Math.sin(2 * Math.PI * (36960 / 48000)), 6);
  });
});

describe('noise', () => {
  it('pink falls 3 dB an octave', () => {
    const noise = new Noise(11);
    const n = 1 << 16;
    const samples = Float64Array.from({ length: n }, () => noise.pink());
    const band = (low: number, high: number) => {
      let power = 0;
      const count = 100;
      for (let i = 0; i < count; i++) power += response(samples, low + ((high - low) * i) / count).magnitude ** 2;
      return power / count;
    };
    const slope = (10 * Math.log10(band(0.1, 0.2) / band(0.0125, 0.025))) / 3;
    expect(slope).toBeGreaterThan(-3.8);
    expect(slope).toBeLessThan(-2.2);
    expect(Math.max(...samples.map(Math.abs))).toBeLessThan(1);
  });
});

describe('twofold oversampler', () => {
  it('passes the identity with its stated latency', () => {
    const stage = new HalfBandTwin(6, 80, 64);
    const block = new Float32Array(64);
    const twice = new Float32Array(128);
    block[0] = 1;
    stage.up(block, 64, twice);
    stage.down(twice, 64, block);
    for (const frequency of [0.01, 0.05, 0.1, 0.15]) {
      expect(Math.abs(db(response(block, frequency).magnitude))).toBeLessThan(0.05);
      expect(groupDelay(block, frequency)).toBeCloseTo(stage.latency, 3);
    }
  });

  it('keeps the third harmonic of a cubed tone from folding', () => {
    const n = 4800;
    const stage = new HalfBandTwin(6, 80, n);
    const twice = new Float32Array(2 * n);
    const frequency = 0.25;
    const block = Float32Array.from({ length: n }, (_, i) => Math.sin(2 * Math.PI * frequency * 0.9 * i));
    stage.up(block, n, twice);
    for (let i = 0; i < 2 * n; i++) twice[i] = twice[i]! ** 3;
    stage.down(twice, n, block);
    const alias = 1 - 3 * frequency * 0.9;
    const tail = block.slice(960);
    const level = (f: number) => (2 * response(tail, f).magnitude) / tail.length;
    expect(db(level(alias) / level(frequency * 0.9))).toBeLessThan(-30);
  });
});

describe('true peak', () => {
  it.each([0.25, 0.2, 0.125, 0.37, 0.41])('finds the peak of a tone at %f of the rate within 0.1 dB', (frequency) => {
    // It fades in and out: a tone that begins at once rings.
    const tone = Float32Array.from(
      { length: 4000 },
      (_, i) => 0.8 * Math.sin((Math.PI * i) / 4000) * Math.sin(2 * Math.PI * frequency * i + Math.PI / 4),
    );
    expect(Math.abs(db(truePeakOf(tone) / 0.8))).toBeLessThan(0.1);
  });

  it('finds peaks at the end of a sound, and of one shorter than its filter', () => {
    const end = new Float32Array(5000);
    end.set([0.5, 0.5], 4998);
    expect(truePeakOf(end)).toBeGreaterThan(0.6);
    expect(truePeakOf(end.subarray(4998))).toBeCloseTo(truePeakOf(end), 5);
    expect(truePeakOf(new Float32Array(0))).toBe(0);
  });
});

describe('resampler', () => {
  it.each([
    [44100, 48000],
    [48000, 44100],
    [96000, 48000],
    [22050, 48000],
  ])('%d to %d keeps a tone and its place, and rejects the rest by 100 dB', (from, to) => {
    const tone = 0.35 * Math.min(from, to);
    const input = Float32Array.from({ length: from / 2 }, (_, n) => Math.sin((2 * Math.PI * tone * n) / from));
    const output = resample(input, from, to)!;
    expect(output.length).toBe(to / 2);
    let error = 0;
    for (let n = 2000; n < output.length - 2000; n++) {
      error = Math.max(error, Math.abs(output[n]! - Math.sin((2 * Math.PI * tone * n) / to)));
    }
    expect(db(error)).toBeLessThan(-90);
    if (to < from) {
      const above = 0.5 * (to / 2 + from / 2);
      const high = Float32Array.from({ length: from / 2 }, (_, n) => Math.sin((2 * Math.PI * above * n) / from));
      const folded = resample(high, from, to)!.slice(2000, -2000);
      expect(db(Math.max(...folded.map(Math.abs)))).toBeLessThan(-100);
    }
  });

  it.each([
    [44100, 48000],
    [48000, 44100],
    [96000, 48000],
    [48000, 96000],
    [8000, 192000],
    [192000, 8000],
    [22050, 48000],
    [44099.5, 48000],
  ])('%d to %d keeps the highs of a sound that begins on its first frame', (from, to) => {
    const lowest = Math.min(from, to);
    const impulse = new Float32Array(4000);
    impulse[0] = 1;
    const one = resample(impulse, from, to)!.subarray(0, (3000 * to) / from);
    for (const part of [0.002, 0.1, 0.25, 0.4, 0.44, 0.45]) {
      const { magnitude } = response(one, (part * lowest) / to);
      expect(Math.abs(db((magnitude * from) / to))).toBeLessThan(0.05);
    }
  });

  it.each([
    [44100, 48000],
    [96000, 48000],
  ])('%d to %d keeps the power of noise that begins on the first frame', (from, to) => {
    for (const part of [0.05, 0.2, 0.35, 0.45]) {
      let [cut, whole] = [0, 0];
      for (let seed = 1; seed <= 20; seed++) {
        const noise = new Noise(seed);
        const sound = Float32Array.from({ length: 200 }, () => noise.white());
        const powerFrom = (start: number) => {
          const input = new Float32Array(start + 400);
          input.set(sound, start);
          return response(resample(input, from, to)!, (part * Math.min(from, to)) / to).magnitude ** 2;
        };
        cut += powerFrom(0);
        whole += powerFrom(600);
      }
      expect(Math.abs(10 * Math.log10(cut / whole))).toBeLessThan(0.5);
    }
  });

  it('gives the same frames whole and bit by bit', () => {
    const noise = new Noise(5);
    const input = Float32Array.from({ length: 9000 }, () => noise.white());
    const whole = resample(input, 44100, 48000)!;
    const bits = new Float32Array(whole.length);
    for (let at = 0; at < bits.length; at += 333)
      resampleStretch(input, 44100, 48000, bits, at, Math.min(bits.length, at + 333));
    expect(firstDifference(bits, whole)).toBe(-1);
  });

  it('stops when told', () => {
    expect(resample(new Float32Array(1000), 44100, 48000, () => false)).toBeNull();
  });
});
