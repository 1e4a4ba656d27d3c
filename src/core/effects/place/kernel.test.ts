import { thinned } from '../../../../test/support/sweep';
import fc from 'fast-check';
import {
  amplitudeAt,
  db,
  kernelOf,
  largest,
  largestBend,
  RATES,
  run,
  setValue,
  sine,
  readMeter,
} from '../../../../test/support/render';
import { airLossDb, SOUND_SPEED } from '../../dsp/airAbsorption';
import { SeededRandom } from '../../math/random';
import { Noise } from '../../dsp/noise';
import { RADIUS_SECONDS, SHADOW_HZ } from '../../dsp/sphericalHead';
import type { ParameterValues } from '../spec';
import type { FieldKernel } from './kernel';
import { spotAt, type Course } from './motion';
import { firstFailure } from '../../../../test/support/frames';

const RATE = 48000;
const RADIAN = Math.PI / 180;

const noise = (frames: number, seed = 3) => {
  const source = new Noise(seed);
  return Float32Array.from({ length: frames }, () => 0.3 * source.white());
};
const through = (values: ParameterValues, sound: Float32Array, rate = RATE) =>
  run(kernelOf('place', values, rate), sound);
const power = (sound: Float32Array) => sound.reduce((sum, x) => sum + x * x, 0) / sound.length;
const azimuths = fc.double({ min: -180, max: 180, noNaN: true });

/** Amplitude and phase of a frequency at either side for a click, once the ring has settled. */
function response(values: ParameterValues, hz: number, rate: number) {
  const click = new Float32Array(4096);
  click[0] = 1;
  const { left, right } = through({ air: 0, distanceLevel: 0, ...values }, click, rate);
  const at = (sound: Float32Array) => {
    let re = 0;
    let im = 0;
    sound.forEach((x, n) => {
      re += x * Math.cos((2 * Math.PI * hz * n) / rate);
      im -= x * Math.sin((2 * Math.PI * hz * n) / rate);
    });
    return { level: 20 * Math.log10(Math.hypot(re, im)), phase: Math.atan2(im, re) };
  };
  return { left: at(left), right: at(right) };
}

/** Time by which the left ear is later, around a frequency, from the slope of the phases. */
function groupTime(values: ParameterValues, hz: number, rate: number): number {
  const [below, above] = [response(values, hz - 20, rate), response(values, hz + 20, rate)];
  const turned = (one: typeof below) => one.right.phase - one.left.phase;
  const change = turned(above) - turned(below);
  return (change - 2 * Math.PI * Math.round(change / (2 * Math.PI))) / (2 * Math.PI * 40);
}

describe('a place heard through speakers', () => {
  it.each([
    ['3', 3.01, 1],
    ['4.5', 4.515, 1.5],
    ['6', 6.02, 2],
  ])('keeps to a pan law of -%s dB at every angle', (law, centreDb, exponent) => {
    const sound = noise(4800);
    const whole = power(sound);
    fc.assert(
      fc.property(azimuths, (azimuth) => {
        const { left, right } = through({ azimuth, law, air: 0 }, sound);
        const angle = (Math.PI / 4) * (1 + Math.sin(azimuth * RADIAN));
        const wished = [Math.cos(angle) ** (2 * exponent), Math.sin(angle) ** (2 * exponent)];
        const skipped = [left, right].map((side) => power(side.subarray(100)) / whole);
        skipped.forEach((one, n) => expect(Math.abs(one - wished[n]!)).toBeLessThan(0.015));
        if (law === '3') expect(Math.abs(10 * Math.log10(skipped[0]! + skipped[1]!))).toBeLessThan(0.1);
      }),
      { numRuns: thinned(25) },
    );
    const centre = through({ law, air: 0 }, sound);
    expect(10 * Math.log10(power(centre.left.subarray(100)) / whole)).toBeCloseTo(-centreDb, 1);
    expect(largest(through({ azimuth: -90, law }, sound).right)).toBe(0);
    expect(largest(through({ azimuth: 90, law }, sound).left)).toBe(0);
  });

  it.each([44100, 48000, 96000])('loses in air what ISO 9613-1 says, at %i Hz', (rate) => {
    const random = new SeededRandom(rate);
    for (let turn = 0; turn < 12; turn++) {
      const distance = 0.3 * (50 / 0.3) ** random.uniform();
      const air = Math.round(400 * random.uniform());
      for (const hz of [250, 1000, 4000, 8000, 12000, 15900]) {
        const at = (percent: number) => response({ distance, air: percent, distanceLevel: 0 }, hz, rate).left.level;
        const lost = at(0) - at(air);
        const wanted = (airLossDb(hz) * distance * air) / 100;
        const off = Math.abs(lost - wanted);
        const fits = wanted <= 20 ? off < 1 : wanted <= 50 ? off < 0.05 * wanted : lost >= 45;
        if (!fits) throw new Error(`${distance} m of air at ${air} %, ${hz} Hz: ${lost} dB for ${wanted} dB`);
      }
    }
  });

  it('falls by 6 dB a doubling down to its floor', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.3, max: 50, noNaN: true }),
        fc.double({ min: -6, max: 6, noNaN: true }),
        (d, h) => {
          const far = Math.max(0.3, Math.hypot(d, h));
          const low = response({ distance: d, height: h, distanceLevel: 100, air: 100 }, 200, RATE).left.level;
          expect(Math.abs(low + 3.01 - Math.max(-30, -20 * Math.log10(far)))).toBeLessThan(0.15);
        },
      ),
      { numRuns: thinned(20) },
    );
  });

  it('a size spreads a mono sound and leaves its mono sum as it came, and a stereo one stands at its ends', () => {
    const sound = noise(24000);
    fc.assert(
      fc.property(fc.double({ min: 0.5, max: 12, noNaN: true }), azimuths, (size, azimuth) => {
        const kernel = kernelOf('place', { size, azimuth, distance: 2, law: '6', air: 0, distanceLevel: 0 });
        const { left, right } = run(kernel, sound);
        const share = size / 2 / Math.hypot(2, size / 2);
        const late = kernel.latencyFrames;
        const sumStays = (n: number) =>
          Math.abs(left[n]! + right[n]! - sound[n - late]! / Math.sqrt(1 + share * share)) < 1e-6;
        expect(firstFailure(late, left.length, sumStays)).toBeNull();
      }),
      { numRuns: thinned(10) },
    );
    const correlation = (size: number) => {
      const { left, right } = through({ size, distance: 1 }, sound);
      const both = left.reduce((sum, x, n) => sum + x * right[n]!, 0) / left.length;
      return both / Math.sqrt(power(left) * power(right));
    };
    for (const size of [0, 1, 2, 4, 8]) {
      const share = size / 2 / Math.hypot(1, size / 2);
      const angle = (Math.PI / 4) * (1 + share);
      const [own, other] = [Math.sin(angle), Math.cos(angle)];
      const [alike, apart] = [1 + share * share, 1 - share * share];
      const wished = (2 * own * other * alike + apart) / (alike + 2 * own * other * apart);
      expect(Math.abs(correlation(size) - wished)).toBeLessThan(0.05);
    }
    const only = new Float32Array(sound.length);
    const { left, right } = run(kernelOf('place', { size: 20, distance: 0.3, air: 0 }), sound, only);
    expect(power(left) / power(right)).toBeGreaterThan(3);
  });
});

describe('a place heard around a head', () => {
  const binaural = { render: 'binaural', ears: 0 } as const;

  it.each(RATES)('reaches the far ear later by the time of Woodworth above 2 kHz, at %d Hz', (rate) => {
    fc.assert(
      fc.property(
        fc.double({ min: 10, max: 170, noNaN: true }),
        fc.constantFrom(2100, 3000, 4500, 7000),
        fc.constantFrom(-1, 1),
        (angle, hz, side) => {
          const lateral = Math.asin(Math.sin(angle * RADIAN));
          const wished = RADIUS_SECONDS * (lateral + Math.sin(lateral));
          const found = side * groupTime({ ...binaural, azimuth: side * angle }, hz, rate);
          expect(Math.abs(found / wished - 1)).toBeLessThan(0.05);
        },
      ),
      { numRuns: thinned(25) },
    );
  });

  it('below 500 Hz is late by three times the sine and the time of a radius, as a sphere is (Kuhn 1977)', () => {
    for (const azimuth of [20, 30, 60, 90]) {
      const found = groupTime({ ...binaural, azimuth }, 150, RATE);
      const wished = 3 * RADIUS_SECONDS * Math.sin(azimuth * RADIAN);
      expect(Math.abs(found / wished - 1)).toBeLessThan(0.15);
    }
  });

  it.each(RATES)('has level differences of the spherical head from 200 Hz to 8 kHz, at %d Hz', (rate) => {
    const model = (angle: number, hz: number) => {
      const alpha = 1.05 + 0.95 * Math.cos((angle / 150) * Math.PI);
      const f = hz / SHADOW_HZ;
      return 10 * Math.log10((1 + (alpha * f) ** 2) / (1 + f * f));
    };
    fc.assert(
      fc.property(azimuths, fc.constantFrom(200, 500, 1000, 2000, 4000, 6000, 8000), (azimuth, hz) => {
        const ear = (sign: number) => Math.acos(Math.sin(azimuth * RADIAN) * sign) / RADIAN;
        const { left, right } = response({ ...binaural, azimuth }, hz, rate);
        const wished = model(ear(1), hz) - model(ear(-1), hz);
        expect(Math.abs(right.level - left.level - wished)).toBeLessThan(1.5);
      }),
      { numRuns: thinned(60) },
    );
  });

  it('outer ears leave the differences between both ears alone, and tell ahead, above and behind apart', () => {
    for (const hz of [700, 3000, 6000]) {
      const [plain, eared] = [0, 100].map((ears) => response({ ...binaural, ears, azimuth: 50 }, hz, RATE));
      const difference = (one: typeof plain) => one!.right.level - one!.left.level;
      expect(Math.abs(difference(plain) - difference(eared))).toBeLessThan(0.1);
    }
    const colour = (values: ParameterValues) =>
      [3000, 5000, 7000, 9000].map((hz) => response({ ...binaural, ears: 100, ...values }, hz, RATE).left.level);
    const apart = (a: number[], b: number[]) => Math.max(...a.map((x, n) => Math.abs(x - b[n]!)));
    const ahead = colour({});
    expect(apart(ahead, colour({ azimuth: 180 }))).toBeGreaterThan(3);
    expect(apart(ahead, colour({ height: 5 }))).toBeGreaterThan(3);
  });
});

describe('a place that moves', () => {
  it.each(['speakers', 'binaural'])('makes no step above -60 dB of the sound, through %s', (render) => {
    const tone = sine(400, RATE, RATE * 2, 0.5);
    for (const motion of ['circle', 'ellipse', 'eight', 'line', 'pendulum', 'walk', 'path']) {
      const values = { render, motion, motionRate: 0.7, motionSize: 1.5, distance: 2.2, size: 0.5, doppler: 100 };
      const { left, right } = through(values, tone);
      for (const side of [left, right]) {
        // A tone of 400 Hz that glides has nothing up there; a step has as much as anywhere.
        let highs = 0;
        const weights = [1, -6, 15, -20, 15, -6, 1];
        for (let n = 3000; n < side.length; n++) {
          const bend = weights.reduce((sum, weight, k) => sum + weight * side[n - k]!, 0);
          highs = Math.max(highs, Math.abs(bend) / 20);
        }
        expect([motion, db(highs / largest(side)) < -60]).toEqual([motion, true]);
      }
    }
  });

  it('changes its pitch as Doppler says, within 2 cents', () => {
    const hz = 1000;
    const kernel = kernelOf('place', {
      motion: 'line',
      motionRate: 0.1,
      motionSize: 15,
      distance: 3,
      doppler: 100,
      distanceLevel: 0,
      air: 0,
    });
    const late = kernel.latencyFrames;
    const { left, right } = run(kernel, sine(hz, RATE, RATE * 9, 0.5));
    const course: Course = {
      ...{ azimuth: 0, distance: 3, height: 0, size: 15, phase: 0, ease: 0 },
      ...{ motion: 'line', backwards: false, mirror: 'none', path: { x: [0], y: [0] } },
    };
    const far = (seconds: number) => {
      const { x, y } = spotAt(course, seconds * 0.1);
      return Math.hypot(x, y);
    };
    const sum = left.map((x, n) => x + right[n]!);
    // Periods are counted between upward crossings, each found by a straight line between two frames.
    const crossing = (from: number) => {
      for (let n = Math.floor(from) + 1; ; n++)
        if (sum[n - 1]! < 0 && sum[n]! >= 0) return n - sum[n]! / (sum[n]! - sum[n - 1]!);
    };
    for (let at = 0.5; at < 8.5; at += 0.37) {
      if (Math.abs((at % 5) - 0) < 0.3) continue;
      const first = crossing((at - 0.05) * RATE);
      let last = first;
      for (let n = 0; n < 100; n++) last = crossing(last + 1);
      const found = (100 * RATE) / (last - first);
      const [from, to] = [(first - late) / RATE, (last - late) / RATE];
      const wished = hz * (1 - (far(to) - far(from)) / SOUND_SPEED / (to - from));
      expect(Math.abs(1200 * Math.log2(found / wished))).toBeLessThan(2);
    }
  });

  it('sounds the same wherever playback began, and follows a jump without a click', () => {
    const sound = noise(RATE);
    const values = { motion: 'eight', motionRate: 0.8, motionSize: 2, distance: 3, render: 'binaural' };
    const from = (frame: number) => {
      const kernel = kernelOf('place', values);
      kernel.locate(frame);
      return kernel;
    };
    const whole = run(from(0), sound).left;
    const later = run(from(16000), sound.subarray(16000)).left;
    expect(firstFailure(2000, later.length, (n) => Math.abs(later[n]! - whole[16000 + n]!) < 2e-4)).toBeNull();
    const kernel = from(0);
    const tone = sine(200, RATE, 9600, 0.5);
    const steady = run(kernel, tone).left;
    kernel.locate(30000);
    const jumped = run(kernel, tone).left;
    expect(Math.abs(jumped[0]! - steady.at(-1)!)).toBeLessThan(0.05);
  });

  it('passes the axis of the ears, and under the head, without a leap of its echoes', () => {
    const tone = sine(400, RATE, RATE * 2, 0.5);
    const bends = (values: ParameterValues) => {
      const { left } = through({ render: 'binaural', ears: 100, motionRate: 0.5, ...values }, tone);
      return largestBend(left.subarray(2000)) / largest(left.subarray(2000));
    };
    // Two second differences of a tone that moves evenly are as large as those of one that stands.
    const still = bends({ azimuth: 60, distance: 1 });
    expect(bends({ motion: 'circle', distance: 1 })).toBeLessThan(1.3 * still);
    expect(bends({ motion: 'line', azimuth: 90, distance: 0.3, motionSize: 3, height: -2 })).toBeLessThan(1.3 * still);
  });

  it('tells where it is, and mirrors to the opposite angle or the other side', () => {
    const where = (mirror: string) => {
      const kernel = kernelOf('place', { azimuth: 40, distance: 3, height: 1, mirror });
      run(kernel, new Float32Array(128));
      return readMeter(kernel, 'place', 'position');
    };
    const [x, y, z] = where('none') as [number, number, number];
    expect([Math.hypot(x, y), Math.atan2(x, y) / RADIAN, z].map((one) => Number(one.toFixed(6)))).toEqual([3, 40, 1]);
    const near = (found: number[], wished: number[]) =>
      found.forEach((one, n) => expect(one).toBeCloseTo(wished[n]!, 9));
    near(where('angle'), [-x, -y, z]);
    near(where('side'), [-x, y, z]);
  });

  it('is at once where it is set while it rests', () => {
    const kernel = kernelOf('place', { azimuth: -60, distance: 2 });
    run(kernel, noise(4800));
    kernel.suspend!();
    setValue(kernel, 'place', 'azimuth', 90);
    setValue(kernel, 'place', 'distance', 4);
    expect(readMeter(kernel, 'place', 'position').map((one) => Number(one.toFixed(6)))).toEqual([4, 0, 0]);
  });

  it('goes the shorter way when its azimuth is turned past behind', () => {
    const kernel = kernelOf('place', { azimuth: 170 });
    run(kernel, new Float32Array(256));
    setValue(kernel, 'place', 'azimuth', -170);
    let ahead = -1;
    for (let n = 0; n < 100; n++) {
      run(kernel, new Float32Array(128));
      ahead = Math.max(ahead, readMeter(kernel, 'place', 'position')[1]!);
    }
    expect(ahead).toBeLessThan(-0.95);
  });
});

describe('the sound field of a place', () => {
  it.each([1, 3])('points to where the thing is within 1 degree, at order %d', (order) => {
    const sound = noise(2400);
    const height = fc.double({ min: -3, max: 3, noNaN: true });
    fc.assert(
      fc.property(azimuths, height, fc.boolean(), (azimuth, z, wide) => {
        const kernel = kernelOf('place', { azimuth, height: z, distance: 2, size: wide ? 1 : 0 }) as FieldKernel;
        const channels = Array.from({ length: (order + 1) ** 2 }, () => new Float64Array(128));
        const flow = [0, 0, 0];
        run(kernel, sound, undefined, [128], () => {
          const [w, y, up, x] = channels as [Float64Array, Float64Array, Float64Array, Float64Array];
          w.forEach((one, n) => {
            flow[0]! += one * x[n]!;
            flow[1]! += one * y[n]!;
            flow[2]! += one * up[n]!;
          });
          for (const channel of channels) channel.fill(0);
          kernel.encodeField(channels);
        });
        const length = Math.hypot(...flow);
        const truth = [2 * Math.cos(azimuth * RADIAN), -2 * Math.sin(azimuth * RADIAN), z];
        const cosine = truth.reduce((sum, one, n) => sum + one * flow[n]!, 0) / length / Math.hypot(...truth);
        expect(Math.acos(Math.min(1, cosine)) / RADIAN).toBeLessThan(wide ? 12 : 1);
      }),
      { numRuns: thinned(20) },
    );
  });

  it('has the same power in every order, as SN3D has it', () => {
    const kernel = kernelOf('place', { azimuth: 77, height: 1, distance: 2, air: 0, distanceLevel: 0 }) as FieldKernel;
    const channels = Array.from({ length: 16 }, () => new Float64Array(128));
    const sums = new Array<number>(16).fill(0);
    const sound = noise(1280);
    run(kernel, sound, undefined, [128], () => {
      channels.forEach((channel, n) => {
        for (const x of channel) sums[n]! += x * x;
        channel.fill(0);
      });
      kernel.encodeField(channels);
    });
    const orders = [0, 1, 2, 3].map((n) => sums.slice(n * n, (n + 1) ** 2).reduce((a, b) => a + b, 0));
    for (const one of orders) expect(one / orders[0]!).toBeCloseTo(1, 6);
  });

  it('leaves what is heard as it is', () => {
    const sound = noise(1280);
    const alone = through({ azimuth: 20, motion: 'circle' }, sound);
    const kernel = kernelOf('place', { azimuth: 20, motion: 'circle' }) as FieldKernel;
    kernel.encodeField(Array.from({ length: 4 }, () => new Float64Array(128)));
    expect(run(kernel, sound)).toEqual(alone);
    expect(amplitudeAt(alone.left, 1000, RATE)).toBeGreaterThan(0);
  });
});
