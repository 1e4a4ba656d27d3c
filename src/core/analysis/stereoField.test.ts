import { run, kernelOf } from '../../../test/support/render';
import { Noise } from '../dsp/noise';
import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import type { ParameterValue } from '../effects/spec';
import { SeededRandom } from '../math/random';
import { measureLevels } from './levels';
import { adviceOn, throughPaths } from './midsideAdvice';
import { crossSpectra, fieldOf, measureField, SpectraMeter, type StereoField } from './stereoField';

const RATE = 48000;
const FRAMES = 4 * RATE;
const noise = new Noise(12);
const pink = () => Float32Array.from({ length: FRAMES }, () => 0.2 * noise.pink());
const [one, other] = [pink(), pink()];
const mix = (a: number, x: Float32Array, b: number, y: Float32Array) => x.map((value, n) => a * value + b * y[n]!);

describe('the field of a stereo sound', () => {
  it('one sound on both sides loses nothing, two different ones 3 dB, one against itself everything', () => {
    const same = measureField(one, one, RATE);
    expect(same.correlation).toBeCloseTo(1, 9);
    expect([same.monoLossDb!, same.tiltDb!].every((db) => Math.abs(db) < 1e-9)).toBe(true);
    expect(same.worst).toBeNull();
    const apart = measureField(one, other, RATE);
    expect(apart.correlation!).toBeCloseTo(0, 1);
    expect(apart.monoLossDb!).toBeCloseTo(3.01, 0);
    const against = measureField(
      one,
      one.map((x) => -x),
      RATE,
    );
    expect(against.correlation).toBeCloseTo(-1, 9);
    expect(against.monoLossDb).toBe(60);
    const silent = measureField(new Float32Array(100), new Float32Array(100), RATE);
    expect([silent.correlation, silent.monoLossDb, silent.tiltDb, silent.worst]).toEqual([null, null, null, null]);
  });

  it('tells correlation and tilt as they were made, in all and by octave', () => {
    // The common part has twice the power of the others: a correlation of 2/3.
    const common = pink();
    const left = mix(Math.SQRT2, common, 1, one);
    const right = mix(Math.SQRT2, common, 1, other);
    const field = measureField(
      left,
      right.map((x) => x / 2),
      RATE,
    );
    expect(field.tiltDb!).toBeCloseTo(6.02, 0);
    expect(field.correlation!).toBeCloseTo(2 / 3, 1);
    for (const { fromHz, correlation } of field.octaves) {
      if (fromHz > 100) expect(Math.abs(correlation! - 2 / 3)).toBeLessThan(0.08);
    }
    const centres = field.octaves.map(({ fromHz, toHz }) => Math.sqrt(fromHz * toHz));
    for (const [n, centre] of centres.entries()) expect(centre).toBeCloseTo(31.25 * 2 ** n, 6);
    expect(centres).toHaveLength(10);
    expect(measureLevels({ sampleRateHz: RATE, channels: [left, right] }).correlation).toBeCloseTo(2 / 3, 1);
  });

  it('tells what is panned from what is lost', () => {
    // A quarter of the amplitude on the right: 20 log10(sqrt(2 (1 + 1/16)) / (1 + 1/4)) softer in mono, none of it lost.
    const softer = 20 * Math.log10(Math.sqrt(2 * (1 + 1 / 16)) / (1 + 1 / 4));
    const quarter = one.map((x) => x / 4);
    const panned = measureField(one, quarter, RATE);
    expect([panned.monoLossDb!, panned.panningDb!, panned.worst]).toEqual([
      expect.closeTo(0, 6),
      expect.closeTo(softer, 6),
      null,
    ]);
    const silent = new Float32Array(FRAMES);
    expect(measureField(one, silent, RATE)).toMatchObject({
      monoLossDb: expect.closeTo(0, 9) as number,
      panningDb: expect.closeTo(3.01, 2) as number,
    });
    // Moved from side to side by equal power, round after round.
    const turn = (n: number) => (Math.PI / 4) * (1 + Math.sin((2 * Math.PI * n) / (2 * RATE)));
    const moved = measureField(
      one.map((x, n) => x * Math.cos(turn(n))),
      one.map((x, n) => x * Math.sin(turn(n))),
      RATE,
    );
    expect(moved.monoLossDb!).toBeLessThan(0.1);
    expect(moved.panningDb!).toBeGreaterThan(0.5);
    // A late copy, panned: the loss is found where it is, whatever the level.
    const late = new Float32Array(FRAMES);
    late.set(one.subarray(0, FRAMES - 48), 48);
    const both = measureField(
      mix(1, one, 0.5, late),
      mix(0.5, one, -0.5, late).map((x) => x / 4),
      RATE,
    );
    expect(both.panningDb!).toBeGreaterThan(1);
    expect(both.monoLossDb!).toBeGreaterThan(0.1);
  });

  it('names no third that is masked by what is loud', () => {
    // Nothing below 110 Hz but noise 60 dB under it that is against itself.
    const tone = Float32Array.from({ length: FRAMES }, (_, n) => 0.3 * Math.sin((2 * Math.PI * 220 * n) / RATE));
    const rumble = Float32Array.from({ length: FRAMES }, (_, n) => 3e-4 * Math.sin((2 * Math.PI * 39 * n) / RATE));
    const { worst, monoLossDb, panningDb } = measureField(mix(1, tone, 1, rumble), mix(0.3, tone, -1, rumble), RATE);
    expect(worst).toBeNull();
    expect(monoLossDb!).toBeLessThan(0.01);
    expect(panningDb!).toBeGreaterThan(1);
  });

  it('is the same of a sound that comes in parts', () => {
    const random = new SeededRandom(21);
    for (const frames of [0, 1, 2048, 8191, 30000]) {
      const [left, right] = [one.subarray(0, frames), other.subarray(0, frames)];
      const meter = new SpectraMeter(RATE);
      for (let at = 0; at < frames;) {
        const end = at + Math.ceil(random.uniform() * 9000);
        meter.take(left.subarray(at, end), right.subarray(at, end));
        at = end;
      }
      expect(meter.end()).toEqual(crossSpectra(left, right, RATE));
    }
  });

  it('finds the third of an octave that a late copy cancels', () => {
    // Half a period of 500 Hz late: there, and at its odd multiples, both sides pull against one another.
    const late = new Float32Array(FRAMES);
    late.set(one.subarray(0, FRAMES - 48), 48);
    const { worst, octaves } = measureField(one, late, RATE);
    expect(Math.abs(Math.log2(Math.sqrt(worst!.fromHz * worst!.toHz) / 500))).toBeLessThan(0.2);
    expect(worst!.monoLossDb!).toBeGreaterThan(10);
    expect(octaves[2]!.monoLossDb!).toBeLessThan(1);
  });
});

const spec = effectById('midside');
const figureOf = (values: Record<string, ParameterValue>) => {
  const resolved = resolveValues(spec, values, { tempoBpm: 120, beatsPerBar: 4 });
  return (id: string) => resolved[spec.parameters.findIndex((parameter) => parameter.id === id)]!;
};

describe('what is said of a setting of middle and sides', () => {
  const left = mix(1, one, 0.4, other);
  const right = mix(1, one, -0.4, other);
  const spectra = crossSpectra(left, right, RATE);
  const said = (values: Record<string, ParameterValue>) => adviceOn(spectra, figureOf(values), RATE);

  it('is worked out from what the engine makes of it', () => {
    for (const values of [
      { 'midToSide.gain': -3, 'midToSide.delay': 1.3, 'sideToSide.gain': 5, 'sideToSide.lowCut': 300 },
      { 'midToMid.gain': -6, 'sideToMid.gain': -2, 'sideToMid.polarity': 'negative', 'midToSide.gain': -8 },
    ] as Record<string, ParameterValue>[]) {
      const out = run(kernelOf('midside', values), left, right);
      const heard = measureField(out.left, out.right, RATE);
      const told = fieldOf(throughPaths(spectra, figureOf(values), RATE));
      expect(Math.abs(told.tiltDb! - heard.tiltDb!)).toBeLessThan(0.1);
      const softer = (field: StereoField) => field.monoLossDb! + field.panningDb!;
      expect(Math.abs(softer(told) - softer(heard))).toBeLessThan(0.1);
      // Worked out bin by bin over the whole sound, and heard by thirds of an octave window by window.
      expect(Math.abs(told.monoLossDb! - heard.monoLossDb!)).toBeLessThan(0.2);
      expect(Math.abs(told.correlation! - heard.correlation!)).toBeLessThan(0.02);
    }
  });

  it('names what leans, what hollows the middle and what is lost in mono, and which way does it', () => {
    expect(said({})).toEqual([]);
    expect(said({ 'sideToSide.gain': 1 })).toEqual([]);
    expect(said({ 'midToSide.gain': -6 }).map(({ kind, path }) => [kind, path])).toContainEqual(['leans', 'midToSide']);
    expect(said({ 'midToSide.gain': -6 })[0]!.text).toMatch(
      /^The field leans to the left by \d+\.\d dB: mid to side does it\.$/,
    );
    expect(said({ 'midToSide.gain': -6, 'midToSide.polarity': 'negative' })[0]!.text).toContain('to the right');
    expect(said({ 'midToMid.gain': -9 }).map(({ kind, path }) => [kind, path])).toContainEqual(['hollow', 'midToMid']);
    expect(said({ 'sideToSide.gain': 12 }).map(({ kind, path }) => [kind, path])).toEqual([['mono', 'sideToSide']]);
    // Late enough, the way across leans nowhere, and what is lost in mono is what it added.
    const wide = said({ 'midToSide.gain': 3, 'midToSide.delay': 20 });
    expect(wide.map(({ kind, path }) => [kind, path])).toEqual([['mono', 'midToSide']]);
    expect(adviceOn(crossSpectra(new Float32Array(9000), new Float32Array(9000), RATE), figureOf({}), RATE)).toEqual(
      [],
    );
  });
});
