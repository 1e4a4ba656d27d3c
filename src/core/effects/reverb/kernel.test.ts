import { drawn } from '../../../../test/support/sweep';
import {
  amplitudeAt,
  db,
  firstDifference,
  freeKernels,
  impulse,
  kernelOf,
  largest,
  largestBend,
  RATES,
  run,
  setValue,
  sine,
  readMeter,
} from '../../../../test/support/render';
import { denseAfter, octaveDecays } from '../../dsp/decay';
import { splitOctaves } from '../../dsp/octaves';
import { integratedLoudness } from '../../analysis/loudness';
import { FourierTransform } from '../../dsp/fft';
import { Noise } from '../../dsp/noise';
import { OCTAVES_HZ } from '../../dsp/octaveBands';
import { monotoneCurveAt } from '../../math/monotoneCurve';
import { resolveSetting } from '../settings';
import { findSetting } from '../spec';
import { REVERB_PRESETS } from './presets';
import { reverbSpec } from './spec';
import { SOUND_SPEED } from '../../dsp/airAbsorption';
import { ROOMS } from './rooms';
import type { ParameterValues } from '../spec';

const RATE = 48000;

/** The wet impulse response. */
function respond(values: ParameterValues, seconds: number, rate = RATE) {
  return run(kernelOf('reverb', { mix: 100, preDelay: 0, ...values }, rate), impulse(Math.round(seconds * rate)));
}

const energy = (sound: ArrayLike<number>, from = 0, to = sound.length) => {
  let sum = 0;
  for (let n = from; n < to; n++) sum += sound[n]! * sound[n]!;
  return sum;
};
const level = (sound: ArrayLike<number>, fromSeconds: number, toSeconds: number, rate = RATE) =>
  10 *
  Math.log10(
    energy(sound, Math.round(fromSeconds * rate), Math.round(toSeconds * rate)) / (toSeconds - fromSeconds) / rate,
  );
const noiseOf = (seconds: number, seed = 3, amplitude = 0.3) => {
  const noise = new Noise(seed);
  return Float32Array.from({ length: seconds * RATE }, () => amplitude * noise.white());
};

/** T30 of all that decays in an octave, each frequency at its own rate. */
function expectedT30(decay: number, factors: readonly number[], centre: number): number {
  const rates: number[] = [];
  const factorAt = (hz: number) => monotoneCurveAt({ x: OCTAVES_HZ, y: factors }, hz);
  for (let at = -0.5; at <= 0.5; at += 0.05) rates.push(13.8155 / (decay * factorAt(centre * 2 ** at)));
  const still = (t: number) => rates.reduce((sum, k) => sum + Math.exp(-k * t) / k, 0);
  const when = (dbDown: number) => {
    let [low, high] = [0, 10 * decay];
    for (let n = 0; n < 60; n++) {
      const middle = (low + high) / 2;
      if (10 * Math.log10(still(middle) / still(0)) > dbDown) low = middle;
      else high = middle;
    }
    return low;
  };
  return 2 * (when(-35) - when(-5));
}

const factorsOf = (text: string): readonly number[] =>
  (resolveSetting(findSetting(reverbSpec, 'decayOctaves')!, text) as { factors: readonly number[] }).factors;

describe('decay of a reverb', () => {
  it.each(
    drawn('decays', [
      [44100, 0.3, 'flat', 'standard'],
      [48000, 0.3, '125:1.3,4000:0.7', 'fine'],
      [48000, 1, 'flat', 'eco'],
      [48000, 2, '30:0.7,60:1,6000:1,16000:0.6', 'standard'],
      [96000, 2, '125:0.8,500:1.1,8000:0.6', 'standard'],
      [48000, 6, '125:1.3,4000:0.7', 'eco'],
      [44100, 20, '125:1.2,2000:0.8', 'standard'],
    ] as const),
  )(
    'at %d Hz, %d s, %s, %s, is within 5 %% of the wish in every octave from 125 Hz to 8 kHz',
    (rate, decay, decayOctaves, quality) => {
      const factors = factorsOf(decayOctaves);
      // A short decay in a narrow band is so few random echoes that one room alone tells little: the mean of some.
      const rooms = decay <= 0.5 ? 12 : decay <= 3 ? 4 : 1;
      const seconds = 0.85 * decay * Math.max(...factors) + 0.4;
      const channels = Array.from({ length: rooms }, (_, seed) => {
        const { left, right } = respond({ decay, decayOctaves, quality, seed, earlyLate: 100 }, seconds, rate);
        return [left, right];
      }).flat();
      for (const centre of [125, 250, 500, 1000, 2000, 4000, 8000]) {
        const ratio = octaveDecays(channels, [centre], rate)[0]!.t30! / expectedT30(decay, factors, centre);
        expect([centre, Math.abs(ratio - 1) < 0.05 || ratio]).toEqual([centre, true]);
      }
    },
  );

  it('that is longer in one band is no boost of that band at its start', () => {
    const bands = (decayOctaves: string) => {
      const { left } = respond({ decay: 2, decayOctaves, earlyLate: 100, modDepth: 0 }, 0.4);
      return [125, 500, 1000, 4000, 8000].map((centre) => {
        const band = splitOctaves([left], [centre], RATE)[0]![0]!;
        return level(band, 0.03, 0.12);
      });
    };
    const flat = bands('flat');
    bands('125:2,1000:1,8000:0.5').forEach((one, n) => {
      // A twofold decay is 1.1 dB louder in the middle of the first 120 ms, and half of it 2.3 dB softer.
      expect(Math.abs(one - flat[n]!)).toBeLessThan(3);
    });
  });
});

describe('tail of a reverb', () => {
  it.each(RATES)(
    'is as dense as noise by 150 ms at diffusion 70 %% and 20 m, and even on both sides, at %d Hz',
    (rate) => {
      for (const seed of [1, 2, 3]) {
        const { left, right } = respond({ diffusion: 70, size: 20, seed }, 2, rate);
        expect(denseAfter(left, rate, 0)!).toBeLessThan(0.15);
        const from = Math.round(0.15 * rate);
        let both = 0;
        for (let n = from; n < left.length; n++) both += left[n]! * right[n]!;
        expect(Math.abs(both) / Math.sqrt(energy(left, from) * energy(right, from))).toBeLessThan(0.15);
        expect(Math.abs(10 * Math.log10(energy(left, from) / energy(right, from)))).toBeLessThan(1);
      }
    },
  );

  it('is mono to the bit at width 0', () => {
    const { left, right } = respond({ width: 0 }, 1);
    expect(firstDifference(left, right)).toBe(-1);
    expect(largest(left)).toBeGreaterThan(0.01);
  });

  it('keeps its level within 0.5 dB for 60 s when frozen, with movement, lets nothing in, and goes on when let go', () => {
    const kernel = kernelOf('reverb', { mix: 100, modDepth: 40 });
    run(kernel, noiseOf(1));
    setValue(kernel, 'reverb', 'hold', 'freeze');
    const first = run(kernel, new Float32Array(2 * RATE)).left;
    for (let second = 0; second < 56; second += 8) run(kernel, new Float32Array(8 * RATE));
    const last = run(kernel, noiseOf(2, 9)).left;
    expect(Math.abs(level(last, 0, 2) - level(first, 0.5, 2))).toBeLessThan(0.5);
    setValue(kernel, 'reverb', 'hold', 'off');
    expect(level(run(kernel, new Float32Array(3 * RATE)).left, 2.5, 3)).toBeLessThan(level(last, 0, 2) - 50);
    expect(kernel.tailSeconds()).toBeLessThan(10);
  });

  it('built up with full-scale noise never falls silent and stays under +6 dBFS', () => {
    const kernel = kernelOf('reverb', { mix: 50, hold: 'build', decay: 20 });
    let most = 0;
    for (let turn = 0; turn < 8; turn++) most = Math.max(most, largest(run(kernel, noiseOf(2, turn, 1)).left));
    expect(most).toBeLessThan(10 ** (6 / 20));
    const still = run(kernel, new Float32Array(8 * RATE)).left;
    // Samples over full scale are bent a little less with every pass.
    expect(Math.abs(level(still, 5, 6) - level(still, 7, 8))).toBeLessThan(0.2);
    expect(kernel.tailSeconds()).toBe(Infinity);
  });

  /** Power by bin of the late tail, of both sides; its decay is taken off, so that all of it counts alike. */
  function latePowers(values: ParameterValues, decay: number): Float64Array {
    const size = 131072;
    const { left, right } = respond({ ...values, mix: 100 }, 3.2);
    const powers = new Float64Array(size / 2);
    const transform = new FourierTransform(size);
    for (const side of [left, right]) {
      const re = Float64Array.from({ length: size }, (_, n) => {
        const at = n + Math.round(0.3 * RATE);
        return at < side.length ? side[at]! * 10 ** ((3 * n) / RATE / decay) * Math.sin((Math.PI * n) / size) : 0;
      });
      const im = new Float64Array(size);
      transform.forward(re, im);
      for (let bin = 0; bin < size / 2; bin++) powers[bin]! += re[bin]! ** 2 + im[bin]! ** 2;
    }
    return powers;
  }

  /** The most by which a band, so many to the octave, stands over the mean of so many on each side of it, in dB. */
  function highestBand(powers: Float64Array, fromHz: number, toHz: number, perOctave: number, beside: number): number {
    const bands: number[] = [];
    for (let hz = fromHz; hz < toHz * 1.001; hz *= 2 ** (1 / perOctave)) {
      const from = Math.round((hz * 2 * powers.length) / RATE);
      const to = Math.max(from + 1, Math.round((hz * 2 ** (1 / perOctave) * 2 * powers.length) / RATE));
      bands.push(powers.slice(from, to).reduce((sum, one) => sum + one, 0) / (to - from));
    }
    return Math.max(
      ...bands.map((band, n) => {
        const near = [...bands.slice(Math.max(0, n - beside), n), ...bands.slice(n + 1, n + 1 + beside)];
        return 10 * Math.log10((band * near.length) / near.reduce((sum, one) => sum + one, 0));
      }),
    );
  }

  it('does not ring: in the late tail of the hall no 24th of an octave stands 10 dB over its neighbours', () => {
    const powers = latePowers(REVERB_PRESETS.find(({ id }) => id === 'hall')!.values, 2.2);
    expect(highestBand(powers, 60, 10000, 24, 6)).toBeLessThan(10);
  });

  it.each(
    drawn('small rooms', [
      [2, 'standard'],
      [4, 'standard'],
      [2, 'eco'],
      [3, 'eco'],
    ] as const),
  )('of a room of %i m, %s, has no low band that stands out, in the mean of eight seeds', (size, quality) => {
    const means = [0, 0];
    for (let seed = 1; seed <= 8; seed++) {
      const powers = latePowers({ size, quality, seed, earlyLate: 100, decay: 2, decayOctaves: 'flat' }, 2);
      means[0]! += highestBand(powers, 200, 8000, 12, 6) / 8;
      means[1]! += highestBand(powers, 60, 200, 3, 2) / 8;
    }
    expect(means[0]).toBeLessThan(8);
    expect(means[1]).toBeLessThan(6);
  });

  it.each([0, 60, 100])('leaves no offset, at a balance of %i %%', (earlyLate) => {
    const offset = new Float32Array(4 * RATE).fill(0.1);
    for (const [shape, size] of [
      ['hall', 20],
      ['booth', 3],
      ['cathedral', 60],
    ] as const) {
      const { left } = run(kernelOf('reverb', { mix: 100, shape, size, decay: 1, earlyLate }), offset);
      expect(largest(left.subarray(3 * RATE))).toBeLessThan(1e-4);
    }
    // Audible levels are left as they are.
    const low = (hz: number) => {
      const { left } = run(kernelOf('reverb', { mix: 100, earlyLate: 0, size: 3 }), sine(hz, RATE, 2 * RATE, 0.1));
      return amplitudeAt(left.subarray(RATE), hz, RATE);
    };
    expect(low(25)).toBeGreaterThan(0.1);
  });

  it('is another one with another seed, and the same to the bit with the same', () => {
    const [one, again, other] = [5, 5, 6].map((seed) => respond({ seed, earlyLate: 100 }, 1).left);
    expect(firstDifference(one!, again!)).toBe(-1);
    let both = 0;
    for (let n = 0; n < one!.length; n++) both += one![n]! * other![n]!;
    expect(Math.abs(both) / Math.sqrt(energy(one!) * energy(other!))).toBeLessThan(0.1);
  });

  it('rises by an octave with each pass of its pitch', () => {
    const tone = new Float32Array(3 * RATE);
    tone.set(sine(440, RATE, 0.5 * RATE, 0.3).map((x, n) => x * Math.sin((2 * Math.PI * n) / RATE) ** 2));
    const at = (values: ParameterValues, hz: number) => {
      const { left } = run(kernelOf('reverb', { mix: 100, earlyLate: 100, decay: 6, modDepth: 0, ...values }), tone);
      return amplitudeAt(left.slice(0.8 * RATE, 1.8 * RATE), hz, RATE);
    };
    for (const [pitchInterval, first, second] of [
      [12, 880, 1760],
      [-12, 220, 110],
    ] as const) {
      const shifted = { pitchAmount: 60, pitchInterval };
      expect(at(shifted, first)).toBeGreaterThan(2 * at(shifted, 440));
      expect(at(shifted, second)).toBeGreaterThan(0.1 * at(shifted, first));
      expect(at({}, first)).toBeLessThan(0.1 * at(shifted, first));
    }
    const held = run(
      kernelOf('reverb', { mix: 100, pitchAmount: 100, pitchInterval: 24, hold: 'build' }),
      noiseOf(6, 5, 1),
    );
    expect(largest(held.left)).toBeLessThan(10 ** (6 / 20));
  });
});

describe('early reflections of a reverb', () => {
  it.each(RATES)('come when and as strong as the geometry of the box says, at %d Hz', (rate) => {
    for (const room of ROOMS) {
      const size = 18;
      const place = { sourceAcross: 30, sourceAlong: 20, listenerAcross: 60, listenerAlong: 70 };
      const { left, right } = respond({ ...place, size, shape: room.id, earlyLate: 0, quality: 'eco' }, 0.5, rate);
      const [x, y] = [room.width * size, size];
      const up = Math.min(1.6, 0.45 * room.height * size);
      const direct = Math.hypot(0.3 * x, 0.5 * y);
      // Left, right, front and back wall and the floor: the source's image behind each.
      const images = [
        [-0.3 * x, 0.2 * y, up, room.walls[0]],
        [1.7 * x, 0.2 * y, up, room.walls[0]],
        [0.3 * x, -0.2 * y, up, room.walls[1]],
        [0.3 * x, 1.8 * y, up, room.walls[1]],
        [0.3 * x, 0.2 * y, -up, room.walls[2]],
      ] as const;
      const found = images.map(([ix, iy, iz, wall]) => {
        const distance = Math.hypot(ix - 0.6 * x, iy - 0.7 * y, iz - up);
        const frame = Math.round(((distance - direct) / SOUND_SPEED) * rate);
        // First frame of an impulse after a wall, both sides together; two images may come at once.
        return { frame, power: left[frame]! ** 2 + right[frame]! ** 2, gain: (wall * direct) / distance };
      });
      const alone = found.filter(({ frame }) =>
        found.every((other) => other.frame === frame || Math.abs(other.frame - frame) > 3),
      );
      expect(alone.length).toBeGreaterThan(2);
      const first = alone[0]!;
      for (const { frame, power, gain } of alone) {
        expect(power).toBeGreaterThan(4 * (left[frame - 1]! ** 2 + right[frame - 1]! ** 2));
        // Others may arrive in the same frame: within 1.5 dB of what this one has.
        expect(Math.abs(10 * Math.log10(power / first.power) - 20 * Math.log10(gain / first.gain))).toBeLessThan(1.5);
      }
      freeKernels();
    }
  });

  it('come from their side: a room in a mirror is heard with left and right exchanged', () => {
    const heard = (sourceAcross: number, listenerAcross: number) =>
      respond({ earlyLate: 0, sourceAcross, listenerAcross, shape: 'yard' }, 0.5);
    const [one, mirrored] = [heard(30, 10), heard(70, 90)];
    let off = 0;
    for (let n = 0; n < one.left.length; n++) {
      off = Math.max(off, Math.abs(one.left[n]! - mirrored.right[n]!), Math.abs(one.right[n]! - mirrored.left[n]!));
    }
    expect(off).toBeLessThan(1e-3);
    // The wall that is near on the left.
    const [x, y] = [0.9 * 20, 20];
    const direct = Math.hypot(0.2 * x, 0.37 * y);
    const frame = Math.round(((Math.hypot(0.4 * x, 0.37 * y) - direct) / SOUND_SPEED) * RATE);
    expect(Math.abs(one.left[frame]!)).toBeGreaterThan(1.3 * Math.abs(one.right[frame]!));
  });

  it('are alone at 0 %, and gone at 100 %', () => {
    const early = respond({ earlyLate: 0, decay: 10 }, 3).left;
    expect(energy(early, 2 * RATE)).toBeLessThan(1e-12);
    const alone = respond({ listen: 'early', decay: 10 }, 3).left;
    const tail = respond({ listen: 'late', decay: 10 }, 3).left;
    const both = respond({ decay: 10 }, 3).left;
    let off = 0;
    for (let n = 0; n < both.length; n++) off = Math.max(off, Math.abs(both[n]! - alone[n]! - tail[n]!));
    expect(off).toBeLessThan(1e-6);
  });

  it.each(RATES)('start later by the pre-delay to the frame, at %d Hz', (rate) => {
    const first = (preDelay: number) => respond({ preDelay }, 1, rate).left.findIndex((sample) => sample !== 0);
    expect(first(0)).toBeGreaterThan(1);
    for (const ms of [1, 37.3, 500]) expect(first(ms) - first(0)).toBe(Math.round((ms * rate) / 1000));
  });
});

describe('around the room', () => {
  it('the dry sound is there to the bit at 0 %, and not at all at 100 %', () => {
    const sound = noiseOf(1);
    expect(firstDifference(run(kernelOf('reverb', { mix: 0 }), sound).left, sound)).toBe(-1);
    const wet = respond({ preDelay: 20 }, 0.5).left;
    expect(wet.subarray(0, 0.02 * RATE).every((sample) => sample === 0)).toBe(true);
  });

  it('every factory space is within 2 dB of the dry loudness at its mix, and says what to listen for', () => {
    expect(REVERB_PRESETS.length).toBeGreaterThanOrEqual(24);
    const noise = new Noise(2);
    const dry = Float32Array.from(
      { length: RATE * 4 },
      (_, n) => (Math.floor(n / 9000) % 3 === 0 ? 0.35 : 0.02) * noise.pink(),
    );
    const before = integratedLoudness([dry, dry], RATE);
    for (const { id, help, values } of REVERB_PRESETS) {
      const { left, right } = run(kernelOf('reverb', values), dry);
      expect(help!.length).toBeGreaterThan(20);
      expect([id, Math.abs(integratedLoudness([left, right], RATE) - before) < 2]).toEqual([id, true]);
      freeKernels();
    }
  });

  it('esses are turned down before it by as much as asked, and what is no ess is not', () => {
    const esses = (() => {
      const noise = splitOctaves([noiseOf(1)], [8000], RATE)[0]![0]!;
      return Float32Array.from(noise);
    })();
    const wet = (sound: Float32Array, deEss: number) =>
      level(run(kernelOf('reverb', { mix: 100, deEss, deEssFrequency: 4000 }), sound).left, 0.3, 1);
    expect(Math.abs(wet(esses, 0) - wet(esses, 12) - 12)).toBeLessThan(1.5);
    const soft = esses.map((sample) => sample * 0.01);
    expect(Math.abs(wet(soft, 0) - wet(soft, 12) - 12)).toBeLessThan(1.5);
    const vowel = sine(300, RATE, RATE, 0.3);
    expect(Math.abs(wet(vowel, 0) - wet(vowel, 12))).toBeLessThan(0.1);
  });

  it('what its cuts keep out is not in the room', () => {
    const wet = (hz: number, values: ParameterValues) =>
      amplitudeAt(
        run(kernelOf('reverb', { mix: 100, ...values }), sine(hz, RATE, 2 * RATE, 0.3)).left.slice(RATE),
        hz,
        RATE,
      );
    expect(db(wet(100, { lowCut: 400 }) / wet(100, {}))).toBeLessThan(-22);
    expect(db(wet(8000, { highCut: 2000 }) / wet(8000, {}))).toBeLessThan(-22);
    expect(db(wet(100, { wetLow: -12, wetLowFrequency: 800 }) / wet(100, {}))).toBeCloseTo(-12, 0);
    expect(db(wet(9000, { wetHigh: 6, wetHighFrequency: 2500 }) / wet(9000, {}))).toBeCloseTo(6, 0);
    expect(db(wet(1000, { wetMid: -9, wetMidFrequency: 1000 }) / wet(1000, {}))).toBeCloseTo(-9, 0);
  });

  it('a gate shuts it once sound has gone for its hold and release, a swell opens it slowly', () => {
    const burst = new Float32Array(2 * RATE);
    burst.set(noiseOf(1).subarray(0, 0.2 * RATE));
    const gate = { mix: 100, decay: 5, envelopeAmount: 100, envelopeHold: 150, envelopeRelease: 40 };
    const gated = run(kernelOf('reverb', gate), burst).left;
    expect(level(gated, 0.2, 0.35)).toBeGreaterThan(-40);
    expect(largest(gated.subarray(0.46 * RATE))).toBeLessThan(1e-6);
    const swell = { mix: 100, decay: 5, envelopeAmount: 100, envelopeAttack: 800, envelopeHold: 1000 };
    const swelling = run(kernelOf('reverb', swell), burst).left;
    expect(level(swelling, 0.7, 0.9)).toBeGreaterThan(level(swelling, 0.05, 0.2) + 10);
  });

  it('it sinks under the voice by what the key is over the threshold, and rises again', () => {
    const kernel = kernelOf('reverb', { mix: 100, duckAmount: 20, duckThreshold: -30, duckRelease: 100 });
    const loud = noiseOf(1, 3, 0.5);
    run(kernel, loud);
    expect(readMeter(kernel, 'reverb', 'reduction')[0]).toBeCloseTo(-20, 0);
    run(kernel, new Float32Array(RATE));
    expect(readMeter(kernel, 'reverb', 'reduction')[0]).toBeGreaterThan(-0.1);
  });
});

describe('moves of a reverb', () => {
  const wetLevels = (values: ParameterValues, id: string, from: number, to: number) => {
    const kernel = kernelOf('reverb', { mix: 100, decay: 3, earlyLate: 80, [id]: from, ...values });
    const sound = noiseOf(6);
    const out = run(kernel, sound, sound.slice(), [128], (frame) => {
      const at = Math.min(1, Math.max(0, (frame - 2 * RATE) / (2 * RATE)));
      if (frame >= 2 * RATE && frame <= 4 * RATE) setValue(kernel, 'reverb', id, from * (to / from) ** at);
    }).left;
    return Array.from({ length: 20 }, (_, n) => level(out, 1 + n * 0.25, 1.25 + n * 0.25));
  };

  it.each([
    ['size', 8, 60, 'crossfade'],
    ['size', 60, 8, 'crossfade'],
    ['size', 8, 60, 'glide'],
    ['decay', 0.5, 8, 'crossfade'],
  ] as const)('of %s from %d to %d (%s) leave no gap', (id, from, to, timeChange) => {
    const levels = wetLevels({ timeChange }, id, from, to);
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(6);
  });

  it('from one quality to another let the old tail ring on', () => {
    const kernel = kernelOf('reverb', { mix: 100, decay: 4, earlyLate: 100 });
    run(kernel, noiseOf(2));
    const before = run(kernel, new Float32Array(0.2 * RATE)).left;
    setValue(kernel, 'reverb', 'quality', 'fine');
    const after = run(kernel, new Float32Array(0.2 * RATE)).left;
    expect(level(before, 0, 0.2) - level(after, 0, 0.2)).toBeLessThan(5);
    expect(level(before, 0, 0.2) - level(after, 0, 0.2)).toBeGreaterThan(1);
  });

  it('back to a quality whose tail has died away take up the size and decay of now', () => {
    const now = { size: 45, decay: 5 };
    const kernel = kernelOf('reverb', { mix: 100, earlyLate: 100, quality: 'fine', size: 8, decay: 0.5 });
    run(kernel, noiseOf(0.5));
    setValue(kernel, 'reverb', 'quality', 'standard');
    run(kernel, new Float32Array(8 * RATE));
    for (const [id, value] of Object.entries(now)) setValue(kernel, 'reverb', id, value);
    run(kernel, new Float32Array(RATE));
    setValue(kernel, 'reverb', 'quality', 'fine');
    run(kernel, new Float32Array(RATE));
    const fresh = kernelOf('reverb', { mix: 100, earlyLate: 100, quality: 'fine', ...now });
    const [again, wanted] = [kernel, fresh].map((one) => run(one, noiseOf(4)).left);
    expect(Math.abs(level(again!, 3, 4) - level(wanted!, 3, 4))).toBeLessThan(1);
  });

  it('movement belongs to the place in the session, wherever playback began, and a jump while it sounds is no click', () => {
    const values = { mix: 100, modDepth: 100, modRate: 1.3, decay: 3 };
    const sound = noiseOf(2);
    sound.fill(0, 0, RATE);
    const whole = run(kernelOf('reverb', values), sound).left;
    const later = kernelOf('reverb', values);
    later.locate(RATE);
    const part = run(later, sound.slice(RATE)).left;
    for (let n = 0; n < RATE; n += 31) expect(Math.abs(part[n]! - whole[RATE + n]!)).toBeLessThan(1e-6);
    const elsewhere = run(kernelOf('reverb', values), sound.slice(RATE)).left;
    expect(energy(elsewhere.map((x, n) => x - part[n]!))).toBeGreaterThan(0.1 * energy(part));

    const kernel = kernelOf('reverb', values);
    const tone = sine(300, RATE, 2 * RATE, 0.3);
    run(kernel, tone);
    const steady = largestBend(run(kernel, tone).left);
    kernel.locate(987654);
    expect(largestBend(run(kernel, tone).left)).toBeLessThan(1.5 * steady);
  });
});
