import { firstDifference, largest, sine } from '../../../test/support/render';
import type { KernelFactory } from '../effects/kernel';
import { KERNELS } from '../effects/kernels.generated';
import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import { heapOfThread } from '../wasm/arena';
import { Engine, type EngineFault } from './engine';
import type { Plan, PlanInsert } from './plan';
import { planStrip } from './plans';
import { renderPlan } from './render';

/** That of an effect is exchanged for one that throws. */
const kernels = KERNELS as Record<string, KernelFactory>;
const RATE = 48000;
const BLOCK = 128;
const utility = (id: string, gain: number): PlanInsert => ({
  id,
  effect: 'utility',
  bypass: false,
  values: resolveValues(effectById('utility'), { gain }, { tempoBpm: 120, beatsPerBar: 4 }),
});
const clip = (assetId: string) => ({
  ...{ id: `clip ${assetId}`, assetId, startFrame: 0, offsetFrame: 0, lengthFrames: 30 * RATE, gain: 1 },
  ...{ fadeInFrames: 0, fadeOutFrames: 0 },
});
const samples = new Map(
  [220, 330].map((hz, n) => {
    const sound = sine(hz, RATE, 30 * RATE, 0.3);
    return [n === 0 ? 'low' : 'high', { left: sound, right: sound }] as const;
  }),
);

/** A low tone and a high one, each through an effect; the high one is sent on by way of a return. */
const plan = (withLow = true): Plan => ({
  sampleRate: RATE,
  framesPerBeat: RATE / 2,
  endFrame: 30 * RATE,
  loop: null,
  strips: [
    ...(withLow ? [planStrip('low', { clips: [clip('low')], inserts: [utility('one', -6)] })] : []),
    planStrip('high', { clips: [clip('high')], inserts: [utility('two', -3)] }),
    planStrip('hall'),
    planStrip('main'),
  ],
  edges: [
    ...(withLow ? [{ id: 'a', fromId: 'low', toId: 'main', tap: 'afterFader' as const, gain: 1 }] : []),
    { id: 'b', fromId: 'high', toId: 'main', tap: 'afterFader', gain: 1 },
    { id: 'c', fromId: 'high', toId: 'hall', tap: 'afterFader', gain: 0.5 },
    { id: 'd', fromId: 'hall', toId: 'main', tap: 'afterFader', gain: 1 },
  ],
});

function playing(given: Plan) {
  const engine = new Engine(RATE);
  const faults: EngineFault[] = [];
  for (const [id, sound] of samples) engine.setSamples(id, sound);
  engine.applyPlan(given);
  engine.play();
  const left = new Float32Array(BLOCK);
  const right = new Float32Array(BLOCK);
  const play = (blocks: number) => {
    const out = new Float32Array(blocks * BLOCK);
    for (let n = 0; n < blocks; n++) {
      engine.renderBlock(left, right, BLOCK);
      out.set(left, n * BLOCK);
    }
    return out;
  };
  return { engine, faults, play, hear: () => (engine.onFault = (fault) => faults.push(fault)) };
}

const broken = () => {
  throw new Error('the sky fell');
};

describe('something that is thrown while sound runs', () => {
  it('silences its strip alone, is told, and is mended by building that strip anew', () => {
    const { engine, faults, play, hear } = playing(plan());
    const alone = playing(plan(false));
    hear();
    play(20);
    alone.play(20);
    engine.strip('low')!.insert('one')!.kernel.process = broken;
    const [silent, other] = [play(15), alone.play(15)];
    expect(faults).toMatchObject([{ stripId: 'low', insertId: 'one', count: 1 }]);
    expect(String(faults[0]!.error)).toContain('the sky fell');
    // The other strips give the same bits as without it.
    expect(firstDifference(silent, other)).toBe(-1);
    expect(engine.strip('low')!.meter.left).toBeLessThan(0.3);
    play(30);
    alone.play(30);
    const [back, without] = [play(200), alone.play(200)];
    expect(engine.rebuildCount).toBe(1);
    const low = back.map((x, n) => x - without[n]!);
    expect(largest(low)).toBeCloseTo(0.3 * 10 ** (-6 / 20), 2);
    expect(engine.strip('low')!.insert('one')!.faults).toBe(1);
    // It comes in without a click, in the place where it would be.
    const at = (20 + 15 + 30) * BLOCK;
    for (let n = 0; n < low.length; n += 97) {
      const expected = 0.3 * 10 ** (-6 / 20) * Math.sin((2 * Math.PI * 220 * (at + n)) / RATE);
      expect(low[n]!).toBeCloseTo(expected, 2);
    }
    expect(faults).toHaveLength(1);
    engine.dispose();
    alone.engine.dispose();
  });

  it('is the strip of what feeds others, too: its ways are made anew', () => {
    const { engine, faults, play, hear } = playing(plan());
    hear();
    play(20);
    engine.strip('high')!.insert('two')!.kernel.process = broken;
    play(60);
    expect(faults).toHaveLength(1);
    const out = play(100);
    const { engine: whole, play: undisturbed } = playing(plan());
    undisturbed(80);
    const wanted = undisturbed(100);
    for (let n = 0; n < out.length; n += 89) expect(out[n]!).toBeCloseTo(wanted[n]!, 4);
    engine.dispose();
    whole.dispose();
  });

  it('that comes again and again is tried ever more seldom, takes no memory, and ends with another plan', () => {
    const real = kernels.utility!;
    const { engine, faults, play, hear } = playing(plan());
    hear();
    kernels.utility = (context) => Object.assign(real(context), { process: broken });
    try {
      engine.strip('low')!.insert('one')!.kernel.process = broken;
      play(1000);
      const free = heapOfThread().freeBytes;
      play(7000);
      // At 0, 0.05, 0.15, 0.35, 0.75, 1.55, 3.15, 6.35, 11.35 and 16.35 s.
      expect(faults.length).toBe(10);
      expect(faults.map(({ count }) => count)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10]);
      expect(heapOfThread().freeBytes).toBeGreaterThanOrEqual(free);
    } finally {
      kernels.utility = real;
    }
    expect(largest(play(2100))).toBeGreaterThan(0.2);
    engine.applyPlan(plan(false));
    expect(largest(play(500))).toBeGreaterThan(0.2);
    engine.dispose();
  });

  it('while a strip is built anew counts as its fault', () => {
    const real = kernels.utility!;
    const { engine, faults, play, hear } = playing(plan());
    hear();
    engine.strip('low')!.insert('one')!.kernel.process = broken;
    kernels.utility = broken;
    play(100);
    kernels.utility = real;
    expect(faults.map(({ insertId, count }) => [insertId, count])).toEqual([
      ['one', 1],
      [null, 2],
      [null, 3],
    ]);
    play(2000);
    expect(engine.rebuildCount).toBe(1);
    engine.dispose();
  });

  it('while the new strip takes its place in the session is caught, too', () => {
    const real = kernels.utility!;
    const { engine, faults, play, hear } = playing(plan());
    hear();
    engine.strip('low')!.insert('one')!.kernel.process = broken;
    kernels.utility = (context) => Object.assign(real(context), { locate: broken });
    expect(largest(play(100))).toBeGreaterThan(0.2);
    kernels.utility = real;
    expect(faults.map(({ count }) => count)).toEqual([1, 2, 3]);
    play(2000);
    expect(engine.rebuildCount).toBe(1);
    engine.dispose();
  });

  it('ends a render, which must not be silent where nobody is told', () => {
    const real = kernels.utility!;
    kernels.utility = (context) => Object.assign(real(context), { process: broken });
    try {
      expect(() => renderPlan(plan(), samples, { fromFrame: 0, toFrame: RATE, tailSeconds: 0 })).toThrow(
        'the sky fell',
      );
    } finally {
      kernels.utility = real;
    }
  });
});
