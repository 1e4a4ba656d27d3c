import { defaultValues } from '@/core/effects/spec';
import { effectById } from '@/core/effects/registry';
import { resolveSettings, resolveValues } from '@/core/effects/resolve';
import { PREPARERS } from '@/core/effects/preparers.generated';
import { resourceFor } from '@/core/effects/resource';
import { KinetikonError } from '@/core/errors';
import type { Plan, PlanInsert } from '@/core/engine/plan';
import { planClip, planStrip } from '@/core/engine/plans';
import { renderPlan } from '@/core/engine/render';
import type { FromWorklet, ToWorklet } from '@/core/protocol/worklet';
import { EngineClient } from './client/engineClient';

// The client and the processor of the audio thread, joined by stand-ins for what the browser has between them.
jest.mock('./client/kernels', () => {
  const { MODULE } = jest.requireActual<{ MODULE: string }>('@/core/wasm/embedded.generated');
  return { compiledKernels: async () => new WebAssembly.Module(Buffer.from(MODULE, 'base64')) };
});

const RATE = 48000;
const BLOCK = 128;

interface Processor {
  readonly port: { onmessage: (event: { data: ToWorklet }) => void };
  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean;
}
type NewProcessor = new (options: AudioWorkletNodeOptions) => Processor;

const registered = new Map<string, NewProcessor>();
let answer: (message: FromWorklet) => void = () => {};
/** Called after the first block of a node, which comes before any message. */
let onFirstBlock = () => {};

class StandInProcessor {
  readonly port = { onmessage: null, postMessage: (message: FromWorklet) => answer(structuredClone(message)) };
}

/** A context whose device is a call of `play`. */
class StandInContext {
  state: AudioContextState = 'suspended';
  onstatechange: (() => void) | null = null;
  readonly audioWorklet = { addModule: async () => import('./worklet/engineProcessor') };
  readonly destination = {};
  readonly baseLatency = 0.01;
  readonly outputLatency = 0.02;
  readonly sampleRate: number;
  readonly addEventListener = () => {};
  constructor({ sampleRate }: { sampleRate: number }) {
    this.sampleRate = sampleRate;
    contexts.push(this);
  }
  async resume() {
    this.state = 'running';
  }
  async close() {
    this.state = 'closed';
  }
  /** The device goes away. */
  lose() {
    this.state = 'closed';
    this.onstatechange?.();
  }
}
const contexts: StandInContext[] = [];
const nodes: StandInNode[] = [];

class StandInNode {
  readonly processor: Processor;
  readonly sent: ToWorklet[] = [];
  readonly port: { onmessage: ((event: { data: FromWorklet }) => void) | null; postMessage(message: ToWorklet): void };
  onprocessorerror: (() => void) | null = null;
  constructor(_context: StandInContext, name: string, options: AudioWorkletNodeOptions) {
    this.processor = new (registered.get(name)!)(options);
    this.port = {
      onmessage: null,
      postMessage: (message) => {
        this.sent.push(message);
        this.processor.port.onmessage({ data: structuredClone(message) });
      },
    };
    answer = (message) => this.port.onmessage?.({ data: message });
    nodes.push(this);
  }
  connect() {
    this.play(1);
    onFirstBlock();
  }
  disconnect() {}
  kinds() {
    return this.sent.map(({ kind }) => kind);
  }
  play(blocks: number): { left: Float32Array; right: Float32Array } {
    const [left, right] = [new Float32Array(blocks * BLOCK), new Float32Array(blocks * BLOCK)];
    for (let at = 0; at < left.length; at += BLOCK)
      this.processor.process([], [[left.subarray(at, at + BLOCK), right.subarray(at, at + BLOCK)]]);
    return { left, right };
  }
}

Object.assign(globalThis, {
  AudioWorkletProcessor: StandInProcessor,
  AudioContext: StandInContext,
  AudioWorkletNode: StandInNode,
  registerProcessor: (name: string, processor: NewProcessor) => registered.set(name, processor),
  sampleRate: RATE,
});

const SOUND = Float32Array.from({ length: RATE }, (_, n) => 0.3 * Math.sin(n / 20));
const shared = (sound: Float32Array) => {
  const out = new Float32Array(new SharedArrayBuffer(sound.byteLength));
  out.set(sound);
  return out;
};

function insert(id: string, effect: string, values = {}): PlanInsert {
  const spec = effectById(effect);
  const all = { ...defaultValues(spec), ...values };
  const resolved = resolveValues(spec, all, { tempoBpm: 60, beatsPerBar: 4 });
  const settings = resolveSettings(spec, all) ?? {};
  const resource = resourceFor(spec, RATE, resolved, settings);
  return { id, effect, bypass: false, values: resolved, settings, ...(resource ? { resource } : {}) } as PlanInsert;
}

function planWith(inserts: readonly PlanInsert[], gain = 1): Plan {
  return {
    sampleRate: RATE,
    framesPerBeat: RATE,
    endFrame: RATE,
    loop: null,
    strips: [
      planStrip('voice', { clips: [planClip('clip', RATE, { assetId: 'sound' })], inserts, gain }),
      planStrip('main'),
    ],
    edges: [{ id: 'out', fromId: 'voice', toId: 'main', tap: 'afterFader', gain: 1 }],
  };
}

function client() {
  contexts.length = nodes.length = 0;
  const problems: KinetikonError[] = [];
  const states: string[] = [];
  const engine = new EngineClient({
    onState: (state) => states.push(state),
    onProblem: (error) => problems.push(error),
    onFault: () => {},
  });
  open.push(engine);
  engine.setPlan(planWith([insert('echo', 'delay')]));
  engine.setSamples('sound', { left: shared(SOUND), right: shared(SOUND) });
  return { engine, problems, states, node: () => nodes.at(-1)!, context: () => contexts.at(-1)! };
}

/** Ended after each test, also after one that fails: a client looks after its context by a timer. */
const open: EngineClient[] = [];
afterEach(async () => {
  onFirstBlock = () => {};
  await Promise.all(open.splice(0).map((engine) => engine.dispose()));
});

describe('the engine client and the audio thread', () => {
  it('play the bits of a print, and tell where they are and how loud', async () => {
    const { engine, node } = client();
    expect(engine.state).toBe('off');
    await engine.play();
    const live = node().play(100);
    const plan = planWith([insert('echo', 'delay')]);
    const sounds = new Map([['sound', { left: SOUND, right: SOUND }]]);
    const print = renderPlan(plan, sounds, { fromFrame: 0, toFrame: 100 * BLOCK, tailSeconds: 0 })!;
    expect(Buffer.compare(Buffer.from(live.left.buffer), Buffer.from(print.left.slice(0, 100 * BLOCK).buffer))).toBe(0);
    expect([engine.state, engine.playing, engine.heardFrame]).toEqual(['running', true, 100 * BLOCK]);
    expect(engine.level('voice').left).toBeGreaterThan(0.2);
    expect(engine.level('nowhere')).toEqual({ left: 0, right: 0 });
    engine.stop();
    node().play(1);
    expect(engine.playing).toBe(false);
  });

  it('hand over what was set before the thread was there', async () => {
    const { engine, node } = client();
    engine.setGuard(false);
    engine.seek(4800);
    await engine.prepare();
    expect(node().kinds()).toEqual(['samples', 'plan', 'guard']);
    expect(engine.state).toBe('waiting');
    await engine.play();
    node().play(1);
    expect(engine.heardFrame).toBe(4800 + BLOCK);
  });

  it('report the position of before from the first block of a new thread on', async () => {
    const { engine, node, context } = client();
    await engine.play();
    node().play(10);
    const recovered = new Promise<number>((resolve) => (onFirstBlock = () => resolve(engine.heardFrame)));
    context().lose();
    expect(await recovered).toBe(10 * BLOCK);
  });

  it('send only values that changed, a plan where its shape did, and nothing for the same', async () => {
    const { engine, node } = client();
    await engine.play();
    const before = node().sent.length;
    engine.setPlan(planWith([insert('echo', 'delay')]));
    engine.setPlan(planWith([insert('echo', 'delay')], 0.5));
    engine.setPlan(planWith([insert('echo', 'delay', { mix: 80 })], 0.5));
    engine.setPlan(planWith([], 0.5));
    expect(node().kinds().slice(before)).toEqual(['changes', 'changes', 'plan']);
    node().play(40);
    const { left } = node().play(1);
    for (let n = 0; n < BLOCK; n++) expect(left[n]).toBeCloseTo(0.5 * SOUND[40 * BLOCK + n]!, 4);
  });

  it('say which change was refused, and play on', async () => {
    const { engine, problems, node } = client();
    await engine.play();
    node().port.postMessage({ kind: 'plan', plan: { order: ['nowhere'] } as never });
    expect(problems.map(({ code }) => code)).toEqual(['engine.stopped']);
    expect(
      node()
        .play(2)
        .left.some((x) => x !== 0),
    ).toBe(true);
  });

  it('begin again where a lost device stopped, once, and not over and over', async () => {
    const { engine, problems, states, node, context } = client();
    await engine.play();
    node().play(10);
    const settle = async () => {
      for (let turn = 0; turn < 20; turn++) await new Promise((resolve) => setImmediate(resolve));
    };
    context().lose();
    await settle();
    expect([contexts.length, nodes.length, problems.map(({ code }) => code)]).toEqual([2, 2, ['engine.recovered']]);
    expect(states).toContain('lost');
    node().play(1);
    expect([engine.playing, engine.heardFrame]).toEqual([true, 11 * BLOCK]);
    context().lose();
    await settle();
    expect([contexts.length, problems.at(-1)!.code, engine.state]).toEqual([2, 'engine.stopped', 'off']);
    await engine.play();
    expect([contexts.length, engine.state]).toEqual([3, 'running']);
  });

  it('ask for prepared sounds until they are there, and forget them once no plan needs them', async () => {
    const { engine, node } = client();
    const space = insert('space', 'convolution');
    engine.setPlan(planWith([space]));
    await engine.play();
    expect(engine.missingResources().map(({ id }) => id)).toEqual(['space']);
    const { values, settings } = space;
    const prepared = PREPARERS.convolution!({ sampleRate: RATE, values, settings: settings!, sound: null });
    engine.setResource(space.resource!.key, prepared);
    expect([engine.missingResources(), node().kinds().at(-1)]).toEqual([[], 'resource']);
    engine.setPlan(planWith([]));
    expect(engine.missingResources()).toEqual([]);
    engine.setPlan(planWith([space]));
    expect(engine.missingResources().map(({ id }) => id)).toEqual(['space']);
  });

  it('watch a place for as long as anybody looks', async () => {
    const { engine, node } = client();
    await engine.play();
    const before = node().sent.length;
    const [first, second] = [engine.watch('echo'), engine.watch('echo')];
    expect(first.probe).toBe(second.probe);
    first.end();
    expect(node().kinds().slice(before)).toEqual(['probe']);
    second.end();
    expect(node().sent.at(-1)).toEqual({ kind: 'probe', targetId: 'echo', memory: null });
  });

  it('end with a session of another rate, whose sounds come anew', async () => {
    const { engine, node } = client();
    await engine.play();
    engine.setPlan({ ...planWith([]), sampleRate: 44100 });
    expect(engine.state).toBe('off');
    await engine.prepare();
    expect([contexts.at(-1)!.sampleRate, node().kinds().includes('samples')]).toEqual([44100, false]);
  });

  it('play a key by hand and say what the device takes', async () => {
    const { engine, node } = client();
    engine.setPlan(planWith([insert('lead', 'synth')]));
    await engine.wake();
    engine.happen('lead', { kind: 'noteOn', key: 60, velocity: 1, byHand: true });
    expect(
      node()
        .play(40)
        .left.some((x) => Math.abs(x) > 0.01),
    ).toBe(true);
    expect(engine.outputSeconds).toBeCloseTo(0.03, 9);
  });
});
