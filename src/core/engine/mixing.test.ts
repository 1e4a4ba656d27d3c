import { SeededRandom } from '../math/random';
import { Arena, type Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';

const memory = new Arena();
afterAll(() => memory.free());
const random = new SeededRandom(5);
const { loops } = wasm();

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
      loops.mixFloats(
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
      loops.scaleFloats(left.byteOffset, right.byteOffset, gainLeft, gainRight, frames);
      expect([...left]).toEqual([...expected[0]!]);
      expect([...right]).toEqual([...expected[1]!]);
    }
  });

  it('finds the largest magnitude of either side', () => {
    const out = memory.doubles(2);
    for (let frames = 0; frames <= 128; frames++) {
      const [left, right] = [block(), block()];
      loops.peakFloats(left.byteOffset, right.byteOffset, out.byteOffset, frames);
      const most = (one: Floats) => Math.max(0, ...one.subarray(0, frames).map((x) => Math.abs(x)));
      expect([...out]).toEqual([most(left), most(right)]);
    }
  });
});
