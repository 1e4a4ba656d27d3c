import { staticReduction } from '../effects/compressor/kernel';
import { SeededRandom } from '../math/random';
import { settled } from '../math/settled';
import { Arena, type Doubles, type Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';

const memory = new Arena();
afterAll(() => memory.free());
const random = new SeededRandom(41);
const { kernels } = wasm();
const doubles = (make: (n: number) => number): Doubles => {
  const block = memory.doubles(128);
  for (let n = 0; n < 128; n++) block[n] = make(n);
  return block;
};
const floats = (make: (n: number) => number): Floats => {
  const block = memory.floats(128);
  for (let n = 0; n < 128; n++) block[n] = make(n);
  return block;
};
const level = () => 60 * random.uniform() - 60;
/** Every length of a block, each beginning where the one before ended. */
const LENGTHS = Array.from({ length: 128 }, (_, n) => n + 1);
const first = <T extends Float32Array | Float64Array>(block: T, frames: number) => [...block.subarray(0, frames)];

describe('dynamics in WebAssembly give the bits of the same in TypeScript', () => {
  it('static reductions, whatever threshold, ratio and knee, none too', () => {
    for (const frames of LENGTHS) {
      const [levels, thresholds, slopes] = [doubles(level), doubles(level), doubles(() => random.uniform())];
      const knees = doubles((n) => (n % 3 === 0 ? 0 : 24 * random.uniform()));
      const out = doubles(() => 0);
      const places = [levels, thresholds, slopes, knees, out].map((one) => one.byteOffset);
      kernels.staticReductions(...(places as [number, number, number, number, number]), frames);
      const wanted = first(levels, frames).map((db, n) => staticReduction(db, thresholds[n]!, slopes[n]!, knees[n]!));
      // Nothing is nothing on either side of zero.
      expect(first(out, frames).map((x) => x + 0)).toEqual(wanted.map((x) => x + 0));
    }
  });

  it('reductions that follow, and the deepest of them', () => {
    const state = memory.doubles(2);
    let reduction = 0;
    for (const frames of LENGTHS) {
      const block = doubles((n) => (n % 40 < 20 ? 0 : -30 * random.uniform()));
      let most = 0;
      const wanted = first(block, frames).map((now) => {
        reduction = now + (now < reduction ? 0.9 : 0.99) * (reduction - now);
        if (reduction > -1e-7) reduction = 0;
        most = Math.min(most, reduction);
        return reduction;
      });
      kernels.followReductions(state.byteOffset, block.byteOffset, 0.9, 0.99, frames);
      expect(first(block, frames)).toEqual(wanted);
      expect([...state]).toEqual([reduction, most]);
    }
  });

  it('reductions within bounds', () => {
    for (const frames of LENGTHS) {
      const [levels, thresholds, amounts] = [doubles(level), doubles(level), doubles(() => 12 * random.uniform())];
      const wanted = first(levels, frames).map((db, n) => -Math.min(amounts[n]!, Math.max(0, db - thresholds[n]!)));
      kernels.boundedReductions(levels.byteOffset, thresholds.byteOffset, amounts.byteOffset, frames);
      expect(first(levels, frames)).toEqual(wanted);
    }
  });

  it('both sides weighed by a mix of gains, and by gains alone', () => {
    for (const frames of LENGTHS) {
      const sound = () => floats(() => random.bipolar());
      const [left, right, gains] = [sound(), sound(), floats(() => random.uniform())];
      const [makeups, mixes] = [doubles(() => 4 * random.uniform()), doubles(() => random.uniform())];
      const weighed = (block: Floats) =>
        first(block, frames).map((x, n) => Math.fround(x * (1 - mixes[n]! + mixes[n]! * (gains[n]! * makeups[n]!))));
      let wanted = [weighed(left), weighed(right)];
      const places = [left, right, gains, makeups, mixes].map((one) => one.byteOffset);
      kernels.weighSides(...(places as [number, number, number, number, number]), frames);
      expect([first(left, frames), first(right, frames)]).toEqual(wanted);
      wanted = [left, right].map((block) => first(block, frames).map((x, n) => Math.fround(x * mixes[n]!)));
      kernels.scaleSides(left.byteOffset, right.byteOffset, mixes.byteOffset, frames);
      expect([first(left, frames), first(right, frames)]).toEqual(wanted);
    }
  });

  it('gains of a gate, with hysteresis and hold', () => {
    const state = memory.doubles(3);
    const [opensAt, closesAt, hold, openingStep, closingFactor] = [-20, -26, 30, 0.02, 0.97] as const;
    let [open, held, gain] = [false, 0, 0];
    let openings = 0;
    for (const frames of LENGTHS) {
      let course = -40;
      const block = doubles(() => (course = Math.max(-60, Math.min(0, course + 6 * random.bipolar()))));
      const floors = doubles(() => 0.01 * random.uniform());
      const wanted = first(block, frames).map((db, n) => {
        const was = open;
        if (db >= opensAt) [open, held] = [true, hold];
        else if (open && db >= closesAt) held = hold;
        else if (open && held > 0) held--;
        else open = false;
        if (open && !was) openings++;
        const floor = floors[n]!;
        if (open) return (gain = Math.min(1, gain + openingStep));
        if (gain > floor) gain *= closingFactor;
        else gain = floor;
        if (gain < floor || gain < 1e-5) gain = floor;
        return gain;
      });
      const { byteOffset } = state;
      kernels.gateGains(
        byteOffset,
        block.byteOffset,
        floors.byteOffset,
        opensAt,
        closesAt,
        hold,
        openingStep,
        closingFactor,
        frames,
      );
      expect(first(block, frames)).toEqual(wanted);
    }
    expect(openings).toBeGreaterThan(20);
  });

  it('what a shaper of transients lifts by', () => {
    const state = memory.doubles(5).fill(-120, 0, 4);
    const factors = doubles((n) => [0.9, 0.99, 0.98, 0.999, 0.8][n] ?? 0);
    let [riseFast, riseSlow, fallFast, fallSlow, shaped] = [-120, -120, -120, -120, 0];
    for (const frames of LENGTHS) {
      const [block, attacks, sustains] = [
        doubles(() => 1.6 * level()),
        doubles(() => random.bipolar()),
        doubles(() => random.bipolar()),
      ];
      const wanted = first(block, frames).map((heard, n) => {
        const db = Math.max(-80, heard);
        riseFast = db + (db > riseFast ? 0.9 : 0.98) * (riseFast - db);
        riseSlow = db + (db > riseSlow ? 0.99 : 0.98) * (riseSlow - db);
        fallFast = db > fallFast ? db : db + 0.98 * (fallFast - db);
        fallSlow = db > fallSlow ? db : db + 0.999 * (fallSlow - db);
        const lift = attacks[n]! * (riseFast - riseSlow) + sustains[n]! * (fallSlow - fallFast);
        const bounded = Math.min(18, Math.max(-18, lift));
        shaped = bounded + 0.8 * (shaped - bounded);
        if (Math.abs(shaped) < 1e-7) shaped = 0;
        return shaped;
      });
      const places = [state, factors, block, attacks, sustains].map((one) => one.byteOffset);
      kernels.shapeTransients(...(places as [number, number, number, number, number]), -80, 18, frames);
      expect(first(block, frames)).toEqual(wanted);
    }
  });

  it('a bell that cuts by another gain in every frame', () => {
    const state = memory.doubles(4);
    const [g, inverseQ] = [0.4, 0.7];
    const states = [
      [0, 0],
      [0, 0],
    ];
    for (const frames of LENGTHS) {
      const sides = [doubles(() => random.bipolar()), doubles(() => random.bipolar())];
      const gains = doubles((n) => (n % 5 === 0 ? 1 : 0.05 + 0.95 * random.uniform()));
      const wanted = sides.map((side, channel) =>
        first(side, frames).map((x, n) => {
          const gain = gains[n]!;
          const k = inverseQ / Math.sqrt(gain);
          const a1 = 1 / (1 + g * (g + k));
          const a2 = g * a1;
          const [s1, s2] = states[channel] as [number, number];
          const v3 = x - s2;
          const v1 = a1 * s1 + a2 * v3;
          const v2 = s2 + a2 * s1 + g * a2 * v3;
          states[channel] = [settled(2 * v1 - s1), settled(2 * v2 - s2)];
          return gain === 1 ? x : x - (1 - gain) * k * v1;
        }),
      );
      const places = [state, sides[0]!, sides[1]!, gains].map((one) => one.byteOffset);
      kernels.cutBell(...(places as [number, number, number, number]), g, inverseQ, frames);
      expect(sides.map((side) => first(side, frames))).toEqual(wanted);
    }
  });
});
