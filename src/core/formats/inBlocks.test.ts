import { SeededRandom } from '@/core/math/random';
import { inBlocks } from './inBlocks';

const BLOCK = 262144;
const bytes = Uint8Array.from({ length: 5 * BLOCK + 999 }, (_, n) => (n * 7919) % 251);

function counted() {
  const asked: number[] = [];
  const faults = { left: 0 };
  const file = inBlocks({
    size: bytes.length,
    read: async (from, to) => {
      asked.push(from / BLOCK);
      if (faults.left-- > 0) throw new Error('torn');
      return bytes.subarray(from, to);
    },
  });
  return { file, asked, faults };
}

it('gives what the file has, in any place', async () => {
  const { file } = counted();
  const random = new SeededRandom(2);
  const places = [0, 1, BLOCK - 1, BLOCK, bytes.length - 1, bytes.length, bytes.length + 5];
  for (let n = 0; n < 100; n++) {
    const from = places[n] ?? Math.floor(random.uniform() * bytes.length);
    const to = from + Math.floor(random.uniform() * 2.5 * BLOCK);
    expect(Buffer.compare(await file.read(from, to), bytes.subarray(from, to))).toBe(0);
  }
});

it('reads no block twice that it has just had, at once or one after the other', async () => {
  const { file, asked } = counted();
  await Promise.all([file.read(0, 100), file.read(50, 300)]);
  await file.read(BLOCK - 10, BLOCK + 10);
  await file.read(100, 200);
  expect(asked).toEqual([0, 1]);
});

it('asks again for what could not be read', async () => {
  const { file, faults } = counted();
  faults.left = 1;
  await expect(file.read(0, 100)).rejects.toThrow('torn');
  expect(await file.read(0, 100)).toEqual(bytes.subarray(0, 100));
});
