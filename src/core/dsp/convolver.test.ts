import { SeededRandom } from '../math/random';
import { Arena } from '../wasm/arena';
import { Convolver } from './convolver';
import { FourierTransform } from './fft';
import { impulseSpectra } from './impulseSpectra';
import { SpectrumPair, stepsOf } from './spectra';
import { firstFailure } from '../../../test/support/frames';

let memory = new Arena();
beforeEach(() => {
  memory = new Arena();
});
afterEach(() => memory.free());

const noise = (length: number, seed: number, decay = Infinity) => {
  const random = new SeededRandom(seed);
  return Float32Array.from({ length }, (_, n) => random.bipolar() * Math.exp(-n / decay));
};

/** Straight convolution in double precision, by one large transform, itself checked against the sum below. */
function convolve(sound: Float32Array, impulse: Float32Array): Float64Array {
  let size = 2;
  while (size < sound.length + impulse.length) size *= 2;
  const transform = new FourierTransform(size);
  const [a, b, c, d] = [0, 1, 2, 3].map(() => new Float64Array(size)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  a.set(sound);
  c.set(impulse);
  transform.forward(a, b);
  transform.forward(c, d);
  for (let n = 0; n < size; n++) {
    const re = a[n]! * c[n]! - b[n]! * d[n]!;
    // The imaginary part first: so exchanged the transform is its own inverse.
    b[n] = (a[n]! * d[n]! + b[n]! * c[n]!) / size;
    a[n] = re / size;
  }
  transform.forward(b, a);
  return a.slice(0, sound.length);
}

function run(convolver: Convolver, left: Float32Array, right: Float32Array, sizes: readonly number[] = [128]) {
  const out = [new Float64Array(left.length), new Float64Array(left.length)] as const;
  const double = () => memory.doubles(128);
  const block = [double(), double(), double(), double()] as const;
  for (let at = 0, turn = 0; at < left.length; turn++) {
    const frames = Math.min(sizes[turn % sizes.length]!, left.length - at);
    block[0].set(left.subarray(at, at + frames));
    block[1].set(right.subarray(at, at + frames));
    convolver.process(block[0], block[1], block[2], block[3], frames);
    out[0].set(block[2].subarray(0, frames), at);
    out[1].set(block[3].subarray(0, frames), at);
    at += frames;
  }
  return out;
}

const errorDb = (found: Float64Array, expected: ArrayLike<number>) => {
  let off = 0;
  let all = 0;
  for (let n = 0; n < found.length; n++) {
    off += (found[n]! - expected[n]!) ** 2;
    all += expected[n]! ** 2;
  }
  return 10 * Math.log10(off / all + 1e-30);
};

describe('spectra of two sounds at once', () => {
  it.each([16, 256, 2048, 16384])(
    'of %d frames are those of theory within -120 dB, step by step and there and back',
    (size) => {
      const pair = new SpectrumPair(size);
      const [left, right] = [noise(size, 1), noise(size, 2)];
      const [re, im, out] = [memory.floats(size), memory.floats(size), memory.floats(2 * size)];
      re.set(left);
      im.set(right);
      for (let step = 0; step < stepsOf(size); step++) pair.forwardStep(re, im, step);
      pair.part(re, im, out.byteOffset);
      [left, right].forEach((sound, side) => {
        const exactRe = Float64Array.from(sound);
        const exactIm = new Float64Array(size);
        new FourierTransform(size).forward(exactRe, exactIm);
        const found = new Float64Array(size);
        const expected = new Float64Array(size);
        for (let bin = 1; bin < size / 2; bin++) {
          let reversed = 0;
          for (let bit = 0; 1 << bit < size; bit++) if (bin & (1 << bit)) reversed |= size >> (bit + 1);
          // One of two opposite bins is kept: the first in its block.
          const block = 1 << Math.floor(Math.log2(reversed));
          const first = reversed < 1.5 * block;
          const at = block / 2 + (first ? reversed - block : 2 * block - 1 - reversed);
          found[2 * bin] = out[side * size + at]!;
          found[2 * bin + 1] = (first ? 1 : -1) * out[side * size + size / 2 + at]!;
          expected[2 * bin] = exactRe[bin]!;
          expected[2 * bin + 1] = exactIm[bin]!;
        }
        found[0] = out[side * size]!;
        found[1] = out[side * size + size / 2]!;
        expected[0] = exactRe[0]!;
        expected[1] = exactRe[size / 2]!;
        expect(errorDb(found, expected)).toBeLessThan(-120);
      });
      const sides = [out.subarray(0, size), out.subarray(size)] as unknown as [never, never];
      pair.join(sides[0], sides[1], re, im);
      for (let step = 0; step < stepsOf(size); step++) pair.inverseStep(re, im, step);
      expect(
        errorDb(
          Float64Array.from(re, (x) => x / size),
          left,
        ),
      ).toBeLessThan(-120);
      expect(
        errorDb(
          Float64Array.from(im, (x) => x / size),
          right,
        ),
      ).toBeLessThan(-120);
    },
  );
});

describe('convolution in real time', () => {
  it('the reference is the sum that defines it', () => {
    const [sound, impulse] = [noise(50, 1), noise(20, 2)];
    const found = convolve(sound, impulse);
    for (let n = 0; n < 50; n++) {
      let sum = 0;
      for (let t = 0; t < 20 && t <= n; t++) sum += impulse[t]! * sound[n - t]!;
      expect(found[n]).toBeCloseTo(sum, 12);
    }
  });

  it.each([1, 60, 128, 129, 2000, 2048, 2049, 16384, 16385, 30000, 70001])(
    'with %d frames errs by less than -110 dB, from the first frame on, for mono, stereo and true stereo',
    (frames) => {
      // Long enough for all kinds of parts to have come round.
      const length = frames + 20000;
      const [left, right] = [noise(length, 5), noise(length, 6)];
      for (const paths of frames > 60 && frames < 30000 ? [2] : [1, 2, 4]) {
        const impulses = Array.from({ length: paths }, (_, path) => noise(frames, 10 + path, frames / 2));
        const convolver = new Convolver(memory, 48000);
        convolver.take(impulseSpectra(impulses));
        const [outLeft, outRight] = run(convolver, left, right);
        const ways = impulses.map((impulse, n) =>
          paths === 1 ? null : convolve(paths === 2 ? [left, right][n]! : n < 2 ? left : right, impulse),
        );
        const sum = (a: Float64Array, b: Float64Array) => a.map((x, n) => x + b[n]!);
        const expected =
          paths === 1
            ? [convolve(left, impulses[0]!), convolve(right, impulses[0]!)]
            : paths === 2
              ? [ways[0]!, ways[1]!]
              : [sum(ways[0]!, ways[2]!), sum(ways[1]!, ways[3]!)];
        expect(errorDb(outLeft, expected[0]!)).toBeLessThan(-110);
        expect(errorDb(outRight, expected[1]!)).toBeLessThan(-110);
      }
    },
  );

  it('does not depend on how its input is cut into blocks', () => {
    const [left, right] = [noise(40000, 5), noise(40000, 6)];
    const through = (sizes: number[]) => {
      const convolver = new Convolver(memory, 48000);
      convolver.take(impulseSpectra([noise(30000, 1, 9000), noise(30000, 2, 9000)]));
      const out = run(convolver, left, right, sizes);
      return out;
    };
    const whole = through([128]);
    for (const sizes of [[1], [37, 128, 5, 64]]) expect(through(sizes)).toEqual(whole);
  });

  it('another impulse is crossfaded to without a gap or a click, and then is the only one heard', () => {
    const tone = Float32Array.from({ length: 96000 }, (_, n) => 0.3 * Math.sin((2 * Math.PI * 200 * n) / 48000));
    const [one, other] = [noise(30000, 1, 5000), noise(20000, 2, 3000)];
    const convolver = new Convolver(memory, 48000);
    convolver.take(impulseSpectra([one]));
    const before = run(convolver, tone.subarray(0, 30000), tone.subarray(0, 30000))[0];
    convolver.take(impulseSpectra([other]));
    const after = run(convolver, tone.subarray(30000), tone.subarray(30000))[0];
    const heard = [...before, ...after];
    const first = convolve(tone, one);
    const second = convolve(tone, other);
    expect(errorDb(Float64Array.from(heard.slice(0, 30000)), first.subarray(0, 30000))).toBeLessThan(-110);
    expect(errorDb(Float64Array.from(heard.slice(60000)), second.subarray(60000))).toBeLessThan(-110);
    // In between it is always a part of the one and the rest of the other.
    const isBetween = (n: number) => {
      const [low, high] = [Math.min(first[n]!, second[n]!), Math.max(first[n]!, second[n]!)];
      return heard[n]! > low - 1e-4 && heard[n]! < high + 1e-4;
    };
    expect(firstFailure(30000, 60000, isBetween)).toBeNull();
    // A third and a fourth that come while it fades: the last one stays.
    convolver.take(impulseSpectra([one]));
    run(convolver, tone.subarray(0, 9000), tone.subarray(0, 9000));
    convolver.take(impulseSpectra([noise(50, 9)]));
    convolver.take(impulseSpectra([other]));
    const long = Float32Array.from({ length: 120000 }, (_, n) => tone[n % 24000]!);
    const last = run(convolver, long, long)[0].subarray(100000);
    expect(errorDb(last, convolve(long, other).subarray(100000))).toBeLessThan(-100);
  });

  it('hears the past whole in an impulse that is longer than the one before, when it has been told to keep it', () => {
    const tone = Float32Array.from({ length: 96000 }, (_, n) => 0.3 * Math.sin((2 * Math.PI * 200 * n) / 48000));
    const [short, long] = [noise(400, 1), noise(40000, 2, 60000)];
    const convolver = new Convolver(memory, 48000);
    convolver.remember(long.length);
    convolver.take(impulseSpectra([short]));
    run(convolver, tone.subarray(0, 50000), tone.subarray(0, 50000));
    convolver.take(impulseSpectra([long]));
    const after = run(convolver, tone.subarray(50000), tone.subarray(50000))[0];
    // As soon as it is faded to, nothing of it is missing, and nothing of it sets in later.
    const truth = convolve(tone, long).subarray(50000);
    expect(errorDb(after.subarray(18000), truth.subarray(18000, after.length))).toBeLessThan(-100);
  });

  it('forgets all sound when reset', () => {
    const convolver = new Convolver(memory, 48000);
    convolver.take(impulseSpectra([noise(30000, 1)]));
    const sound = noise(20000, 2);
    const first = run(convolver, sound, sound);
    convolver.reset();
    expect(run(convolver, sound, sound)).toEqual(first);
  });
});
