import { drawn } from '../../../../test/support/sweep';
import {
  amplitudeAt,
  db,
  firstDifference,
  floats,
  impulse,
  kernelOf,
  largest,
  RATES,
  run,
  setValue,
  sine,
  readMeter,
} from '../../../../test/support/render';
import { BandSplit } from '../../dsp/bandSplit';
import { Noise } from '../../dsp/noise';
import { Arena } from '../../wasm/arena';
import { pitchTrack } from '../../../../test/support/pitch';
import type { ParameterValues } from '../spec';
import { WINDOWS } from './spec';
import { firstFailure } from '../../../../test/support/frames';

const wet = { mix: 100, voices: '1', spread: 0, depth: 0 };

function pink(length: number): Float32Array {
  const noise = new Noise(6);
  return Float32Array.from({ length }, () => 0.5 * noise.pink());
}

describe('chorus', () => {
  it.each(RATES)('one copy that stands still is the sound, late by the delay, at %d Hz', (rate) => {
    const sound = pink(rate / 2);
    const out = run(kernelOf('chorus', { ...wet, delay: 10 }, rate), sound).left;
    const late = Math.round(0.01 * rate);
    expect(firstFailure(late, out.length, (n) => Math.abs(out[n]! - sound[n - late]!) < 1e-6)).toBeNull();
  });

  it.each(RATES)('bends the pitch as theory says, within 3 cents, at %d Hz', (rate) => {
    const values = { ...wet, delay: 20, depth: 30, rate: 1 };
    const hz = 1000;
    const out = run(kernelOf('chorus', values, rate), sine(hz, rate, 3 * rate, 0.5)).left;
    const track = pitchTrack(out, rate).filter(([at]) => at > 0.5 * rate && at < 2.5 * rate);
    expect(track.length).toBeGreaterThan(500);
    for (const [at, found] of track) {
      // d(delay)/dt of 20 ms (1 + 0.3 sin(2 pi t)).
      const slope = 0.02 * 0.3 * 2 * Math.PI * Math.cos((2 * Math.PI * at) / rate);
      expect(Math.abs(1200 * Math.log2(found / (hz * (1 - slope))))).toBeLessThan(3);
    }
  });

  it.each(WINDOWS)('a band that is all of the sound nulls to it within -100 dB (window %d)', (window) => {
    const split = new BandSplit(new Arena(), window, 48000, 48000);
    split.configure(-1e5, 1e6);
    const sound = floats(48000);
    sound.set(pink(48000));
    split.process(sound, sound, 0, 48000);
    const [left] = split.band;
    let most = 0;
    for (let n = 2 * window; n < 48000; n++) most = Math.max(most, Math.abs(left[n]! - sound[n - window]!));
    expect(db(most / largest(sound))).toBeLessThan(-100);
  });

  it('the copies of a band are those of the whole sound, where the sound is all in the band', () => {
    const parts = [900, 2100, 3300].map((hz) => sine(hz, 48000, 48000, 0.2));
    const sound = parts[0]!.map((_, n) => parts.reduce((sum, part) => sum + part[n]!, 0));
    const values = { mix: 60, voices: '3', depth: 20, rate: 0.9 };
    const plain = run(kernelOf('chorus', values), sound).left;
    const split = run(kernelOf('chorus', { ...values, bandLow: 100, bandHigh: 12000 }), sound).left;
    let most = 0;
    for (let n = 8000; n < 44000; n++) most = Math.max(most, Math.abs(split[n + 1024]! - plain[n]!));
    expect(db(most / largest(plain))).toBeLessThan(-60);
  });

  it.each(['256', '1024', '4096'])('leaves what lies outside the band untouched and in phase (window %s)', (window) => {
    const rate = 48000;
    const values = { mix: 100, voices: '3', depth: 60, rate: 3, bandLow: 2000, bandHigh: 8000, window };
    const kernel = kernelOf('chorus', values);
    const late = kernel.latencyFrames;
    expect(late).toBe(Number(window));
    const far = sine(300, rate, rate, 0.5);
    const out = run(kernel, far).left;
    const moved = run(kernelOf('chorus', values), sine(4000, rate, rate, 0.5)).left;
    let worst = 0;
    for (let n = 9000; n < rate - 1; n++) worst = Math.max(worst, Math.abs(out[n]! - far[n - late]!));
    // The side lobes of the shortest window reach 300 Hz from its edge at 2 kHz.
    expect(db(worst / 0.5)).toBeLessThan(window === '256' ? -45 : -60);
    const steady = amplitudeAt(moved.slice(12000), 4000, rate) / 0.5;
    expect(db(steady)).toBeLessThan(-3);
    expect(largest(moved)).toBeGreaterThan(0.2);
  });

  it('puts the input out bit for bit at 0 %, late by its latency, with a band set', () => {
    const sound = pink(20000);
    const kernel = kernelOf('chorus', { mix: 0, bandLow: 500, window: '512' });
    const out = run(kernel, sound).left;
    expect(firstDifference(out.slice(512), sound.slice(0, -512))).toBe(-1);
  });

  it('changes over to a band and back without a click', () => {
    const rate = 48000;
    const tone = sine(150, rate, rate, 0.4);
    const kernel = kernelOf('chorus', { mix: 50, window: '512' });
    const first = run(kernel, tone).left;
    setValue(kernel, 'chorus', 'bandLow', 400);
    const second = run(kernel, tone).left;
    setValue(kernel, 'chorus', 'bandLow', 20);
    const third = run(kernel, tone).left;
    const bend = (sound: Float32Array) => {
      let most = 0;
      for (let n = 2; n < sound.length; n++)
        most = Math.max(most, Math.abs(sound[n]! - 2 * sound[n - 1]! + sound[n - 2]!));
      return most;
    };
    for (const sound of [first, second, third]) expect(bend(sound.slice(2000))).toBeLessThan(0.001);
  });

  it('in grains keeps the pitch, where continuous motion bends it', () => {
    const rate = 48000;
    const tone = sine(1000, rate, 2 * rate, 0.5);
    const values = { ...wet, delay: 20, depth: 60, rate: 2 };
    const purity = (motion: string) => {
      const out = run(kernelOf('chorus', { ...values, motion, grainSize: 100, jitter: 0 }), tone).left.slice(rate);
      return amplitudeAt(out, 1000, rate);
    };
    // A carrier that is bent 130 cents each way has next to nothing left at its own frequency.
    expect(purity('grains')).toBeGreaterThan(3 * purity('continuous'));
  });

  it('sounds the same from a place in grains, wherever playback began', () => {
    const values = { mix: 100, motion: 'grains', grainSize: 50, jitter: 80, randomPhase: 100, voices: '3' };
    const sound = pink(96000);
    const whole = run(kernelOf('chorus', values), sound).left;
    const later = kernelOf('chorus', values);
    later.locate(48000);
    const part = run(later, sound.slice(48000)).left;
    for (let n = 9600; n < 40000; n += 31) expect(Math.abs(part[n]! - whole[48000 + n]!)).toBeLessThan(1e-6);
  });

  it('worn copies lose highs the more the longer they are kept, and hiss only along with sound', () => {
    const high = (delay: number, wear: number) =>
      amplitudeAt(
        run(kernelOf('chorus', { ...wet, delay, wear }), sine(6000, 48000, 24000, 0.2)).left.slice(12000),
        6000,
        48000,
      ) / 0.2;
    expect(db(high(5, 0))).toBeGreaterThan(-0.1);
    expect(db(high(40, 100))).toBeLessThan(db(high(5, 100)) - 6);
    const kernel = kernelOf('chorus', { ...wet, wear: 100, noise: 100 });
    const rest = run(kernel, new Float32Array(24000)).left;
    const loud = run(kernel, sine(100, 48000, 48000, 0.4)).left.slice(24000);
    const hiss = (sound: Float32Array) => {
      let sum = 0;
      for (let n = 2; n < sound.length; n++) sum += (sound[n]! - 2 * sound[n - 1]! + sound[n - 2]!) ** 2;
      return Math.sqrt(sum / sound.length);
    };
    expect(hiss(loud)).toBeGreaterThan(4 * hiss(rest));
  });

  it('is in the middle at no width', () => {
    const sound = pink(20000);
    const out = run(
      kernelOf('chorus', { mix: 100, width: 0, depth: 40, spread: 180 }),
      sound,
      sound.map((x) => -0.4 * x),
    );
    expect(firstDifference(out.left, out.right)).toBe(-1);
  });

  it('with all its feedback stays under +6 dBFS and dies away', () => {
    const kernel = kernelOf('chorus', { feedback: 90, voices: '6', depth: 0, mix: 100 });
    const noise = new Noise(8);
    const loud = Float32Array.from({ length: 48000 * 4 }, () => noise.white());
    expect(largest(run(kernel, loud).left)).toBeLessThan(1.995);
    run(kernel, new Float32Array(48000 * 12));
    expect(largest(run(kernel, impulse(10).fill(0)).left)).toBeLessThan(1e-3);
  });

  it.each(drawn('rates of near copies', RATES))(
    'has copies as near as 1 ms that are late by what they say and by nothing else, at %d Hz',
    (rate) => {
      const sound = pink(rate);
      const swing = { ...wet, delay: 1, depth: 60, rate: 3 };
      const out = run(kernelOf('chorus', swing, rate), sound).left;
      // A copy that read ahead of the write position would play the ring as it was 100 ms ago or more.
      const loud = largest(sound);
      const isAsLoudAsAround = (n: number) => {
        const around = largest(sound.subarray(Math.max(0, n - 0.004 * rate), n + 1));
        return Math.abs(out[n]!) < 1.6 * around + 1e-6 * loud;
      };
      expect(firstFailure(100, out.length, isAsLoudAsAround)).toBeNull();
      const burst = new Float32Array(rate);
      burst.set(sine(700, rate, rate / 10, 0.8));
      const after = run(kernelOf('chorus', swing, rate), burst).left;
      expect(largest(after.slice(rate / 10 + 0.01 * rate))).toBeLessThan(1e-4);
    },
  );

  it.each(
    ['1', '2', '3', '4', '5', '6'].flatMap((voices) =>
      [60, 72, 90, 120, 180].map((spread) => [voices, spread] as const),
    ),
  )('with %s voices at a spread of %d degrees is never mono', (voices, spread) => {
    const rate = 48000;
    const sound = pink(4 * rate);
    const out = run(kernelOf('chorus', { mix: 100, voices, spread }), sound);
    let cross = 0;
    let left = 0;
    let right = 0;
    for (let n = rate / 2; n < sound.length; n++) {
      cross += out.left[n]! * out.right[n]!;
      left += out.left[n]! ** 2;
      right += out.right[n]! ** 2;
    }
    expect(cross / Math.sqrt(left * right)).toBeLessThan(0.8);
  });

  it.each(['smoothRandom', 'steppedRandom'])('moves each voice by a random course of its own: %s', (shape) => {
    const kernel = kernelOf('chorus', { mix: 100, voices: '6', shape, rate: 5, depth: 50, spread: 90 });
    const courses: number[][] = Array.from({ length: 6 }, () => []);
    run(kernel, new Float32Array(48000 * 8), undefined, [128], () => {
      const delays = readMeter(kernel, 'chorus', 'delays');
      courses.forEach((course, voice) => course.push(delays[2 * voice]!));
    });
    const centred = courses.map((course) => {
      const mean = course.reduce((sum, x) => sum + x, 0) / course.length;
      return course.map((x) => x - mean);
    });
    /** The largest likeness of two courses at any shift up to a second. */
    const alike = (a: number[], b: number[]) => {
      const power = (one: number[]) => Math.sqrt(one.reduce((sum, x) => sum + x * x, 0));
      let most = 0;
      for (let shift = -375; shift <= 375; shift += 3) {
        let sum = 0;
        for (let n = 400; n < a.length - 400; n++) sum += a[n]! * b[n + shift]!;
        most = Math.max(most, Math.abs(sum) / (power(a) * power(b)));
      }
      return most;
    };
    for (let n = 1; n < 6; n++) expect(alike(centred[0]!, centred[n]!)).toBeLessThan(0.6);
  });

  it('stays under +6 dBFS with a band set, whatever the mix', () => {
    const noise = new Noise(8);
    const loud = Float32Array.from({ length: 48000 * 2 }, () => noise.white());
    const bands: ParameterValues[] = [
      { bandLow: 200 },
      { bandHigh: 9000 },
      { bandLow: 500, bandHigh: 15000, window: '256' },
    ];
    for (const mix of [30, 50, 66, 80, 100]) {
      for (const band of bands) {
        const out = run(kernelOf('chorus', { feedback: 90, voices: '6', mix, ...band }), loud);
        expect(Math.max(largest(out.left), largest(out.right))).toBeLessThan(10 ** (6 / 20));
      }
    }
  });

  it.each([
    { jitter: 0, randomPhase: 0, depth: 0 },
    { jitter: 80, randomPhase: 100, depth: 60 },
  ])('keeps its level in grains as their density grows: %j', (places) => {
    const sound = pink(48000 * 6);
    const power = (part: Float32Array) => part.reduce((sum, x) => sum + x * x, 0);
    for (const density of [1, 1.5, 2, 2.5, 3, 4]) {
      const values = { ...wet, ...places, motion: 'grains', grainSize: 60, density, delay: 20 };
      const out = run(kernelOf('chorus', values), sound).left;
      const change = 10 * Math.log10(power(out.slice(48000)) / power(sound.slice(48000)));
      expect([density, Math.abs(change) < 1]).toEqual([density, true]);
    }
  });
});
