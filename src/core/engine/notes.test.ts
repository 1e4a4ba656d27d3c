import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import type { Kernel, KernelContext, KernelEvent, MusicalContext } from '../effects/kernel';
import { KERNELS } from '../effects/kernels.generated';
import { EFFECTS } from '../effects/registry';
import { defineEffect, type EffectSpec } from '../effects/spec';
import { Engine } from './engine';
import type { Plan, PlanInsert, PlanNote } from './plan';
import { planStrip } from './plans';

/** An instrument that puts out the number of its keys that are down, and takes down what it is told. */
class Counter implements Kernel {
  static told: { frame: number; event: KernelEvent }[] = [];
  static music: MusicalContext[] = [];
  static passed = 0;
  readonly latencyFrames = 0;
  private readonly due: { event: KernelEvent; offset: number }[] = [];
  private down = 0;

  constructor({ music }: KernelContext) {
    Counter.music.push(music);
  }
  tailSeconds = () => 0;
  setParameter(): void {}
  locate(): void {}
  reset(): void {}
  setMusicalContext(music: MusicalContext): void {
    Counter.music.push(music);
  }
  handleEvent(event: KernelEvent, offset: number): void {
    this.due.push({ event, offset });
  }
  process(left: Float32Array, right: Float32Array, frames: number): void {
    for (let i = 0; i < frames; i++) {
      for (const { event, offset } of this.due) {
        if (offset !== i) continue;
        this.down += event.kind === 'noteOn' ? 1 : event.kind === 'noteOff' ? -1 : 0;
        Counter.told.push({ frame: Counter.passed + i, event });
      }
      left[i] = right[i] = this.down;
    }
    this.due.length = 0;
    Counter.passed += frames;
  }
}

const RATE = 48000;
const spec = defineEffect({
  id: 'counter',
  name: 'Counter',
  family: 'tools',
  purpose: 'Counts keys.',
  picture: 'response',
  main: [],
  presets: [],
  parameters: [],
});

beforeAll(() => {
  (EFFECTS as EffectSpec[]).push(spec);
  (KERNELS as Record<string, unknown>).counter = (context: KernelContext) => new Counter(context);
});
afterAll(() => {
  (EFFECTS as EffectSpec[]).pop();
  delete (KERNELS as Record<string, unknown>).counter;
});
beforeEach(() => {
  Counter.told = [];
  Counter.music = [];
  Counter.passed = 0;
});

const note = (startFrame: number, lengthFrames: number, key = 60): PlanNote => ({
  startFrame,
  lengthFrames,
  key,
  velocity: 0.5,
});
const insert = (id: string, notes: readonly PlanNote[]): PlanInsert => ({
  id,
  effect: 'counter',
  bypass: false,
  values: [],
  notes,
});
const plan = (inserts: readonly PlanInsert[], more: Partial<Plan> = {}): Plan => ({
  sampleRate: RATE,
  framesPerBeat: 24000,
  endFrame: RATE,
  loop: null,
  strips: [planStrip('main', { inserts })],
  edges: [],
  ...more,
});

/** Output of an engine over a number of frames, in blocks of given sizes. */
function heard(engine: Engine, frames: number, sizes: readonly number[] = [128]): number[] {
  const out: number[] = [];
  for (let turn = 0; out.length < frames; turn++) {
    const count = Math.min(sizes[turn % sizes.length]!, frames - out.length);
    const left = new Float32Array(count);
    engine.renderBlock(left, new Float32Array(count), count);
    out.push(...left);
  }
  return out;
}

function playing(of: Plan, from = 0): Engine {
  const engine = new Engine(RATE);
  engine.applyPlan(of);
  engine.seek(from);
  engine.play();
  return engine;
}

const keysAt = (notes: readonly PlanNote[], frame: number) =>
  notes.filter(({ startFrame, lengthFrames }) => startFrame <= frame && frame < startFrame + lengthFrames).length;

describe('notes of an instrument', () => {
  it('begin and end on their frames, however the sound is cut, wherever playback begins', () => {
    const one = fc.record({ start: fc.integer({ min: 0, max: 1500 }), length: fc.integer({ min: 1, max: 900 }) });
    fc.assert(
      fc.property(
        fc.array(one, { maxLength: 8 }),
        fc.array(fc.integer({ min: 1, max: 128 }), { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 0, max: 1200 }),
        (all, sizes, from) => {
          const notes = all
            .map(({ start, length }, n) => note(start, length, 40 + n))
            .sort((a, b) => a.startFrame - b.startFrame);
          const out = heard(playing(plan([insert('i', notes)]), from), 1000, sizes);
          expect(out).toEqual(out.map((_, i) => keysAt(notes, from + i)));
        },
      ),
      { numRuns: thinned(60) },
    );
  });

  it('stay with the session over a jump, a loop, a stop and a start', () => {
    const notes = [note(100, 300), note(350, 500, 62)];
    const engine = playing(plan([insert('i', notes)], { loop: { startFrame: 200, endFrame: 600 } }));
    const looped = heard(engine, 1000);
    expect(looped).toEqual(looped.map((_, i) => keysAt(notes, i < 600 ? i : 200 + ((i - 600) % 400))));
    engine.seek(840);
    expect(heard(engine, 128)[0]).toBe(1);
    expect(heard(engine, 32).at(-1)).toBe(0);
    engine.seek(400);
    expect(heard(engine, 8)[0]).toBe(1);
    engine.stop();
    expect(heard(engine, 128).at(-1)).toBe(0);
    engine.play();
    expect(heard(engine, 8)[0]).toBe(1);
  });

  it('that go on over a change of others are not begun anew; those that go end', () => {
    const kept = note(0, 5000);
    const engine = playing(plan([insert('i', [kept, note(0, 4000, 64)])]));
    heard(engine, 256);
    engine.applyPlan(plan([insert('i', [kept, note(300, 100, 67)])]));
    heard(engine, 256);
    const told = Counter.told.map(({ frame, event }) => [frame, event.kind, 'key' in event ? event.key : 0]);
    expect(told).toEqual([
      [0, 'noteOn', 60],
      [0, 'noteOn', 64],
      [256, 'noteOff', 64],
      [300, 'noteOn', 67],
      [400, 'noteOff', 67],
    ]);
  });

  it('come late by what comes before delays the sound, and wake an instrument behind silence', () => {
    const limiter: PlanInsert = {
      id: 'l',
      effect: 'limiter',
      bypass: false,
      values: EFFECTS.find(({ id }) => id === 'limiter')!.parameters.map((one) =>
        one.kind === 'number' ? Number(one.default) : one.default ? 1 : 0,
      ),
    };
    const engine = playing(plan([limiter, insert('i', [note(100, 50)])]));
    const out = heard(engine, 2000);
    expect(out.indexOf(1)).toBe(100 + engine.strip('main')!.insert('l')!.latencyFrames);
  });

  it('can be played by hand, and the kernel is told tempo and scale', () => {
    const engine = playing(plan([insert('i', [])], { scale: [2, 4, 6] }));
    engine.change({ kind: 'event', insertId: 'i', event: { kind: 'noteOn', key: 50, velocity: 1 } });
    expect(heard(engine, 16)[0]).toBe(1);
    engine.change({ kind: 'event', insertId: 'i', event: { kind: 'noteOff', key: 50 } });
    expect(heard(engine, 16)[0]).toBe(0);
    engine.applyPlan(plan([insert('i', [])], { framesPerBeat: 20000, scale: [2, 4, 6] }));
    expect(Counter.music).toEqual([
      { framesPerBeat: 24000, scale: [2, 4, 6] },
      { framesPerBeat: 20000, scale: [2, 4, 6] },
    ]);
  });
});
