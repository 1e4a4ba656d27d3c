import { sine } from '../../../test/support/render';
import { FourierTransform } from '../dsp/fft';
import { EFFECTS, effectById } from '../effects/registry';
import { resolveSettings, resolveValues } from '../effects/resolve';
import { resourceFor } from '../effects/resource';
import type { ParameterValues, PictureKind } from '../effects/spec';
import { COMB_PLACES, computePicture, type Picture } from './pictures';
import { SpectrumReader } from './spectrum';

const TIMING = { tempoBpm: 120, beatsPerBar: 4 };

function draw(effect: string, values: ParameterValues = {}, kind = effectById(effect).picture): Picture {
  const spec = effectById(effect);
  const settings = resolveSettings(spec, values);
  const insert = {
    ...{ id: 'x', effect, bypass: false, values: resolveValues(spec, values, TIMING) },
    ...(settings ? { settings } : {}),
  };
  return computePicture(kind as Exclude<PictureKind, 'echogram'>, [insert], 48000, 2);
}

const nearest = (picture: Picture, x: number, line = 0) => {
  const at = picture.x.reduce((best, one, i) => (Math.abs(one - x) < Math.abs(picture.x[best]! - x) ? i : best), 0);
  return picture.lines[line]!.y[at]!;
};

describe('pictures', () => {
  it('are there for every effect, finite and with as many values as places', () => {
    for (const spec of EFFECTS.filter((one) => one.picture !== 'echogram')) {
      const picture = draw(spec.id);
      for (const line of picture.lines) {
        expect(line.y.length).toBe(picture.x.length);
        expect(line.y.every(Number.isFinite)).toBe(true);
      }
    }
  });

  it('are drawn with the sounds that effects work with', () => {
    const spec = effectById('convolution');
    const assetId = 'a'.repeat(64);
    const given = { impulse: assetId, mix: 100, gain: -6 };
    const values = resolveValues(spec, given, TIMING);
    const settings = resolveSettings(spec, given)!;
    const resource = resourceFor(spec, 48000, values, settings)!;
    const click = Float32Array.of(1, 0, 0, 0);
    const insert = { id: 'x', effect: 'convolution', bypass: false, values, settings, resource };
    const sounds = new Map([[assetId, { left: click, right: click }]]);
    const picture = computePicture('response', [insert], 48000, 2, sounds);
    // A click lets everything through, at the gain.
    for (const hz of [50, 1000, 15000]) expect(nearest(picture, hz)).toBeCloseTo(-6, 1);
    expect(() => computePicture('response', [insert], 48000, 2)).toThrow('was not given');
  });

  it('show the response the engine gives, and apart where middle and sides differ', () => {
    const bell = { 'bands.2.on': true, 'bands.2.frequency': 1000, 'bands.2.gain': 9, 'bands.2.q': 2 };
    const both = draw('eq', bell);
    expect(both.lines).toHaveLength(1);
    expect(nearest(both, 1000)).toBeCloseTo(9, 0);
    expect(nearest(both, 60)).toBeCloseTo(0, 1);
    const side = draw('eq', { ...bell, 'bands.2.channel': 'side' });
    expect(side.lines.map((line) => line.name)).toEqual(['middle', 'sides']);
    expect([nearest(side, 1000, 0), nearest(side, 1000, 1)].map(Math.round)).toEqual([0, 9]);
  });

  it('show output over input level', () => {
    const picture = draw('compressor', { threshold: -20, ratio: 4, knee: 0 });
    expect(nearest(picture, -40)).toBeCloseTo(-40, 1);
    expect(nearest(picture, 0)).toBeCloseTo(-15, 0);
  });

  it.each([
    [-30, 4, -20],
    [-61.5, 12, -100],
    [-40, 0, -60],
    [-12, 24, -9],
  ])(
    'show a gate at %d dB with a hysteresis of %d dB and a range of %d dB: where it opens, and where it closes',
    (threshold, by, range) => {
      // Its times are as long as they can be, and do not matter.
      const times = { attack: 200, hold: 2000, release: 5000 };
      const picture = draw('gate', { threshold, hysteresis: by, range, ...times });
      expect(picture.lines.map(({ name }) => name)).toEqual(['rising', 'falling']);
      const [rising, falling] = picture.lines.map(({ y }) => y) as [Float64Array, Float64Array];
      const floor = range <= -100 ? -120 : -Infinity;
      picture.x.forEach((level, n) => {
        const closed = Math.max(level + range, floor);
        if (Math.abs(level - threshold) > 0.26)
          expect(rising[n]!).toBeCloseTo(Math.max(-120, level > threshold ? level : closed), 1);
        if (Math.abs(level - threshold + by) > 0.26)
          expect(falling[n]!).toBeCloseTo(Math.max(-120, level > threshold - by ? level : closed), 1);
      });
    },
  );

  it('show output over input sample, movement and a burst', () => {
    const shape = draw('saturator', { drive: 24, curve: 'hard' });
    expect(Math.abs(nearest(shape, 0))).toBeLessThan(0.08);
    expect(nearest(shape, 1)).toBeCloseTo(nearest(shape, 0.5), 1);
    const motion = draw('autopan', { rate: 1, depth: 100 });
    expect(nearest(motion, 0.25, 0)).toBeCloseTo(1, 1);
    expect(nearest(motion, 0.25, 1)).toBeLessThan(0.1);
    const burst = draw('transient', { attack: 80 });
    expect(burst.lines.map(({ name }) => name)).toEqual(['after', 'before']);
    expect(nearest(burst, 0.055, 0) - nearest(burst, 0.055, 1)).toBeGreaterThan(5);
  });
});

describe('spectrum', () => {
  it('reads a full-scale sine as 0 dB on its bin and silence elsewhere, either side', () => {
    const reader = new SpectrumReader(4096);
    const ring = sine(48000 / 64, 48000, 16384);
    const both = reader.read(ring, ring, 16384);
    expect(both[64]).toBeCloseTo(0, 1);
    expect(both[300]).toBeLessThan(-100);
    const left = reader.read(ring, new Float32Array(16384), 16384 * 3);
    expect(left[64]).toBeCloseTo(-3, 1);
  });

  it('transforms as the definition says', () => {
    const size = 16;
    const re = Float64Array.from({ length: size }, (_, n) => Math.sin(n * n));
    const im = Float64Array.from({ length: size }, (_, n) => Math.cos(3 * n));
    const outRe = re.slice();
    const outIm = im.slice();
    new FourierTransform(size).forward(outRe, outIm);
    for (let k = 0; k < size; k++) {
      let sumRe = 0;
      let sumIm = 0;
      for (let n = 0; n < size; n++) {
        const angle = (-2 * Math.PI * k * n) / size;
        sumRe += re[n]! * Math.cos(angle) - im[n]! * Math.sin(angle);
        sumIm += re[n]! * Math.sin(angle) + im[n]! * Math.cos(angle);
      }
      expect(outRe[k]).toBeCloseTo(sumRe, 10);
      expect(outIm[k]).toBeCloseTo(sumIm, 10);
    }
    expect(() => new FourierTransform(12)).toThrow('power of two');
  });
});

describe('pictures of what sweeps', () => {
  const one = (effect: string, values: Record<string, number | string | boolean>) => ({
    id: 'x',
    effect,
    bypass: false,
    values: resolveValues(effectById(effect), values, { tempoBpm: 120, beatsPerBar: 4 }),
  });

  it('a comb is drawn at each place of the sweep, with its notch where the delay there puts it', () => {
    const flanger = one('flanger', { delay: 2, depth: 50, rate: 0.5, stereoPhase: 0, mix: 50 });
    const picture = computePicture('comb', [flanger], 48000, 2);
    expect(picture.lines).toHaveLength(2 * COMB_PLACES);
    const lowest = (place: number) => {
      const { y } = picture.lines[2 * place]!;
      let best = 0;
      for (let i = 0; i < y.length && picture.x[i]! < 600; i++) if (y[i]! < y[best]!) best = i;
      return picture.x[best]!;
    };
    expect(Math.abs(lowest(0) / 250 - 1)).toBeLessThan(0.05);
    expect(Math.abs(lowest(COMB_PLACES / 4) / (500 / 3) - 1)).toBeLessThan(0.05);
    expect(Math.abs(lowest((3 * COMB_PLACES) / 4) / 500 - 1)).toBeLessThan(0.05);
  });

  it.each([
    ['flanger', { delay: 1.3, depth: 0, mix: 50 }],
    ['flanger', { delay: 1.3, depth: 0, mix: 50, wetPolarity: 'negative' }],
    ['phaser', { depth: 0, stages: '8', mix: 50 }],
  ] as const)('a comb of a %s shows its notches as deep as they are, and its peaks', (effect, values) => {
    const { x, lines } = computePicture('comb', [one(effect, values)], 48000, 2);
    const { y } = lines[0]!;
    const notches = [...y.keys()].filter((i) => x[i]! < 4000 && y[i]! < y[i - 1]! && y[i]! < y[i + 1]! && y[i]! < -12);
    expect(notches.length).toBeGreaterThanOrEqual(3);
    for (const i of notches) expect(y[i]!).toBeLessThan(-40);
    expect(Math.abs(Math.max(...y) - 3.01)).toBeLessThan(0.15);
  });

  it('delays are drawn as the kernel reads them, with the bend they make', () => {
    const chorus = one('chorus', { voices: '2', delay: 20, depth: 50, rate: 1, spread: 90 });
    const { x, lines } = computePicture('delays', [chorus], 48000, 2);
    expect(lines.map(({ name }) => name)).toEqual([
      ...['1 left', '1 right', '2 left', '2 right'],
      ...['1 left', '1 right', '2 left', '2 right'].map((name) => `bend of ${name}`),
    ]);
    // Two copies half a cycle apart: one is nearer by a fifth, one farther.
    for (let i = 10; i < x.length - 10; i += 7) {
      const turn = 2 * Math.PI * x[i]!;
      expect(Math.abs(lines[0]!.y[i]! - 16 * (1 + 0.5 * Math.sin(turn)))).toBeLessThan(0.1);
      expect(Math.abs(lines[1]!.y[i]! - 16 * (1 + 0.5 * Math.cos(turn)))).toBeLessThan(0.1);
      expect(Math.abs(lines[2]!.y[i]! - 24 * (1 - 0.5 * Math.sin(turn)))).toBeLessThan(0.1);
      const bend = 1200 * Math.log2(1 - 0.016 * 0.5 * 2 * Math.PI * Math.cos(turn));
      expect(Math.abs(lines[4]!.y[i]! - bend)).toBeLessThan(4);
    }
  });

  it('a delay tells the places of the lines in use', () => {
    const delay = one('delay', { 'lines.1.timeLeft': 300, 'lines.3.on': true, 'lines.3.timeLeft': 50 });
    const { lines } = computePicture('delays', [delay], 48000, 1);
    expect(lines.slice(0, 4).map(({ y }) => y[100])).toEqual([300, 300, 50, 50]);
  });
});
