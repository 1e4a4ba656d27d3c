import { dbToGain, gainToDb } from '../math/elementary';
import { SeededRandom } from '../math/random';
import { Arena } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { balance } from './balance';
import { SlidingMaximum } from './slidingMaximum';

const memory = new Arena();
afterAll(() => memory.free());
const random = new SeededRandom(77);
const FRAMES = 4096;
const block = (make: (n: number) => number) => {
  const made = memory.doubles(FRAMES);
  for (let n = 0; n < FRAMES; n++) made[n] = make(n);
  return made;
};
const { loops } = wasm();
/** Over the whole range of doubles, with values that come twice in a row. */
const wide = () => 10 ** (600 * random.uniform() - 300);

describe('levels of blocks in WebAssembly give the bits of the same in TypeScript', () => {
  it('decibels of any magnitude, silence and what is under the floor', () => {
    let last = 1;
    const levels = block((n) => (n % 5 === 0 ? last : n % 97 === 0 ? 0 : (last = wide())));
    const expected = [...levels].map((level) => (level <= 1e-6 ? -120 : gainToDb(level)));
    loops.decibels(levels.byteOffset, FRAMES, 1e-6, -120);
    expect([...levels]).toEqual(expected);
  });

  it('gains of any decibels, none at all and -infinity', () => {
    const db = block((n) => (n % 11 === 0 ? 0 : n % 53 === 0 ? -Infinity : 14000 * random.bipolar()));
    const expected = [...db].map((one) => dbToGain(one));
    loops.gains(db.byteOffset, FRAMES);
    expect([...db]).toEqual(expected);
  });

  it('sides of any pan', () => {
    const pans = block((n) => (n % 9 === 0 ? Math.sign(random.bipolar()) : n % 17 === 0 ? 0 : random.bipolar()));
    const [left, right] = [memory.doubles(FRAMES), memory.doubles(FRAMES)];
    loops.balances(pans.byteOffset, left.byteOffset, right.byteOffset, FRAMES);
    expect([...left]).toEqual([...pans].map((pan) => balance(pan).left));
    expect([...right]).toEqual([...pans].map((pan) => balance(pan).right));
  });

  it.each([1, 2, 17, 240])(
    'the largest of the last %d frames, in blocks of any size, after the window has moved',
    (longest) => {
      const [left, right] = [block(() => random.bipolar()), block(() => random.bipolar())];
      let size = 2;
      while (size < longest + 1) size *= 2;
      const state = memory.doubles(5 + 2 * size);
      state[4] = size;
      const twin = new SlidingMaximum(longest);
      const out = memory.doubles(FRAMES);
      for (let at = 0; at < FRAMES;) {
        const frames = Math.min(FRAMES - at, 1 + Math.floor(128 * random.uniform()));
        const window = 1 + Math.floor(longest * random.uniform());
        state[3] = window;
        twin.setWindow(window);
        const shift = 8 * at;
        loops.slidingPeaks(state.byteOffset, left.byteOffset + shift, right.byteOffset + shift, out.byteOffset, frames);
        for (let i = 0; i < frames; i++) {
          expect(out[i]).toBe(twin.next(Math.max(Math.abs(left[at + i]!), Math.abs(right[at + i]!))));
        }
        at += frames;
      }
    },
  );
});
