import { db, firstDifference, kernelOf, largest, RATES, run, setValue, sine } from '../../../../test/support/render';
import { BlockFourier } from '../../dsp/blockFourier';
import { resample } from '../../dsp/resampler';
import { Arena } from '../../wasm/arena';
import { SeededRandom } from '../../math/random';
import { kaiser, sinc } from '../../math/windows';
import { firstFailure } from '../../../../test/support/frames';

/** True peak by sixteenfold resampling. */
const truePeak = (sound: Float32Array) => largest(resample(sound, 1, 16)!.slice(2000, -2000));

interface Meter {
  readonly name: string;
  /** Weights by the place between two samples. */
  readonly rows: readonly (readonly number[])[];
}

/** An interpolator as general tools have them: a Kaiser-windowed sinc of some taps. */
function sincMeter(name: string, times: number, half: number, beta: number): Meter {
  const rows = Array.from({ length: times }, (_, place) => {
    const row = Array.from({ length: 2 * half }, (__, tap) => {
      const x = tap - half + 1 - place / times;
      return sinc(x) * kaiser(x / half, beta);
    });
    const sum = row.reduce((total, weight) => total + weight, 0);
    return row.map((weight) => weight / sum);
  });
  return { name, rows };
}

// ITU-R BS.1770-4, annex 2: two of the four phases, the other two are these backwards.
const FIRST = [
  0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625, 0.97216796875,
  -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
];
const SECOND = [
  -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625,
  -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
];
const METERS: readonly Meter[] = [
  { name: 'BS.1770-4', rows: [FIRST, SECOND, SECOND.slice().reverse(), FIRST.slice().reverse()] },
  sincMeter('20 taps', 8, 10, 5),
  sincMeter('32 taps', 8, 16, 8),
  sincMeter('64 taps', 8, 32, 8),
  sincMeter('128 taps', 16, 64, 5),
];

function meterPeak(sound: Float32Array, { rows }: Meter): number {
  let most = 0;
  for (let n = 0; n + rows[0]!.length < sound.length; n++) {
    for (const row of rows) {
      let sum = 0;
      for (let tap = 0; tap < row.length; tap++) sum += row[tap]! * sound[n + tap]!;
      most = Math.max(most, Math.abs(sum));
    }
  }
  return most;
}

/** Frames that the whole sound is put into, half of them silent. */
const SPECTRUM = 16384;
const TIMES = 16;

/** Peak of a sound of up to half of `SPECTRUM` frames between its samples, by its spectrum with zeros above. */
function endlessPeak(sound: Float32Array): number {
  const memory = new Arena();
  const made = (size: number) => [memory.doubles(size), memory.doubles(size)] as const;
  const [re, im] = made(SPECTRUM);
  re.set(sound, SPECTRUM / 4);
  new BlockFourier(SPECTRUM).forward(re, im);
  const [longRe, longIm] = made(TIMES * SPECTRUM);
  // Real and imaginary parts are exchanged, so that the forward transform is the inverse one.
  for (let k = 0; k <= SPECTRUM / 2; k++) {
    const weight = k === 0 || k === SPECTRUM / 2 ? 1 : 2;
    longIm[k] = (weight * re[k]!) / SPECTRUM;
    longRe[k] = (weight * im[k]!) / SPECTRUM;
  }
  new BlockFourier(TIMES * SPECTRUM).forward(longRe, longIm);
  const peak = largest(longIm);
  memory.free();
  return peak;
}

/** Noise that falls by about 3 dB an octave: three low-passes of one pole beside each other. */
function pinkNoise(random: SeededRandom): () => number {
  const state = [0, 0, 0];
  return () => {
    const white = random.bipolar();
    [0.99765, 0.963, 0.57].forEach((pole, n) => {
      state[n] = pole * state[n]! + [0.099046, 0.2965164, 1.0526913][n]! * white;
    });
    return 0.3 * (state[0]! + state[1]! + state[2]! + 0.1848 * white);
  };
}

describe('limiter', () => {
  it.each(RATES)('keeps the ceiling within 0.1 dB true peak at %d Hz', (rate) => {
    const random = new SeededRandom(4);
    const broad = Float32Array.from({ length: rate / 2 }, (_, n) => {
      const gate = Math.floor(n / 3000) % 2 === 0 ? 1 : 0.1;
      return gate * (0.6 * random.bipolar() + 0.9 * Math.sin(2 * Math.PI * 0.23 * n));
    });
    // Nothing above 0.45 of the rate, where no practical peak meter reads right.
    const burst = resample(resample(broad, 1, 0.9)!, 0.9, 1)!;
    for (const lookahead of [0.5, 4, 10]) {
      const out = run(kernelOf('limiter', { gain: 6, ceiling: -3, lookahead }, rate), burst).left;
      expect(db(truePeak(out))).toBeLessThan(-3 + 0.1);
      expect(db(truePeak(out))).toBeGreaterThan(-3.6);
    }
  });

  it.each(RATES)('keeps the ceiling within 0.1 dB for any input under several meters, at %d Hz', (rate) => {
    const random = new SeededRandom(11);
    const inputs: Record<string, (n: number) => number> = {
      white: () => random.bipolar(),
      'white, far too loud': () => 8 * random.bipolar(),
      'signs in bursts': (n) =>
        Math.floor(n / 97) % 3 === 0 ? (random.bipolar() > 0 ? 1 : -1) : 0.2 * random.bipolar(),
      'close to half the rate': (n) => (Math.floor(n / 700) % 2 ? 1 : 0.1) * Math.sin(Math.PI * 0.93 * n + 0.3),
    };
    for (const [name, input] of Object.entries(inputs)) {
      const sound = Float32Array.from({ length: 16000 }, (_, n) => input(n));
      for (const values of [
        { gain: 6, ceiling: -1, release: 120, lookahead: 4 },
        { gain: 12, ceiling: -6, release: 20, lookahead: 0.5 },
      ]) {
        const out = run(kernelOf('limiter', values, rate), sound).left;
        for (const meter of METERS) {
          expect([name, meter.name, db(meterPeak(out, meter)) < values.ceiling + 0.1]).toEqual([
            name,
            meter.name,
            true,
          ]);
        }
      }
    }
  });

  it.each([
    { ceiling: -1, release: 120, lookahead: 4 },
    { ceiling: -3, release: 1, lookahead: 0.5 },
  ])('keeps it within 0.5 dB under an endless interpolator: %o', (values) => {
    const random = new SeededRandom(5);
    const sine = (part: number) => (n: number) => Math.sin(2 * Math.PI * part * n + 1);
    const inputs: Record<string, (n: number) => number> = {
      white: () => random.bipolar(),
      pink: pinkNoise(random),
      signs: () => (random.bipolar() > 0 ? 1 : -1),
      ...Object.fromEntries([0.1, 0.23, 0.37, 0.45, 0.48, 0.49].map((part) => [`sine at ${part}`, sine(part)])),
      ...Object.fromEntries(
        [1, 2, 5, 13, 24, 40, 57, 64].map((length) => [
          `bursts of ${length}`,
          (n: number) => (n % 1000 < length ? (n % 2 ? 1 : -1) : 0),
        ]),
      ),
    };
    for (const [name, input] of Object.entries(inputs)) {
      const sound = new Float32Array(SPECTRUM / 2);
      for (let n = 1000; n < sound.length - 1000; n++) sound[n] = input(n);
      const over = db(endlessPeak(run(kernelOf('limiter', { gain: 6, ...values }), sound).left)) - values.ceiling;
      expect([name, over < 0.5]).toEqual([name, true]);
    }
  });

  it('passes what is under the ceiling bit for bit, late by its latency', () => {
    const kernel = kernelOf('limiter', {});
    const tone = sine(440, 48000, 9600, 0.5);
    const out = run(kernel, tone).left;
    const late = kernel.latencyFrames;
    expect(late).toBe(480 + 72);
    expect(firstDifference(out.slice(late), tone.slice(0, tone.length - late))).toBe(-1);
  });

  it('comes back at the release time', () => {
    const rate = 48000;
    const sound = sine(1000, rate, rate, 0.1);
    for (let n = 4800; n < 5040; n++) sound[n]! *= 20;
    const out = run(kernelOf('limiter', { ceiling: -6, release: 100 }), sound).left.slice(552);
    const reductionAt = (n: number) => -db(largest(out.slice(n, n + 96)) / 0.1);
    const reduced = reductionAt(5300);
    expect(reduced).toBeGreaterThan(4);
    // In decibels, as the compressor counts its own.
    expect(reductionAt(5300 + 4800) / reduced).toBeCloseTo(Math.exp(-1), 1);
  });

  it('does not depend on block sizes and moves its settings without clicks', () => {
    const tone = sine(200, 48000, 24000, 0.9);
    const values = { gain: 6, ceiling: -6 };
    expect(run(kernelOf('limiter', values), tone, undefined, [1, 33, 128]).left).toEqual(
      run(kernelOf('limiter', values), tone).left,
    );
    const kernel = kernelOf('limiter', values);
    const out = run(kernel, tone, undefined, [128], (frame) => {
      if (frame === 9600) setValue(kernel, 'limiter', 'lookahead', 0.5);
      if (frame === 12800) setValue(kernel, 'limiter', 'ceiling', -12);
      if (frame === 16000) setValue(kernel, 'limiter', 'gain', -6);
    }).left.slice(2000);
    expect(firstFailure(1, out.length, (n) => Math.abs(out[n]! - out[n - 1]!) < 0.02)).toBeNull();
  });
});
