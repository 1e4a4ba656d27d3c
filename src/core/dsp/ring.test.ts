import fc from 'fast-check';
import { db } from '../../../test/support/render';
import { SeededRandom } from '../math/random';
import { Arena } from '../wasm/arena';
import { Ring } from './ring';
import { RingTwin } from '../wasm/twins/ring';

const memory = new Arena();
afterAll(() => memory.free());

describe('a ring in WebAssembly', () => {
  it('gives the bits of its twin: at any delay, on the move, near and far, over its seam, in any blocks', () => {
    const random = new SeededRandom(77);
    const [block, gains, out, other] = [0, 1, 2, 3].map(() => memory.doubles(128)) as [never, never, never, never];
    const expected = new Float64Array(128);
    for (let course = 0; course < 12; course++) {
      const longest = 200 + Math.floor(random.uniform() * 900);
      const rings = [new Ring(memory, longest + 128), new Ring(memory, longest + 128)] as const;
      const twins = [new RingTwin(), new RingTwin()] as const;
      for (let turn = 0; turn < 60; turn++) {
        const frames = 1 + Math.floor(random.uniform() * 128);
        const from = 2 + random.uniform() * (longest - 60);
        const step = random.bipolar() * 0.3;
        const offset = Math.floor(random.uniform() * 32);
        const kind = turn % 3;
        for (let i = 0; i < 128; i++) {
          (block as Float64Array)[i] = 1.5 * random.bipolar();
          (gains as Float64Array)[i] = kind === 2 ? random.bipolar() : 0;
        }
        rings.forEach((ring, n) => {
          if (kind === 2) {
            ring.writeRound(block, gains, from, step, offset, 4, frames);
            twins[n]!.writeRound(block, gains, from, step, offset, 4, frames);
          } else {
            ring.write(block, frames, kind === 0);
            twins[n]!.write(block, frames, kind === 0);
          }
        });
        twins[0].read(expected, from, step, offset, 4, frames, frames);
        rings[0].read(out, from, step, offset, 4, frames, frames);
        expect((out as Float64Array).subarray(0, frames)).toEqual(expected.subarray(0, frames));
        rings[0].readWith(rings[1], out, other, from, step, offset, 4, frames, frames);
        expect((out as Float64Array).subarray(0, frames)).toEqual(expected.subarray(0, frames));
        expect((other as Float64Array).subarray(0, frames)).toEqual(expected.subarray(0, frames));
      }
    }
  });

  it('reads whole delays exactly', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 1, max: 3000 }), (delay, lead) => {
        const own = new Arena();
        const ring = new Ring(own, 600);
        const [block, out] = [own.doubles(128), own.doubles(128)];
        for (let n = 0; n < lead; n++) {
          block[0] = n;
          ring.write(block, 1, false);
        }
        ring.readWhole(out, delay, 1, 0);
        expect(out[0]).toBe(Math.max(0, lead - delay));
        own.free();
      }),
    );
  });

  it('reads near delays exactly on the cubic that goes through its points', () => {
    const ring = new Ring(memory, 200);
    const [block, out] = [memory.doubles(128), memory.doubles(128)];
    const f = (x: number) => 0.001 * x * x * x - 0.02 * x * x + x;
    for (let n = 0; n < 40; n++) block[n] = f(n);
    ring.write(block, 40, false);
    ring.read(out, 5.37, 0, 0, 2, 1, 0);
    expect(out[0]).toBeCloseTo(f(40 - 5.37), 4);
  });

  it('forgets what it holds when cleared', () => {
    const ring = new Ring(memory, 200);
    const [block, out] = [memory.doubles(128), memory.doubles(128)];
    block.fill(1);
    ring.write(block, 128, false);
    ring.clear();
    ring.read(out, 30.5, 0, 0, 4, 128, 0);
    expect(out.every((x) => x === 0)).toBe(true);
  });
});

/** The answer to an impulse of reads at a delay, as complex numbers at a frequency in cycles a frame. */
function errorAt(delay: number, frequency: number): number {
  const own = new Arena();
  const ring = new Ring(own, 200);
  const [block, out] = [own.doubles(128), own.doubles(128)];
  block[0] = 1;
  ring.write(block, 128, false);
  ring.read(out, delay, 0, 0, 4, 128, 128);
  let re = 0;
  let im = 0;
  for (let n = 0; n < 128; n++) {
    re += out[n]! * Math.cos(2 * Math.PI * frequency * (n - delay));
    im -= out[n]! * Math.sin(2 * Math.PI * frequency * (n - delay));
  }
  own.free();
  return db(Math.hypot(re - 1, im));
}

describe('band-limited reads', () => {
  it('err by less than -90 dB to 1 kHz and -60 dB to 16 kHz, wherever between two frames', () => {
    for (let part = 0; part < 1; part += 0.0371) {
      for (const hz of [50, 200, 500, 1000]) expect(errorAt(20 + part, hz / 44100)).toBeLessThan(-90);
      for (const rate of [44100, 48000, 96000]) {
        for (const hz of [2000, 4000, 8000, 12000, 14000, 16000]) {
          expect(errorAt(20 + part, hz / rate)).toBeLessThan(-60);
        }
      }
    }
  });
});
