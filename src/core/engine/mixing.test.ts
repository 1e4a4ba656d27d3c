import { guardOutput } from '../dsp/guard';
import { SeededRandom } from '../math/random';
import { Arena, type Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';

const memory = new Arena();
afterAll(() => memory.free());
const random = new SeededRandom(5);
const { kernels } = wasm();

function block(): Floats {
  const made = memory.floats(128);
  for (let n = 0; n < 128; n++) made[n] = 10 ** (12 * random.uniform() - 9) * random.bipolar();
  return made;
}

describe('mixing in WebAssembly gives the bits of the same in TypeScript, over blocks of any length', () => {
  it.each([false, true])('adds a block at a gain, or at one for each frame: %s', (moving) => {
    const gains = memory.doubles(128);
    for (let frames = 0; frames <= 128; frames++) {
      const [outLeft, outRight, left, right] = [block(), block(), block(), block()];
      for (let n = 0; n < 128; n++) gains[n] = random.bipolar();
      const gain = random.bipolar();
      const at = (n: number) => (moving ? gains[n]! : gain);
      const sum = (out: Floats, one: Floats) =>
        Float32Array.from(out, (x, n) => (n < frames ? x + one[n]! * at(n) : x));
      const expected = [sum(outLeft, left), sum(outRight, right)];
      kernels.mixFloats(
        outLeft.byteOffset,
        outRight.byteOffset,
        left.byteOffset,
        right.byteOffset,
        gain,
        moving ? gains.byteOffset : 0,
        frames,
      );
      expect([...outLeft]).toEqual([...expected[0]!]);
      expect([...outRight]).toEqual([...expected[1]!]);
    }
  });

  it('takes either side to its own level', () => {
    for (let frames = 0; frames <= 128; frames++) {
      const [left, right] = [block(), block()];
      const [gainLeft, gainRight] = [random.bipolar(), random.bipolar()];
      const scaled = (one: Floats, gain: number) => Float32Array.from(one, (x, n) => (n < frames ? x * gain : x));
      const expected = [scaled(left, gainLeft), scaled(right, gainRight)];
      kernels.scaleFloats(left.byteOffset, right.byteOffset, gainLeft, gainRight, frames);
      expect([...left]).toEqual([...expected[0]!]);
      expect([...right]).toEqual([...expected[1]!]);
    }
  });

  it('finds the largest magnitude of either side', () => {
    const out = memory.doubles(2);
    for (let frames = 0; frames <= 128; frames++) {
      const [left, right] = [block(), block()];
      kernels.peakFloats(left.byteOffset, right.byteOffset, out.byteOffset, frames);
      const most = (one: Floats) => Math.max(0, ...one.subarray(0, frames).map((x) => Math.abs(x)));
      expect([...out]).toEqual([most(left), most(right)]);
    }
  });

  it('adds up the powers of both sides and of their sum', () => {
    const out = memory.doubles(3);
    for (let frames = 0; frames <= 128; frames++) {
      const [left, right] = [block(), block()];
      out.set([3, 4, 5]);
      kernels.addPowers(left.byteOffset, right.byteOffset, out.byteOffset, frames);
      const sum = (of: (l: number, r: number) => number) =>
        left.subarray(0, frames).reduce((all, l, n) => all + of(l, right[n]!), 0);
      expect(out[0]).toBeCloseTo(3 + sum((l) => l * l), 3);
      expect(out[1]).toBeCloseTo(4 + sum((_, r) => r * r), 3);
      expect(out[2]).toBeCloseTo(5 + sum((l, r) => (l + r) ** 2), 3);
    }
  });

  it.each([NaN, Infinity, -Infinity])(
    'sees a %s on either side and in any frame, and nothing beyond the block',
    (bad) => {
      for (const side of [0, 1]) {
        for (let frames = 1; frames <= 128; frames++) {
          const sides = [block(), block()];
          const seen = () => kernels.isFinite(sides[0]!.byteOffset, sides[1]!.byteOffset, frames) === 0;
          if (frames < 128) sides[side]![frames] = bad;
          expect(seen()).toBe(false);
          sides[side]![Math.floor(random.uniform() * frames)] = bad;
          expect(seen()).toBe(true);
        }
      }
    },
  );

  it('takes both sides to levels that move', () => {
    const [first, second, sideLeft, sideRight] = Array.from({ length: 4 }, () => memory.doubles(128));
    for (let frames = 0; frames <= 128; frames++) {
      const [left, right] = [block(), block()];
      for (const gains of [first!, second!, sideLeft!, sideRight!]) {
        for (let n = 0; n < 128; n++) gains[n] = random.bipolar();
      }
      const levelled = (one: Floats, side: Float64Array) =>
        Float32Array.from(one, (x, n) => (n < frames ? x * (first![n]! * second![n]!) * side[n]! : x));
      const expected = [levelled(left, sideLeft!), levelled(right, sideRight!)];
      const places = [left, right, first!, second!, sideLeft!, sideRight!].map((one) => one.byteOffset);
      kernels.levelFloats(...(places as [number, number, number, number, number, number]), frames);
      expect([...left]).toEqual([...expected[0]!]);
      expect([...right]).toEqual([...expected[1]!]);
    }
  });

  it('takes both sides to doubles and back to floats, at gains', () => {
    const doubles = [memory.doubles(130), memory.doubles(130)];
    for (let frames = 0; frames <= 128; frames++) {
      const [left, right] = [block(), block()];
      const gain = random.bipolar();
      for (const one of doubles) one.fill(7);
      const [toLeft, toRight] = [doubles[0]!.byteOffset, doubles[1]!.byteOffset];
      kernels.takeSides(toLeft, toRight, left.byteOffset, right.byteOffset, gain, frames);
      const wide = (one: Floats) => Array.from({ length: 130 }, (_, n) => (n < frames ? one[n]! * gain : 7));
      expect(doubles.map((one) => [...one])).toEqual([wide(left), wide(right)]);
      const [outLeft, outRight] = [block(), block()];
      const narrow = (wide: Float64Array, before: Floats) =>
        Float32Array.from(before, (x, n) => (n < frames ? wide[n]! * gain : x));
      const expected = [narrow(doubles[0]!, outLeft), narrow(doubles[1]!, outRight)].map((one) => [...one]);
      kernels.putSides(outLeft.byteOffset, outRight.byteOffset, toLeft, toRight, gain, frames);
      expect([[...outLeft], [...outRight]]).toEqual(expected);
    }
  });

  it('takes the middle of both sides, and guards what leaves', () => {
    const middle = memory.doubles(130);
    for (let frames = 0; frames <= 128; frames++) {
      const [left, right] = [block(), block()];
      middle.fill(7);
      kernels.takeMiddle(middle.byteOffset, left.byteOffset, right.byteOffset, frames);
      const halves = Array.from({ length: 130 }, (_, n) => (n < frames ? (left[n]! + right[n]!) / 2 : 7));
      expect([...middle]).toEqual(halves);
      // From far under the knee to far over the limit.
      for (const one of [left, right]) for (let n = 0; n < 128; n++) one[n] = 4 * random.bipolar();
      const guarded = [left, right].map((one) =>
        [...one].map((x, n) => (n < frames ? Math.fround(guardOutput(x)) : x)),
      );
      kernels.guardOutputs(left.byteOffset, right.byteOffset, frames);
      expect([[...left], [...right]]).toEqual(guarded);
    }
  });

  it('takes both sides to levels that move by steps, and makes them silent', () => {
    for (let frames = 0; frames <= 128; frames++) {
      const [left, right] = [block(), block()];
      const [gain, step, other, otherStep] = Array.from({ length: 4 }, () => random.bipolar()) as [
        number,
        number,
        number,
        number,
      ];
      const moved = (one: Floats, from: number, by: number) =>
        [...one].map((x, n) => (n < frames ? Math.fround(x * (from + by * (5 + n))) : x));
      const expected = [moved(left, gain, step), moved(right, other, otherStep)];
      kernels.scaleFloatsMoving(left.byteOffset, right.byteOffset, gain, step, other, otherStep, 5, frames);
      expect([[...left], [...right]]).toEqual(expected);
      const [otherLeft, otherRight] = [block(), block()];
      const before = [otherLeft.slice(), otherRight.slice()];
      kernels.copySides(otherLeft.byteOffset, otherRight.byteOffset, left.byteOffset, right.byteOffset, frames);
      const copied = before.map((side, n) => [...side].map((x, i) => (i < frames ? expected[n]![i]! : x)));
      expect([[...otherLeft], [...otherRight]]).toEqual(copied);
      kernels.clearSides(left.byteOffset, right.byteOffset, frames);
      const silent = expected.map((side) => side.map((x, n) => (n < frames ? 0 : x)));
      expect([[...left], [...right]]).toEqual(silent);
    }
  });

  it('tells a band from its rest in rings, and puts both together again', () => {
    const wide = () => {
      const made = memory.doubles(128);
      for (let n = 0; n < 128; n++) made[n] = random.bipolar();
      return made;
    };
    for (let frames = 0; frames <= 128; frames++) {
      const [input, output, band, rest] = [wide(), wide(), wide(), wide()];
      const sound = block();
      const [wasIn, wasOut] = [input.slice(), output.slice()];
      const within = (one: Float64Array) => [...one.subarray(0, frames)];
      kernels.splitRing(
        input.byteOffset,
        output.byteOffset,
        band.byteOffset,
        rest.byteOffset,
        sound.byteOffset,
        frames,
      );
      expect(within(band)).toEqual(within(wasOut));
      expect(within(rest)).toEqual(within(wasIn.map((x, n) => x - wasOut[n]!)));
      expect(within(input)).toEqual([...sound.subarray(0, frames)]);
      expect(within(output)).toEqual(new Array(frames).fill(0));
      expect([...input.subarray(frames), ...output.subarray(frames)]).toEqual([
        ...wasIn.subarray(frames),
        ...wasOut.subarray(frames),
      ]);

      const [wet, dryGains, wetGains] = [wide(), wide(), wide()];
      const out = block();
      const before = [...out];
      const places = [out, band, rest, wet, dryGains, wetGains].map((one) => one.byteOffset);
      kernels.blendBand(...(places as [number, number, number, number, number, number]), frames);
      const blended = before.map((x, n) => {
        if (n >= frames) return x;
        const dry = Math.fround(band[n]!);
        const mixed = Math.fround(dry * dryGains[n]! + wet[n]! * wetGains[n]!);
        return Math.fround(mixed + (rest[n]! + band[n]! - dry));
      });
      expect([...out]).toEqual(blended);
    }
  });
});
