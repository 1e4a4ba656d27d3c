import { db, largest } from '../../../test/support/render';
import { dbToGain } from '../math/elementary';
import { SeededRandom } from '../math/random';
import { Arena, type Doubles } from '../wasm/arena';
import { LookaheadLimiter } from './lookaheadLimiter';
import { LONG, QUARTER, SHARP, STANDARD } from './truePeak';

const RATE = 48000;
const FRAMES = 6000;

/** Bursts of noise and tones of any level, silence between them; the right side is another. */
function bursts(seed: number): Float64Array {
  const random = new SeededRandom(seed);
  let [level, turn, hz] = [0, 0, 0];
  return Float64Array.from({ length: FRAMES }, (_, n) => {
    if (n === turn) {
      level = random.uniform() < 0.3 ? 0 : dbToGain(54 * random.uniform() - 44);
      hz = random.uniform() < 0.5 ? 0 : 20000 * random.uniform();
      turn = n + 1 + Math.floor(700 * random.uniform());
    }
    return level * (hz > 0 ? Math.sin((2 * Math.PI * hz * n) / RATE) : random.bipolar());
  });
}

/** Frames that the longest filter reaches to each side. */
const REACH = 72;

/** Peaks around every frame, straight from the definition: points of the standard, parabolas through those of the others. */
function peaksOf(sound: Float64Array): number[] {
  const at = (n: number) => sound[n] ?? 0;
  const point = (row: readonly number[], frame: number) =>
    row.reduce((sum, weight, tap) => sum + weight * at(frame + 1 - row.length / 2 + tap), 0);
  const filters = [SHARP, LONG].map((row) => {
    // The sound at twice its rate, and from there at four times.
    const twice = (half: number) => (half % 2 === 0 ? at(half / 2) : point(row, (half - 1) / 2));
    const quarterAfter = (half: number) =>
      QUARTER.reduce((sum, weight, k) => sum + weight * (twice(half - k) + twice(half + 1 + k)), 0);
    return (quarter: number) => (quarter % 2 === 0 ? twice(quarter / 2) : quarterAfter((quarter - 1) / 2));
  });
  return Array.from(sound, (_, n) => {
    const middle = n - REACH;
    if (middle < 0) return 0;
    let peak = Math.max(...STANDARD.map((row) => Math.abs(point(row, middle))));
    for (const fourfold of filters) {
      const points = [-2, -1, 0, 1, 2, 3].map((quarters) => fourfold(4 * middle + quarters));
      for (let p = 1; p < 5; p++) {
        const [a, b, c] = [points[p - 1]!, points[p]!, points[p + 1]!];
        const extreme = (b - a) * (b - c) > 0 && (b - a) * b >= 0;
        peak = Math.max(peak, Math.abs(extreme ? b + (0.125 * (c - a) ** 2) / (2 * b - a - c) : b));
      }
    }
    return peak;
  });
}

/** The limiter as its description says it: what each frame needs, the least over look-ahead and hold, released, averaged. */
function limited(sides: readonly Float64Array[], ceiling: number, release: number, window: number, latency: number) {
  const peaks = sides.map(peaksOf);
  const need = Array.from({ length: FRAMES }, (_, n) =>
    Math.min(1, ceiling / Math.max(1e-30, ...peaks.map((one) => one[n]!))),
  );
  let logarithm = 0;
  const held = need.map((_, n) => {
    const least = Math.min(1, ...need.slice(Math.max(0, n - window - REACH), n + 1));
    logarithm = Math.min(Math.log(least), logarithm * release);
    return Math.exp(logarithm);
  });
  return sides.map((side) =>
    side.map((_, n) => {
      let sum = 0;
      for (let k = 0; k < window; k++) sum += held[n - k] ?? 1;
      return (side[n - latency] ?? 0) * Math.min(1, sum / window);
    }),
  );
}

describe('the look-ahead limiter', () => {
  const memory = new Arena();
  afterAll(() => memory.free());

  function played(limiter: LookaheadLimiter, sides: readonly Float64Array[], sizes: () => number) {
    const blocks: Doubles[] = [memory.doubles(128), memory.doubles(128)];
    const out = sides.map((side) => new Float64Array(side.length));
    for (let at = 0; at < FRAMES;) {
      const frames = Math.min(FRAMES - at, sizes());
      blocks.forEach((block, n) => block.set(sides[n]!.subarray(at, at + frames)));
      limiter.process(blocks[0]!, blocks[1]!, frames);
      out.forEach((side, n) => side.set(blocks[n]!.subarray(0, frames), at));
      at += frames;
    }
    return out;
  }

  it.each([1, 2, 3, 4])('does what its description says, to a millionth: sound %i', (seed) => {
    const sides = [bursts(seed), bursts(seed + 100)];
    const limiter = new LookaheadLimiter(memory, RATE, 5);
    limiter.configure(-6, 50, 5, 0);
    limiter.reset();
    const random = new SeededRandom(seed);
    const out = played(limiter, sides, () => 1 + Math.floor(128 * random.uniform()));
    const ceiling = dbToGain(-6.15);
    const wanted = limited(
      sides,
      ceiling,
      Math.exp(-1000 / (50 * RATE)),
      Math.round(0.005 * RATE),
      limiter.latencyFrames,
    );
    expect(Math.max(...sides.map(largest))).toBeGreaterThan(2 * ceiling);
    for (const side of [0, 1] as const) {
      expect(largest(out[side]!.map((x, n) => x - wanted[side]![n]!))).toBeLessThan(1e-6);
    }
  });

  it('gives the same bits however the sound is cut, near the ceiling and far below', () => {
    for (const gain of [1, 0.3, 0.05]) {
      const sides = [bursts(9), bursts(10)].map((side) => side.map((x) => gain * x));
      const [whole, cut] = [() => 128, () => 1 + Math.floor(128 * cuts.uniform())];
      const cuts = new SeededRandom(5);
      const [first, second] = [whole, cut].map((sizes) => {
        const limiter = new LookaheadLimiter(memory, RATE, 10);
        limiter.configure(-3, 200, 2, 0);
        limiter.reset();
        return played(limiter, sides, sizes);
      });
      expect(first!.map((side) => [...side])).toEqual(second!.map((side) => [...side]));
    }
  });

  it('leaves what never comes near its ceiling as it is, late by its latency', () => {
    const limiter = new LookaheadLimiter(memory, RATE, 1.5);
    limiter.configure(-1, 100, 1.5, 0);
    limiter.reset();
    const quiet = bursts(11).map((x) => 0.01 * x);
    const [left] = played(limiter, [quiet, quiet], () => 128);
    expect([...left!.subarray(limiter.latencyFrames)]).toEqual([...quiet.subarray(0, FRAMES - limiter.latencyFrames)]);
    expect(limiter.reductionDb).toBe(0);
    expect(db(largest(quiet))).toBeLessThan(-20);
  });
});
