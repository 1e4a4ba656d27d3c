import { drawn } from '../../../test/support/sweep';
import { amplitudeAt, db, impulse, kernelOf, largest, RATES, run, sine } from '../../../test/support/render';
import { CURVE_NAMES } from '../dsp/curves';
import { Noise } from '../dsp/noise';
import { SeededRandom } from '../math/random';
import { valueAt } from './scale';
import { effectById } from './registry';
import { findParameter, type NumberParameter, type ParameterValues } from './spec';

const CURVES = CURVE_NAMES;
const LINE_CURVES = ['soft', 'hard', 'fold', 'asymmetric'];

const driven = (drive: number, curve: string, feedback: number, more: ParameterValues = {}): ParameterValues => ({
  mix: 100,
  'lines.1.timeLeft': 100,
  'lines.1.feedback': feedback,
  'lines.1.drive': drive,
  'lines.1.driveCurve': curve,
  ...more,
});
const NO_FLAWS = { wowOn: false, flutterOn: false, hissOn: false, humOn: false, bandwidthOn: false };
const tape = (saturation: number): ParameterValues => ({ wear: 'tape', ...NO_FLAWS, saturationOn: true, saturation });

describe('a loop with drive and wear', () => {
  const settings = new SeededRandom(5);
  const drawn = Array.from({ length: 8 }, () => ({
    drive: Math.round(settings.uniform() * 36),
    curve: LINE_CURVES[Math.floor(settings.uniform() * 4)]!,
    saturation: Math.round(settings.uniform() * 100),
    feedback: Math.round(-100 + settings.uniform() * 200),
  }));

  it.each([
    ...drawn,
    { drive: 24, curve: 'soft', saturation: 0, feedback: 60 },
    { drive: 0, curve: 'soft', saturation: 20, feedback: 87 },
  ])(
    'goes round with its feedback and no more, softly: $drive dB $curve, tape $saturation, feedback $feedback',
    ({ drive, curve, saturation, feedback }) => {
      for (const rate of RATES) {
        const sound = new Float32Array(rate);
        sound.set(sine(1000, rate, 0.05 * rate, 1e-6));
        const out = run(
          kernelOf('delay', { ...driven(drive, curve, feedback), ...tape(saturation) }, rate),
          sound,
        ).left;
        const pass = (n: number) =>
          amplitudeAt(out.slice((0.1 * n + 0.005) * rate, (0.1 * n + 0.045) * rate), 1000, rate);
        for (const n of [2, 3, 4]) {
          if (feedback !== 0) expect(Math.abs(db(pass(n) / pass(n - 1) / Math.abs(feedback / 100)))).toBeLessThan(0.02);
        }
      }
    },
  );

  it.each([
    [8, 'soft', 0, 48],
    [24, 'hard', 0, 60],
    [0, 'soft', 90, 80],
    [18, 'asymmetric', 40, 50],
    [30, 'fold', 0, 70],
  ] as const)(
    'falls silent within the tail it states: %d dB %s, tape %d, feedback %d',
    (drive, curve, saturation, feedback) => {
      const rate = 48000;
      const kernel = kernelOf('delay', { ...driven(drive, curve, feedback), ...tape(saturation) }, rate);
      const tail = kernel.tailSeconds();
      expect(tail).toBeLessThan(8);
      const sound = new Float32Array(Math.ceil((tail + 1.5) * rate));
      sound.set(sine(400, rate, rate, 1));
      const out = run(kernel, sound).left;
      expect(db(largest(out.slice((1 + tail) * rate)))).toBeLessThan(-85);
      // And it is not stated much too long: nine parts of ten of it still sound.
      expect(db(largest(out.slice((1 + 0.6 * tail) * rate)))).toBeGreaterThan(-110);
    },
  );

  it('feeds others what it goes round with, by the matrix and through the sum of all', () => {
    const rate = 48000;
    const fed = (feeds: ParameterValues) => ({
      ...driven(24, 'soft', 0),
      'lines.1.timeLeft': 50,
      routing: 'matrix',
      ...feeds,
    });
    const second = Object.fromEntries(
      Object.entries(driven(12, 'hard', 0, { 'lines.1.on': true, 'lines.1.timeLeft': 50 })).map(([id, value]) => [
        id.replace('lines.1', 'lines.2'),
        value,
      ]),
    );
    const apart = { ...second, 'routing.in.2': 0, 'lines.2.mute': true };
    const ways: ParameterValues[] = [{ 'routing.all.1': 80 }, { ...apart, 'routing.1.2': 80, 'routing.2.1': 80 }];
    for (const feeds of ways) {
      const every = 'routing.all.1' in feeds ? 1 : 2;
      const sound = new Float32Array(rate);
      sound.set(sine(1000, rate, 1200, 1e-6));
      const out = run(kernelOf('delay', fed(feeds)), sound).left;
      const pass = (n: number) => amplitudeAt(out.slice(2400 * n + 200, 2400 * n + 1000), 1000, rate);
      expect(Math.abs(db(pass(1 + 2 * every) / pass(1 + every) / 0.8 ** every))).toBeLessThan(0.05);
    }
  });
});

describe('a drive', () => {
  it.each(
    drawn(
      'driven lines',
      LINE_CURVES.flatMap((curve) => [12, 24].map((drive) => [curve, drive] as const)),
    ),
  )('in a delay keeps false tones of a full-scale tone under -80 dBFS: %s at %d dB', (curve, drive) => {
    const rate = 48000;
    for (const hz of [1000, 3000, 5000, 7000]) {
      const out = run(kernelOf('delay', driven(drive, curve, 0)), sine(hz, rate, rate + 9600, 1)).left.slice(9600);
      for (let alias = 500; alias < 20000; alias += 500) {
        if (alias % hz !== 0) expect(db(amplitudeAt(out, alias, rate))).toBeLessThan(-80);
      }
    }
  });

  it.each(CURVES)('at 44.1 kHz keeps false tones up to 19.1 kHz 80 dB under a full-scale tone: %s', (curve) => {
    const rate = 44100;
    for (const drive of [12, 24, 36]) {
      for (const hz of drawn(`${curve} at ${drive} dB`, [3000, 5000, 7300, 9500])) {
        const kernel = kernelOf('saturator', { drive, curve, mix: 100 }, rate);
        const out = run(kernel, sine(hz, rate, rate, 1)).left.slice(9600);
        // A fold can take the tone itself away: there full scale counts.
        const level = curve === 'fold' ? 1 : amplitudeAt(out, hz, rate);
        for (let harmonic = 2; harmonic < 24; harmonic++) {
          const folded = Math.abs(((harmonic * hz + rate / 2) % rate) - rate / 2);
          if (harmonic * hz < rate / 2 || folded > 19100 || folded < 100 || folded % hz === 0) continue;
          expect([drive, hz, folded, db(amplitudeAt(out, folded, rate) / level) < -80]).toEqual([
            drive,
            hz,
            folded,
            true,
          ]);
        }
      }
    }
  });

  it.each(RATES)('in a delay lets the time stand and leaves nothing at 0 Hz, at %d Hz', (rate) => {
    for (const curve of LINE_CURVES) {
      for (const ms of [1.2, 7, 100]) {
        const out = run(
          kernelOf('delay', driven(3, curve, 0, { 'lines.1.timeLeft': ms }), rate),
          impulse(rate / 4),
        ).left;
        expect(out.indexOf(Math.max(...out))).toBe(Math.round((ms / 1000) * rate));
      }
      const out = run(kernelOf('delay', driven(18, curve, 0), rate), sine(200, rate, 3 * rate, 0.8)).left.slice(rate);
      const mean = out.reduce((sum, x) => sum + x, 0) / out.length;
      expect([curve, db(Math.abs(mean)) < -70]).toEqual([curve, true]);
    }
  });

  it.each(RATES)('of nothing in a saturator is the sound itself, within -100 dB, at %d Hz', (rate) => {
    const noise = new Noise(3);
    const sound = Float32Array.from({ length: rate / 2 }, () => noise.white());
    for (const curve of CURVES) {
      const kernel = kernelOf('saturator', { drive: 0, curve, mix: 100 }, rate);
      const out = run(kernel, sound).left;
      let most = 0;
      for (let n = 4000; n < sound.length; n++)
        most = Math.max(most, Math.abs(out[n]! - sound[n - kernel.latencyFrames]!));
      expect([curve, db(most) < -100]).toEqual([curve, true]);
    }
  });

  it('of little is little: it comes in steadily from nothing', () => {
    const drive = findParameter(effectById('saturator'), 'drive') as NumberParameter;
    const tone = sine(300, 48000, 24000, 0.7);
    const third = (at: number) =>
      db(amplitudeAt(run(kernelOf('saturator', { drive: at, curve: 'soft' }), tone).left.slice(12000), 900, 48000));
    const found = [0.02, 0.05, 0.1, 0.2, 0.4].map((place) => third(valueAt(drive, place)));
    for (let n = 1; n < found.length; n++) expect(found[n]!).toBeGreaterThan(found[n - 1]!);
    expect(found[0]!).toBeLessThan(-40);
  });
});
