import { SEED, thinned } from '../../../test/support/sweep';
import { TIMING } from '../../../test/support/render';
import { EFFECTS } from '../effects/registry';
import { resolveSettings, resolveValues } from '../effects/resolve';
import { SeededRandom } from '../math/random';
import { heapOfThread } from '../wasm/arena';
import { Engine } from './engine';
import { planStrip } from './plans';
import type { Plan, PlanInsert } from './plan';

const RATE = 48000;
const known = new Map(
  EFFECTS.map((spec) => {
    const settings = resolveSettings(spec, {});
    return [spec.id, { values: resolveValues(spec, {}, TIMING), ...(settings ? { settings } : {}) }];
  }),
);
const insertOf = (effect: string, id: string): PlanInsert => ({
  id,
  effect,
  bypass: false,
  ...known.get(effect)!,
});
const planOf = (inserts: readonly PlanInsert[]): Plan => ({
  sampleRate: RATE,
  framesPerBeat: 24000,
  endFrame: RATE,
  loop: null,
  strips: [planStrip('main', { inserts })],
  edges: [],
});

/** Plans applied in turn. */
const TURNS = thinned(10000);

describe('the memory of an engine', () => {
  it('has not grown after thousands of plans that put effects in and out, and all of it goes back in the end', () => {
    const random = new SeededRandom(SEED);
    const heap = heapOfThread();
    // Tables that all effects share are made once and stay.
    const first = new Engine(RATE);
    first.applyPlan(planOf(EFFECTS.map(({ id }) => insertOf(id, id))));
    first.dispose();
    const before = heap.freeBytes;
    const engine = new Engine(RATE);
    const [left, right] = [new Float32Array(128), new Float32Array(128)];
    let chain: PlanInsert[] = [];
    let least = Infinity;
    let leastInTime = Infinity;
    for (let turn = 0; turn < TURNS; turn++) {
      if (chain.length > 2 || (chain.length > 0 && random.uniform() < 0.5)) {
        chain = chain.filter((_, n) => n !== Math.floor(random.uniform() * chain.length));
      } else {
        const { id } = EFFECTS[Math.floor(random.uniform() * EFFECTS.length)]!;
        chain = [...chain, insertOf(id, `${id}-${turn}`)];
      }
      engine.applyPlan(planOf(chain));
      engine.renderBlock(left, right, 128);
      heap.zeroFreed(32768);
      if (turn < TURNS / 2) least = Math.min(least, heap.freeBytes);
      else leastInTime = Math.min(leastInTime, heap.freeBytes);
    }
    // Effects in use differ from turn to turn: a reverb takes a hundred times as much memory as an equalizer.
    expect(leastInTime).toBeGreaterThan(least - (before - least));
    engine.dispose();
    expect(heap.freeBytes).toBe(before);
  });

  it('goes back when an effect that there is no memory for is refused', () => {
    const engine = new Engine(RATE);
    const heap = heapOfThread();
    const taken: number[] = [];
    const size = 1 << 24;
    try {
      for (;;) taken.push(heap.allocate(size));
    } catch {
      const before = heap.freeBytes;
      const lines = Object.fromEntries(Array.from({ length: 8 }, (_, n) => [`lines.${n + 1}.on`, true]));
      const spec = EFFECTS.find(({ id }) => id === 'delay')!;
      const many = { ...insertOf('delay', 'd'), values: resolveValues(spec, lines, TIMING) };
      expect(() => engine.applyPlan(planOf([many]))).toThrow('no memory left');
      expect(heap.freeBytes).toBe(before);
    } finally {
      for (const at of taken) heap.free(at, size);
    }
  });
});
