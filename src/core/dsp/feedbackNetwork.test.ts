import { SeededRandom } from '../math/random';
import { Arena } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { guardLoop } from './guard';
import { prepareReads, Ring } from './ring';

const memory = new Arena();
afterAll(() => memory.free());
const { kernels } = wasm();
const random = new SeededRandom(41);
const FRAMES = 128;
const PAIR = 264;
const LINES = 16;
const BANDS = 9;
const TABLE = 4 + BANDS * 24;

const filled = (length: number, scale = 1) => {
  const made = memory.doubles(length);
  for (let n = 0; n < length; n++) made[n] = scale * random.bipolar();
  return made;
};
/** One line of a block, frame after frame. */
const lineOf = (blocks: Float64Array, line: number, frames = FRAMES) =>
  Array.from({ length: frames }, (_, i) => blocks[(line >> 1) * PAIR + 2 * i + (line & 1)]!);
const place = (of: { byteOffset: number }) => of.byteOffset;

describe('a feedback delay network in WebAssembly gives the bits of the same in TypeScript', () => {
  it('reads and writes of lines, whole and moving, crossfading, over their seams', () => {
    prepareReads();
    const size = 700;
    const stride = size + 16;
    const rings = memory.floats(LINES * stride);
    const twins = Array.from({ length: LINES }, () => new Ring(memory, size - 32));
    const [blocks, scratch, delays, out, other] = [8 * PAIR, 264, 4 * LINES, 132, 132].map((n) => memory.doubles(n));
    const entries = filled(LINES);
    const exact = memory.doubles(FRAMES);
    let index = 0;
    for (let turn = 0; turn < 120; turn++) {
      const frames = 1 + Math.floor(128 * random.uniform());
      const offset = Math.floor(64 * random.uniform());
      const fading = turn % 3 === 0 ? 0x2181 : 0;
      for (let line = 0; line < LINES; line++) {
        for (const set of [0, 2]) {
          const still = random.uniform() < 0.5;
          const frame = 140 + 400 * random.uniform();
          delays![4 * line + set] = still ? Math.floor(frame) : frame;
          delays![4 * line + set + 1] = still ? 0 : 0.2 * random.bipolar();
        }
      }
      const fadeStep = 1 / 2560;
      const fade = 0.9 * random.uniform();
      kernels.readNetwork(
        place(rings),
        4 * stride,
        size,
        index,
        LINES / 2,
        place(delays!),
        offset,
        fading,
        fade,
        fadeStep,
        frames,
        place(blocks!),
        place(scratch!),
      );
      for (let line = 0; line < LINES; line++) {
        const read = (into: typeof out, set: number) => {
          const [from, step] = [delays![4 * line + set]!, delays![4 * line + set + 1]!];
          if (step === 0) twins[line]!.readWhole(into!, from, frames, 0);
          else twins[line]!.read(into!, from, step, offset, 0, frames, 0);
        };
        read(out, 0);
        read(other, 2);
        const expected = Array.from({ length: frames }, (_, i) =>
          (fading >> line) & 1 ? out![i]! + (fade + fadeStep * (offset + i)) * (other![i]! - out![i]!) : out![i]!,
        );
        expect(lineOf(blocks!, line, frames)).toEqual(expected);
      }
      const [left, right, fresh] = [filled(FRAMES, 1.5), filled(FRAMES), filled(8 * PAIR, 2)];
      kernels.writeNetwork(
        place(rings),
        4 * stride,
        size,
        index,
        LINES / 2,
        place(fresh),
        0.25,
        place(left),
        place(right),
        place(entries),
        frames,
      );
      for (let line = 0; line < LINES; line++) {
        const rest = lineOf(fresh, line, frames);
        const side = line & 1 ? right : left;
        for (let i = 0; i < frames; i++) exact[i] = guardLoop(rest[i]! * 0.25 + side[i]! * entries[line]!);
        twins[line]!.write(exact, frames, false);
      }
      index = (index + frames) % size;
    }
  });

  it('gains and filters, still and moving', () => {
    const blocks = filled(8 * PAIR);
    const table = filled(8 * TABLE, 0.3);
    const order = memory.integers(BANDS);
    order.set([0, 3, 8]);
    for (const moving of [false, true]) {
      const expected = Array.from({ length: LINES }, (_, line) => {
        const head = (line >> 1) * TABLE + (line & 1);
        let gain = table[head]!;
        let samples = lineOf(blocks, line).map((x) => x * (moving ? (gain += table[head + 2]!) : gain));
        for (const band of [0, 3, 8]) {
          const at = head + 4 + band * 24;
          const c = [0, 1, 2, 3, 4].map((n) => table[at + 2 * n]!);
          const steps = [5, 6, 7, 8, 9].map((n) => table[at + 2 * n]!);
          let [s1, s2] = [table[at + 20]!, table[at + 22]!];
          samples = samples.map((x) => {
            if (moving) for (let n = 0; n < 5; n++) c[n]! += steps[n]!;
            const y = c[0]! * x + s1;
            s1 = c[1]! * x + s2 - c[3]! * y;
            s2 = c[2]! * x - c[4]! * y;
            return y;
          });
        }
        return samples;
      });
      kernels.filterNetwork(place(blocks), 8, place(table), BANDS, place(order), 3, moving, FRAMES);
      for (let line = 0; line < LINES; line++) expect(lineOf(blocks, line)).toEqual(expected[line]);
    }
  });

  it.each([8, 16, 32])('the mixing of %d lines, which keeps all energy', (lines) => {
    const pairs = lines / 2;
    const blocks = filled(pairs * PAIR);
    const turns = memory.doubles(8 * pairs);
    for (let pair = 0; pair < pairs; pair++) {
      const angle = random.bipolar();
      turns.set([Math.cos(angle), Math.cos(angle), 0, 0, -Math.sin(angle), Math.sin(angle), 0, 0], 8 * pair);
    }
    const before = Array.from({ length: lines }, (_, line) => lineOf(blocks, line));
    const frames = before[0]!.map((_, i) => {
      let x = before.map((line) => line[i]!);
      x = x.map((one, n) => turns[8 * (n >> 1) + (n & 1)]! * one + turns[8 * (n >> 1) + 4 + (n & 1)]! * x[n ^ 1]!);
      for (let half = 1; half < lines; half *= 2) {
        x = x.map((one, n) => ((n & half) === 0 ? one + x[n ^ half]! : x[n ^ half]! - one));
      }
      return x;
    });
    kernels.mixNetwork(place(blocks), pairs, place(turns), 7, FRAMES);
    for (let line = 0; line < lines; line++) expect(lineOf(blocks, line)).toEqual(frames.map((frame) => frame[line]!));
    const energy = (x: readonly number[]) => x.reduce((sum, one) => sum + one * one, 0);
    frames.forEach((frame, i) => {
      expect(energy(frame) / lines / energy(before.map((line) => line[i]!))).toBeCloseTo(1, 12);
    });
  });

  it('what is heard of all lines, taps of a sound, and states too small to matter', () => {
    const [blocks, exits, left, right] = [filled(8 * PAIR), filled(2 * LINES), filled(FRAMES), filled(FRAMES)];
    kernels.gatherNetwork(place(blocks), 8, place(exits), place(left), place(right), FRAMES);
    for (const [side, out] of [left, right].entries()) {
      for (let i = 0; i < FRAMES; i++) {
        const sums = [0, 1].map((lane) => {
          let sum = 0;
          for (let pair = 0; pair < 8; pair++)
            sum += blocks[pair * PAIR + 2 * i + lane]! * exits[4 * pair + 2 * side + lane]!;
          return sum;
        });
        expect(out[i]).toBe(sums[0]! + sums[1]!);
      }
    }

    const size = 500;
    const ring = memory.floats(size + 144);
    for (let n = 0; n < ring.length; n++) ring[n] = n < size ? random.bipolar() : ring[n - size]!;
    const taps = memory.integers(12);
    const gains = new Float32Array(taps.buffer, taps.byteOffset, 12);
    for (const [tap, delay] of [0, 3, 450].entries()) {
      taps[4 * tap] = delay;
      gains[4 * tap + 1] = random.bipolar();
      gains[4 * tap + 2] = random.bipolar();
    }
    const [l, r] = [memory.floats(144), memory.floats(144)];
    kernels.addTaps(place(ring), size, 410, place(taps), 3, place(l), place(r), 77);
    for (let i = 0; i < 77; i++) {
      for (const [side, out] of [l, r].entries()) {
        let sum = 0;
        for (let tap = 0; tap < 3; tap++) {
          const at = (410 - taps[4 * tap]! + size) % size;
          sum = Math.fround(sum + Math.fround(gains[4 * tap + 1 + side]! * ring[at + i]!));
        }
        expect(out[i]).toBe(sum);
      }
    }

    const table = memory.doubles(8 * TABLE).fill(1e-300);
    kernels.settleNetwork(place(table), 8, BANDS);
    expect(table[4 + 20]).toBe(0);
    expect(table[4 + 19]).toBe(1e-300);
  });
});
