import { thinned } from '../../../../test/support/sweep';
import fc from 'fast-check';
import {
  RATES,
  amplitudeAt,
  db,
  firstDifference,
  inMemory,
  kernelOf,
  largest,
  largestBend,
  partOf,
  run,
  setValue,
} from '../../../../test/support/render';
import type { Kernel } from '../kernel';
import type { ParameterValues } from '../spec';

interface Played {
  key: number;
  from: number;
  to: number;
  velocity?: number;
}

/** Plays notes, given in frames, on silence. */
function play(kernel: Kernel, notes: readonly Played[], frames: number, sizes: readonly number[] = [128]) {
  const silence = new Float32Array(frames);
  return inMemory({ left: silence, right: silence }, ({ left, right }) => {
    for (let at = 0, turn = 0; at < frames; turn++) {
      const count = Math.min(sizes[turn % sizes.length]!, frames - at);
      for (const { key, from, to, velocity = 1 } of notes) {
        if (to >= at && to < at + count) kernel.handleEvent!({ kind: 'noteOff', key }, to - at);
        if (from >= at && from < at + count) kernel.handleEvent!({ kind: 'noteOn', key, velocity }, from - at);
      }
      kernel.process(partOf(left, at, at + count), partOf(right, at, at + count), count);
      at += count;
    }
  });
}

const PLAIN: ParameterValues = { filterType: 'off', attack: 1, sustain: 100, spread: 0, velocity: 0, level: 0 };
const keyHz = (key: number) => 440 * 2 ** ((key - 69) / 12);

/** The loudest of what lies halfway between harmonics, where nothing is left by the window, in dB under the first. */
function strays(sound: Float32Array, hz: number, sampleRate: number): number {
  const size = Math.round((40 * sampleRate) / hz);
  const at = (frequency: number) => db(amplitudeAt(sound.subarray(4096, 4096 + size), frequency, sampleRate));
  let most = -Infinity;
  for (let f = hz / 2; f < sampleRate / 2; f += hz / 2) {
    if (Math.abs(f / hz - Math.round(f / hz)) > 0.25) most = Math.max(most, at(f));
  }
  return most - at(hz);
}

describe('synth', () => {
  it.each(RATES)('plays keys in tune and frame by frame at %d Hz', (rate) => {
    for (const wave of ['saw', 'pulse', 'stack', 'fm']) {
      const kernel = kernelOf('synth', { ...PLAIN, wave, fmDepth: 0 }, rate);
      const from = 1000;
      const { left } = play(kernel, [{ key: 57, from, to: 1e9 }], rate);
      expect(largest(left.subarray(0, from))).toBe(0);
      expect(largest(left.subarray(from, from + 60))).toBeGreaterThan(0.01);
      const near = (cents: number) => amplitudeAt(left.subarray(rate / 2), 220 * 2 ** (cents / 1200), rate);
      // A parabola through three places: the pitch is where its top is.
      const [a, b, c] = [near(-4), near(0), near(4)];
      expect(Math.abs((2 * (a - c)) / (a - 2 * b + c))).toBeLessThan(0.5);
    }
  });

  it.each(RATES)('folds nothing back above -70 dB at 2 kHz and elsewhere, at %d Hz', (rate) => {
    const settings: ParameterValues[] = [
      { wave: 'saw' },
      { wave: 'pulse', pulseWidth: 31 },
      { wave: 'stack', transpose: 12 },
      { wave: 'fm', fmRatio: 1, fmDepth: 12 },
      { wave: 'fm', fmRatio: 3, fmDepth: 12 },
    ];
    for (const values of settings) {
      for (const key of [95.213, 71.4, 107.31]) {
        const octave = values.wave === 'stack' ? 0.5 : 1;
        const kernel = kernelOf('synth', { ...PLAIN, ...values, transpose: key - 60 - (octave < 1 ? 12 : 0) }, rate);
        const { left } = play(kernel, [{ key: 60, from: 0, to: 1e9 }], 40000);
        const hz = keyHz(key - (octave < 1 ? 12 : 0)) * octave;
        expect([values, key, strays(left, hz, rate) < -70]).toEqual([values, key, true]);
      }
    }
  });

  it('has the levels of its waves’ harmonics', () => {
    const saw = play(kernelOf('synth', { ...PLAIN, wave: 'saw' }), [{ key: 45, from: 0, to: 1e9 }], 48000).left;
    const pulse = play(
      kernelOf('synth', { ...PLAIN, wave: 'pulse', pulseWidth: 25 }),
      [{ key: 45, from: 0, to: 1e9 }],
      48000,
    ).left;
    for (let k = 1; k < 30; k++) {
      const wanted = 2 / (Math.PI * k);
      expect(db(amplitudeAt(saw.subarray(24000), 110 * k, 48000) / wanted)).toBeCloseTo(0, 1);
      const high = 2 * wanted * Math.abs(Math.sin(Math.PI * k * 0.25));
      if (high > 1e-3) expect(db(amplitudeAt(pulse.subarray(24000), 110 * k, 48000) / high)).toBeCloseTo(0, 1);
    }
  });

  it('rises, falls, holds and fades as it is set', () => {
    const values = { ...PLAIN, wave: 'fm', fmDepth: 0, attack: 100, decay: 300, sustain: 25, release: 200 };
    const { left } = play(kernelOf('synth', values), [{ key: 93, from: 0, to: 48000 }], 96000);
    const around = (ms: number) => largest(left.subarray(48 * ms - 60, 48 * ms + 60));
    expect(around(50)).toBeCloseTo(0.5, 1);
    expect(around(100)).toBeGreaterThan(0.96);
    // The decay is the time to a thousandth of its way: half of it leaves the root of that.
    expect(around(250)).toBeCloseTo(0.25 + 0.75 * 10 ** -1.5, 2);
    expect(around(900)).toBeCloseTo(0.25, 2);
    expect(db(around(1100) / 0.25)).toBeCloseTo(-30, 0);
    expect(largest(left.subarray(48 * 1500))).toBe(0);
  });

  it('plays sixteen notes, gives up the oldest, and one voice goes from key to key and back', () => {
    const many = Array.from({ length: 17 }, (_, n) => ({ key: 40 + 2 * n, from: 256 * n, to: 1e9 }));
    const { left } = play(kernelOf('synth', { ...PLAIN, wave: 'fm', fmDepth: 0 }), many, 60000);
    const heard = (key: number) => amplitudeAt(left.subarray(12000), keyHz(key), 48000);
    expect(heard(40)).toBeLessThan(0.02);
    for (let n = 1; n < 17; n++) expect(heard(40 + 2 * n)).toBeGreaterThan(0.9);
    const alone = kernelOf('synth', { ...PLAIN, wave: 'fm', fmDepth: 0, voices: 1, glide: 100 });
    const held = [
      { key: 60, from: 0, to: 1e9 },
      { key: 72, from: 24000, to: 72000 },
    ];
    const one = play(alone, held, 120000).left;
    expect(amplitudeAt(one.subarray(4000, 24000), keyHz(60), 48000)).toBeGreaterThan(0.95);
    expect(amplitudeAt(one.subarray(30000, 70000), keyHz(72), 48000)).toBeGreaterThan(0.95);
    expect(amplitudeAt(one.subarray(78000, 120000), keyHz(60), 48000)).toBeGreaterThan(0.95);
    expect(largestBend(one, 100)).toBeLessThan(1.2 * (2 * Math.PI * (keyHz(72) / 48000)) ** 2);
  });

  it('is softer with soft notes by as much as is set', () => {
    const loud = (velocity: number, set: number) =>
      largest(
        play(
          kernelOf('synth', { ...PLAIN, wave: 'fm', fmDepth: 0, velocity: set }),
          [{ key: 60, from: 0, to: 1e9, velocity }],
          9600,
        ).left,
      );
    expect(loud(0.5, 0)).toBeCloseTo(1, 2);
    expect(loud(1, 100)).toBeCloseTo(1, 2);
    expect(db(loud(0.5, 50))).toBeCloseTo(db(0.05 + 0.95 * 0.5), 0);
    expect(loud(0.2, 100)).toBeLessThan(loud(0.2, 40));
  });

  it('sounds the same however blocks are cut, over random settings and notes', () => {
    const notes = fc.array(
      fc.record({
        key: fc.integer({ min: 24, max: 100 }),
        from: fc.integer({ min: 0, max: 6000 }),
        length: fc.integer({ min: 1, max: 5000 }),
        velocity: fc.double({ min: 0.01, max: 1, noNaN: true }),
      }),
      { minLength: 1, maxLength: 24 },
    );
    const values = fc.record({
      wave: fc.constantFrom('saw', 'pulse', 'stack', 'fm', 'noise'),
      unison: fc.integer({ min: 1, max: 7 }),
      glide: fc.constantFrom(0, 80),
      voices: fc.constantFrom(1, 3, 16),
      filterDepth: fc.integer({ min: -6, max: 6 }),
      resonance: fc.constantFrom(0.5, 20),
      vibrato: fc.constantFrom(0, 60),
      noise: fc.constantFrom(0, 50),
    });
    fc.assert(
      fc.property(notes, values, (given, set) => {
        const played = given.map(({ from, length, ...rest }) => ({ ...rest, from, to: from + length }));
        const whole = play(kernelOf('synth', set), played, 9000);
        for (const sizes of [[1], [37, 5, 128, 64]]) {
          const cut = play(kernelOf('synth', set), played, 9000, sizes);
          expect(firstDifference(cut.left, whole.left)).toBe(-1);
          expect(firstDifference(cut.right, whole.right)).toBe(-1);
        }
        expect(largest(whole.left)).toBeLessThan(60);
      }),
      { numRuns: thinned(12) },
    );
  });

  it('moves every parameter under a note without a click', () => {
    const moves: readonly (readonly [string, number | string, ParameterValues])[] = [
      ['wave', 'pulse', { wave: 'fm', fmDepth: 0 }],
      ['unison', 5, { wave: 'fm', fmDepth: 0 }],
      ['spread', 100, { wave: 'fm', fmDepth: 0, unison: 3 }],
      ['cutoff', 200, { wave: 'fm', fmDepth: 0, filterType: 'lowPass', cutoff: 8000 }],
      ['filterType', 'highPass', { wave: 'fm', fmDepth: 0, filterType: 'lowPass', cutoff: 8000 }],
      ['fmDepth', 1, { wave: 'fm', fmDepth: 0, fmRatio: 1 }],
      ['level', -40, { wave: 'fm', fmDepth: 0 }],
      ['transpose', 7, { wave: 'fm', fmDepth: 0 }],
    ];
    for (const [id, value, values] of moves) {
      const kernel = kernelOf('synth', { ...PLAIN, ...values });
      play(kernel, [{ key: 45, from: 0, to: 1e9 }], 9600);
      const before = largestBend(play(kernel, [], 4800).left);
      setValue(kernel, 'synth', id, value);
      const moving = largestBend(play(kernel, [], 4800).left);
      play(kernel, [], 9600);
      const after = largestBend(play(kernel, [], 4800).left);
      expect([id, moving - Math.max(before, after) < 0.003]).toEqual([id, true]);
    }
  });

  it('passes what comes in, and is silent without notes', () => {
    const kernel = kernelOf('synth', {});
    const sound = Float32Array.from({ length: 128 }, (_, n) => Math.sin(n));
    expect([...run(kernel, sound).left]).toEqual([...sound]);
    expect(kernel.tailSeconds()).toBe(0);
    kernel.handleEvent!({ kind: 'noteOn', key: 60, velocity: 1 }, 0);
    run(kernel, sound);
    expect(kernel.tailSeconds()).toBe(Infinity);
  });
});
