import { dbToGain, gainToDb } from '../math/elementary';
import { SeededRandom } from '../math/random';
import { Arena, type Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { balance } from './balance';
import { SlidingMaxima } from './slidingMaxima';

const memory = new Arena();
afterAll(() => memory.free());
const random = new SeededRandom(77);
const FRAMES = 4096;
const block = (make: (n: number) => number) => {
  const made = memory.doubles(FRAMES);
  for (let n = 0; n < FRAMES; n++) made[n] = make(n);
  return made;
};
const { kernels } = wasm();
/** Over the whole range of doubles, with values that come twice in a row. */
const wide = () => 10 ** (600 * random.uniform() - 300);

describe('levels of blocks in WebAssembly give the bits of the same in TypeScript', () => {
  it('decibels of any magnitude, silence and what is under the floor', () => {
    let last = 1;
    const levels = block((n) => (n % 5 === 0 ? last : n % 97 === 0 ? 0 : (last = wide())));
    const expected = [...levels].map((level) => (level <= 1e-6 ? -120 : gainToDb(level)));
    kernels.decibels(levels.byteOffset, FRAMES, 1e-6, -120);
    expect([...levels]).toEqual(expected);
  });

  it('sides of any pan', () => {
    const pans = block((n) => (n % 9 === 0 ? Math.sign(random.bipolar()) : n % 17 === 0 ? 0 : random.bipolar()));
    const [left, right] = [memory.doubles(FRAMES), memory.doubles(FRAMES)];
    kernels.balances(pans.byteOffset, left.byteOffset, right.byteOffset, FRAMES);
    expect([...left]).toEqual([...pans].map((pan) => balance(pan).left));
    expect([...right]).toEqual([...pans].map((pan) => balance(pan).right));
  });

  it.each([1, 2, 3, 17, 240, 256, 960])(
    'the largest of the last %d frames at most, in blocks of any size, after any change of the window',
    (longest) => {
      const [left, right] = [block(() => random.bipolar()), block(() => random.bipolar())];
      const louder = left.map((x, n) => Math.max(Math.abs(x), Math.abs(right[n]!)));
      const maxima = new SlidingMaxima(memory, longest);
      const out = memory.doubles(128);
      for (let at = 0; at < FRAMES;) {
        const frames = Math.min(FRAMES - at, 1 + Math.floor(128 * random.uniform()));
        const window = 1 + Math.floor(longest * random.uniform());
        maxima.setWindow(window);
        maxima.ofSides(left.subarray(at) as Doubles, right.subarray(at) as Doubles, out, frames);
        const wanted = Array.from({ length: frames }, (_, i) =>
          Math.max(...louder.subarray(Math.max(0, at + i + 1 - window), at + i + 1)),
        );
        expect([...out.subarray(0, frames)]).toEqual(wanted);
        at += frames;
      }
    },
  );

  it('gains of any decibels in single precision, just 1 at none, nothing of what is nothing, in blocks of any size', () => {
    const db = block((n) =>
      n % 11 === 0 ? 0 : n % 53 === 0 ? -Infinity : n % 13 === 0 ? -750 : 120 * random.bipolar(),
    );
    const whole = db.slice();
    const asked = [...db];
    kernels.gains(db.byteOffset, FRAMES);
    asked.forEach((one, n) => {
      const wanted = one < -700 ? 0 : dbToGain(one);
      // Half a step of single precision at 120 dB, of its octaves and of its series.
      expect(Math.abs(db[n]! - wanted)).toBeLessThanOrEqual(1.5e-6 * wanted);
      if (one === 0) expect(db[n]).toBe(1);
    });
    const cut = memory.doubles(FRAMES);
    cut.set(whole);
    for (let at = 0, frames = 1; at < FRAMES; at += frames, frames = (frames % 9) + 1) {
      kernels.gains(cut.byteOffset + 8 * at, Math.min(frames, FRAMES - at));
    }
    expect([...cut]).toEqual([...db]);
  });
});
