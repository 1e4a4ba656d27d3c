import { SeededRandom } from '../../math/random';
import { settled } from '../../math/settled';
import { Arena } from '../../wasm/arena';
import { wasm } from '../../wasm/module';

const memory = new Arena();
afterAll(() => memory.free());
const { kernels } = wasm();
const random = new SeededRandom(43);
const place = (of: { byteOffset: number }) => of.byteOffset;
const doubles = (length: number) => {
  const made = memory.doubles(length);
  for (let n = 0; n < length; n++) made[n] = random.bipolar();
  return made;
};

describe('WebAssembly around a tail give the bits of the same in TypeScript', () => {
  it('an all-pass section, over the seam of its ring, crossfading, in blocks of any length', () => {
    const ring = memory.doubles(512);
    const twin = new Float64Array(512);
    let at = 0;
    for (let turn = 0; turn < 200; turn++) {
      const frames = 1 + Math.floor(128 * random.uniform());
      const block = doubles(128);
      const [length, next] = [2 + Math.floor(500 * random.uniform()), 2 + Math.floor(500 * random.uniform())];
      const fadeStep = turn % 3 === 0 ? 1 / 2560 : 0;
      const gainStep = turn % 2 === 0 ? 1e-4 * random.bipolar() : 0;
      const [fade, gain] = [0.9 * random.uniform(), 0.7 * random.bipolar()];
      const expected = block.map((x, i) => {
        if (i >= frames) return x;
        let late = twin[(at + i - length) & 511]!;
        if (fadeStep > 0) {
          const part = fade + fadeStep * (20 + i);
          late += part * part * (3 - 2 * part) * (twin[(at + i - next) & 511]! - late);
        }
        const factor = gain + gainStep * (20 + i);
        const written = x + factor * late;
        twin[(at + i) & 511] = settled(written);
        return late - factor * written;
      });
      kernels.passAll(place(ring), 511, at, length, next, 20, fade, fadeStep, gain, gainStep, place(block), frames);
      expect(block).toEqual(expected);
      at = (at + frames) & 511;
    }
    expect(ring).toEqual(twin);
  });

  it('a sound as heard from both sides, and three layers of reflections, each dulled by its own wall and those before', () => {
    const size = 300;
    const [near, far] = [memory.floats(size + 144), memory.floats(size + 144)];
    const [left, right] = [doubles(128), doubles(128)];
    kernels.feedSides(place(near), place(far), size, 230, 144, 0.3, place(left), place(right), 128);
    for (let i = 0; i < 128; i++) {
      const at = (230 + i) % size;
      expect(near[at]).toBe(Math.fround(left[i]! + 0.3 * (right[i]! - left[i]!)));
      expect(far[at]).toBe(Math.fround(right[i]! + 0.3 * (left[i]! - right[i]!)));
      if (at < 144) expect([near[at + size], far[at + size]]).toEqual([near[at], far[at]]);
    }

    const sums = memory.floats(6 * 144);
    for (let n = 0; n < sums.length; n++) sums[n] = random.bipolar();
    const states = doubles(6);
    const held = states.slice();
    const outs = [doubles(128), doubles(128)] as const;
    kernels.dullLayers(place(states), 0.2, 0.6, place(sums), 4 * 144, place(outs[0]), place(outs[1]), 77);
    for (const side of [0, 1] as const) {
      for (let i = 0; i < 77; i++) {
        let sound = 0;
        for (const layer of [2, 1, 0]) {
          const x = sums[(2 * layer + side) * 144 + i]! + sound;
          held[2 * layer + side] = held[2 * layer + side]! + 0.2 * (x - held[2 * layer + side]!);
          sound = x + 0.6 * (held[2 * layer + side]! - x);
        }
        expect(outs[side][i]).toBe(sound);
      }
    }
    expect(states).toEqual(held);
  });
});
