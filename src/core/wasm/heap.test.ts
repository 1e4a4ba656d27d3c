import { SeededRandom } from '../math/random';
import { Arena } from './arena';
import { Heap } from './heap';

describe('a heap', () => {
  it('gives pieces that never overlap and are zero, and has all of it back in the end', () => {
    const random = new SeededRandom(9);
    const buffer = new ArrayBuffer(1 << 18);
    const heap = new Heap(buffer, 100, buffer.byteLength);
    const all = heap.freeBytes;
    const taken: { at: number; size: number }[] = [];
    for (let turn = 0; turn < 1500; turn++) {
      if (random.uniform() < 0.55) {
        const size = 1 + Math.floor(random.uniform() * 4000);
        let at: number;
        try {
          at = heap.allocate(size);
        } catch (error) {
          expect(error).toBeInstanceOf(RangeError);
          continue;
        }
        const bytes = new Uint8Array(buffer, at, size);
        expect(at % 16).toBe(0);
        expect(bytes.every((byte) => byte === 0)).toBe(true);
        expect(taken.every((other) => at + size <= other.at || other.at + other.size <= at)).toBe(true);
        bytes.fill(255);
        taken.push({ at, size });
      } else if (taken.length > 0) {
        const [piece] = taken.splice(Math.floor(random.uniform() * taken.length), 1);
        heap.free(piece!.at, piece!.size);
      }
      if (turn % 3 === 0) heap.zeroFreed(2048);
    }
    for (const { at, size } of taken) heap.free(at, size);
    expect(heap.freeBytes).toBe(all);
    for (let cleared = 0; cleared < all; cleared += 10000) heap.zeroFreed(10000);
    expect(new Uint8Array(buffer, heap.allocate(all), all).every((byte) => byte === 0)).toBe(true);
  });

  it('says in megabytes what it has not', () => {
    const heap = new Heap(new ArrayBuffer(1 << 16), 0, 1 << 16);
    expect(() => heap.allocate(3 << 20)).toThrow('3.0 MB');
  });

  it('takes a whole arena back at once', () => {
    const heap = new Heap(new ArrayBuffer(1 << 16), 0, 1 << 16);
    const before = heap.freeBytes;
    const arena = new Arena(heap);
    arena.floats(100)[5] = 3;
    arena.doubles(7);
    arena.integers(9);
    expect(heap.freeBytes).toBeLessThan(before - 400);
    arena.free();
    expect(heap.freeBytes).toBe(before);
    expect([...new Arena(heap).floats(100)].every((x) => x === 0)).toBe(true);
  });
});
