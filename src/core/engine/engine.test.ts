import { db, firstDifference, impulse, largest, largestBend, sine } from '../../../test/support/render';
import { jest } from '@jest/globals';
import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import type { ParameterValues } from '../effects/spec';
import { Engine } from './engine';
import { type Plan, type PlanClip, type PlanEdge, type PlanInsert, type PlanStrip, type Samples } from './plan';
import { changesBetween } from './planChanges';
import { planStrip } from './plans';
import { renderPlan, tailOf } from './render';

const RATE = 48000;

const insert = (id: string, effect: string, values: ParameterValues = {}, bypass = false): PlanInsert => ({
  id,
  effect,
  values: resolveValues(effectById(effect), values, { tempoBpm: 84, beatsPerBar: 3 }),
  bypass,
});

const clip = (assetId: string, more: Partial<PlanClip> = {}): PlanClip => ({
  id: `clip-${assetId}`,
  assetId,
  startFrame: 0,
  offsetFrame: 0,
  lengthFrames: RATE,
  gain: 1,
  fadeInFrames: 0,
  fadeOutFrames: 0,
  ...more,
});

const track = (id: string, clips: PlanClip[], inserts: PlanInsert[] = [], more: Partial<PlanStrip> = {}): PlanStrip =>
  planStrip(id, { clips, inserts, ...more });

const out = (from: string, to = 'main', more: Partial<PlanEdge> = {}): PlanEdge => ({
  id: `${from}>${to}`,
  fromId: from,
  toId: to,
  tap: 'afterFader',
  gain: 1,
  ...more,
});

/** Tracks that all feed the main output. */
const plan = (tracks: PlanStrip[], main: PlanInsert[] = [], more: Partial<Plan> = {}): Plan => ({
  sampleRate: RATE,
  framesPerBeat: 34286,
  endFrame: RATE,
  loop: null,
  strips: [...tracks, planStrip('main', { inserts: main })],
  edges: tracks.map(({ id }) => out(id)),
  ...more,
});

const both = (sound: Float32Array): Samples => ({ left: sound, right: sound });
const samples = new Map<string, Samples>([
  ['impulse', both(impulse(RATE))],
  ['tone', both(sine(100, RATE, RATE * 2, 0.5))],
  ['low', both(sine(60, RATE, RATE * 2, 0.4))],
]);

function live(first: Plan): { engine: Engine; play: (frames: number, size?: number) => Float32Array } {
  const engine = new Engine(RATE);
  for (const [id, sound] of samples) engine.setSamples(id, sound);
  engine.applyPlan(first);
  const play = (frames: number, size = 128) => {
    const out = new Float32Array(frames);
    const right = new Float32Array(128);
    for (let at = 0; at < frames; at += size) {
      const count = Math.min(size, frames - at);
      engine.renderBlock(out.subarray(at, at + count), right, count);
    }
    return out;
  };
  return { engine, play };
}

describe('engine', () => {
  it('plays clips where they stand, with offset, gain and fades', () => {
    const range = { fromFrame: 0, toFrame: 4800, tailSeconds: 0 };
    const at = renderPlan(plan([track('a', [clip('impulse', { startFrame: 1000, gain: 0.5 })])]), samples, range)!;
    expect(at.left[1000]).toBe(0.5);
    expect(at.left.filter((x) => x !== 0)).toHaveLength(1);
    const tone = samples.get('tone')!.left;
    const cut = clip('tone', {
      startFrame: 100,
      offsetFrame: 600,
      lengthFrames: 2000,
      fadeInFrames: 400,
      fadeOutFrames: 800,
    });
    const faded = renderPlan(plan([track('a', [cut])]), samples, range)!.left;
    expect(faded[99]).toBe(0);
    expect(faded[100 + 200]).toBeCloseTo(tone[800]! * 0.5, 5);
    expect(faded[100 + 1000]).toBe(tone[1600]);
    expect(faded[100 + 1600]).toBeCloseTo(tone[2200]! * 0.5, 5);
    expect(faded[2100]).toBe(0);
  });

  it('moves the far side into the near one where stereo pan is asked for, in the power that it had', () => {
    const sides = { left: sine(1000, RATE, RATE, 0.3), right: sine(1700, RATE, RATE, 0.2) };
    const heard = (pan: number, more: Partial<PlanStrip> = {}) =>
      renderPlan(
        plan([track('a', [clip('sides')], [], { pan, stereoPan: true, ...more })]),
        new Map([['sides', sides]]),
        { fromFrame: 0, toFrame: RATE, tailSeconds: 0 },
      )!;
    const power = ({ left, right }: Samples) =>
      left.reduce((sum, x) => sum + x * x, 0) + right.reduce((sum, x) => sum + x * x, 0);
    const whole = power(heard(0));
    for (const pan of [-1, -0.4, 0.7, 1]) expect(power(heard(pan)) / whole).toBeCloseTo(1, 4);
    const hard = heard(-1);
    expect(largest(hard.right)).toBe(0);
    for (let n = 0; n < RATE; n += 389) expect(hard.left[n]).toBeCloseTo(sides.left[n]! + sides.right[n]!, 6);
    // Along a curve that stays where it is, it is the same.
    const curve = { frames: [0, RATE], values: [-0.4, -0.4] };
    const [still, along] = [heard(-0.4), heard(0, { curves: { pan: curve } })];
    for (let n = 0; n < RATE; n += 389) {
      expect(along.left[n]).toBeCloseTo(still.left[n]!, 6);
      expect(along.right[n]).toBeCloseTo(still.right[n]!, 6);
    }
  });

  it('sums tracks through fader, pan and mute', () => {
    const range = { fromFrame: 0, toFrame: 100, tailSeconds: 0 };
    const out = renderPlan(
      plan([
        track('a', [clip('impulse')], [], { gain: 0.5 }),
        track('b', [clip('impulse', { startFrame: 1 })], [], { pan: -1 }),
        track('c', [clip('impulse', { startFrame: 2 })], [], { audible: false }),
        track('d', [clip('impulse', { startFrame: 3 })], [], { pan: 0.5 }),
      ]),
      samples,
      range,
    )!;
    expect([...out.left.slice(0, 4)]).toEqual([0.5, 1, 0, Math.fround(Math.SQRT1_2)]);
    expect([...out.right.slice(0, 4)]).toEqual([0.5, 0, 0, 1]);
  });

  it('brings paths of different latency together, and cuts latency off a print', () => {
    const limited = track(
      'a',
      [clip('impulse', { startFrame: 5, gain: 0.4 })],
      [insert('l', 'limiter'), insert('l2', 'limiter')],
    );
    const direct = track('b', [clip('impulse', { startFrame: 5, gain: 0.4 })]);
    const out = renderPlan(plan([limited, direct], [insert('m', 'limiter')]), samples, {
      fromFrame: 0,
      toFrame: 200,
      tailSeconds: 0,
    })!;
    expect(out.left[5]).toBeCloseTo(0.8, 6);
    expect(largest(out.left.filter((_, n) => n !== 5))).toBeLessThan(1e-7);
  });

  it('gives the same bits for any block size, live or printed', () => {
    const full = plan([
      track(
        'a',
        [clip('tone', { startFrame: 77 })],
        [insert('d', 'delay', { 'lines.1.modDepth': 20, 'lines.1.timeLeft': 40 })],
      ),
      track('b', [clip('low')], [insert('l', 'limiter', { ceiling: -12 })], { pan: 0.3 }),
    ]);
    const printed = renderPlan(full, samples, { fromFrame: 0, toFrame: 9000, tailSeconds: 0.5 })!.left;
    for (const size of [128, 37, 1]) {
      const { engine, play } = live(full);
      engine.play();
      const late = engine.latencyFrames;
      expect(late).toBe(552);
      expect(firstDifference(play(9000, size).slice(late), printed.slice(0, 9000 - late))).toBe(-1);
    }
  });

  it('waits for the tail when asked', () => {
    const echo = plan([
      track(
        'a',
        [clip('impulse')],
        [insert('d', 'delay', { 'lines.1.timeLeft': 250, 'lines.1.feedback': 50, mix: 50 })],
      ),
    ]);
    const out = renderPlan(echo, samples, { fromFrame: 0, toFrame: 1000, tailSeconds: 'auto' })!.left;
    expect(out.length).toBeGreaterThan(3 * RATE);
    expect(out[12000 * 3]).toBeCloseTo(Math.SQRT1_2 * 0.25, 5);
    expect(db(largest(out.slice(-12000)))).toBeLessThan(-85);
  });

  it('stops a print when told', () => {
    const long = plan([track('a', [clip('tone')])]);
    expect(renderPlan(long, samples, { fromFrame: 0, toFrame: RATE * 5, tailSeconds: 0 }, () => false)).toBeNull();
  });

  it('loops on the frame and keeps the attack at the loop start', () => {
    const looped = plan([track('a', [clip('impulse', { startFrame: 480, lengthFrames: 10 })])], [], {
      loop: { startFrame: 480, endFrame: 1480 },
    });
    const { engine, play } = live(looped);
    engine.play();
    const out = play(4000);
    expect(out.filter((x) => x !== 0)).toHaveLength(4);
    for (const at of [480, 1480, 2480, 3480]) expect(out[at]).toBe(1);
  });

  const bendOfTone = 0.5 * ((2 * Math.PI * 100) / RATE) ** 2;
  const clickFree = (sound: Float32Array) => expect(largestBend(sound) - bendOfTone).toBeLessThan(0.0015);

  it('seeks, loops, stops and starts without clicks', () => {
    const { engine, play } = live(
      plan([track('a', [clip('tone', { lengthFrames: 2 * RATE })])], [], {
        loop: { startFrame: 3131, endFrame: 20017 },
      }),
    );
    engine.play();
    const parts = [play(1280)];
    engine.seek(9137);
    parts.push(play(2560));
    engine.stop();
    parts.push(play(640));
    engine.play();
    parts.push(play(25600));
    const whole = Float32Array.from(parts.flatMap((part) => [...part]));
    clickFree(whole);
    expect(largest(whole)).toBeLessThan(0.76);
  });

  it('swaps plans without clicks and keeps the state of what stays', () => {
    const echo = insert('echo', 'delay', { 'lines.1.timeLeft': 100, 'lines.1.feedback': 60, mix: 60 });
    const cut = insert('cut', 'utility', { lowCut: 300 });
    const louder = insert('louder', 'utility', { gain: 3 });
    const base = (inserts: PlanInsert[]) =>
      plan([track('a', [clip('tone', { lengthFrames: 2 * RATE, fadeInFrames: 2400 })], inserts)]);
    const { engine, play } = live(base([echo]));
    engine.play();
    const parts = [play(12800)];
    for (const inserts of [[echo, cut], [cut, echo], [cut, louder, echo], [echo], []]) {
      engine.applyPlan(base(inserts));
      parts.push(play(3840));
    }
    clickFree(Float32Array.from(parts.flatMap((part) => [...part])).slice(128));

    const tail = live(base([echo]));
    tail.engine.play();
    tail.play(12800);
    tail.engine.stop();
    tail.play(512);
    tail.engine.applyPlan(base([echo, insert('flat', 'utility')]));
    expect(largest(tail.play(4800))).toBeGreaterThan(0.05);
  });

  it('edits clips, tempo, strips and bypass while sounding without clicks', () => {
    const of = (start: number, perBeat = 34286, bypass = false) =>
      plan(
        [
          track(
            'a',
            [clip('tone', { startFrame: start, lengthFrames: 2 * RATE })],
            [insert('u', 'utility', { gain: -6 }, bypass)],
          ),
        ],
        [],
        { framesPerBeat: perBeat },
      );
    const { engine, play } = live(of(0));
    engine.play();
    const parts = [play(6400)];
    engine.applyPlan(of(-777));
    parts.push(play(2560));
    engine.applyPlan(of(-777, 30000));
    parts.push(play(2560));
    const changes = changesBetween(of(-777, 30000), of(-777, 30000, true))!;
    expect(changes).toEqual([{ kind: 'bypass', insertId: 'u', bypass: true }]);
    changes.forEach((change) => engine.change(change));
    parts.push(play(2560));
    engine.change({ kind: 'level', stripId: 'a', gain: 0.2, pan: 0.7, stereoPan: true, audible: true });
    parts.push(play(2560));
    clickFree(Float32Array.from(parts.flatMap((part) => [...part])));
  });

  it('tells parameter changes from new plans', () => {
    const of = (mix: number, gain: number, inserts = 1) =>
      plan([
        track(
          'a',
          [clip('tone')],
          Array.from({ length: inserts }, (_, i) => insert(`d${i}`, 'delay', { mix })),
          { gain },
        ),
      ]);
    expect(changesBetween(of(30, 1), of(40, 0.5))).toEqual([
      { kind: 'level', stripId: 'a', gain: 0.5, pan: 0, stereoPan: false, audible: true },
      { kind: 'parameter', insertId: 'd0', index: effectById('delay').parameters.length - 1, value: 40 },
    ]);
    expect(changesBetween(of(30, 1), of(30, 1))).toEqual([]);
    expect(changesBetween(of(30, 1), of(30, 1, 2))).toBeNull();
  });

  it('resets an effect that puts out what is not finite, counts it, and plays on', () => {
    const broken = new Float32Array(RATE);
    broken[1000] = NaN;
    const { engine, play } = live(
      plan([
        track('a', [clip('broken')], [insert('d', 'delay', { 'lines.1.timeLeft': 10 })]),
        track('b', [clip('tone')]),
      ]),
    );
    engine.setSamples('broken', both(broken));
    engine.play();
    const out = play(RATE / 2);
    expect(out.every(Number.isFinite)).toBe(true);
    expect(engine.strip('a')!.faults).toEqual([{ id: 'd', count: expect.any(Number) }]);
    expect(largest(out)).toBeCloseTo(0.5, 2);
  });
});

describe('routing', () => {
  const range = { fromFrame: 0, toFrame: 2000, tailSeconds: 0 };
  const routed = (strips: PlanStrip[], edges: PlanEdge[]): Plan => plan([], [], { strips, edges });
  const main = planStrip('main');

  it('sends after and before the fader, into one return that works once for all', () => {
    const tracks = ['a', 'b', 'c'].map((id, place) =>
      track(id, [clip('impulse', { startFrame: place * 100 })], [], { gain: id === 'b' ? 0 : 0.5 }),
    );
    const wet = planStrip('wet', { inserts: [insert('d', 'delay', { 'lines.1.timeLeft': 10, mix: 100 })] });
    const edges = [
      ...tracks.map(({ id }) => out(id)),
      out('a', 'wet', { gain: 0.5 }),
      out('b', 'wet', { gain: 0.5, tap: 'beforeFader' }),
      out('c', 'wet', { gain: 0.25, tap: 'beforeFader' }),
      out('wet'),
    ];
    const heard = renderPlan(routed([...tracks, wet, main], edges), samples, range)!.left;
    expect([heard[0], heard[100], heard[200]]).toEqual([0.5, 0, 0.5]);
    expect(heard[480]).toBeCloseTo(0.25, 6);
    expect(heard[580]).toBeCloseTo(0.5, 6);
    expect(heard[680]).toBeCloseTo(0.25, 6);
    const engine = new Engine(RATE);
    engine.applyPlan(routed([...tracks, wet, main], edges));
    const [only] = engine.strip('wet')!.inserts;
    const process = jest.spyOn(only!.kernel, 'process');
    engine.renderBlock(new Float32Array(128), new Float32Array(128), 128);
    expect(process).toHaveBeenCalledTimes(1);
    expect(tracks.flatMap(({ id }) => [...engine.strip(id)!.inserts])).toEqual([]);
  });

  it('sends nothing of a strip that has fallen silent, while the level of its send moves on', () => {
    const curve = { frames: [0, RATE], values: [1, 0.5] };
    const short = track('a', [clip('tone', { lengthFrames: 300 })]);
    const edges = [out('a', 'wet', { tap: 'beforeFader', curve }), out('wet')];
    const heard = renderPlan(routed([short, planStrip('wet'), main], edges), samples, range)!.left;
    expect(largest(heard.slice(0, 300))).toBeGreaterThan(0.2);
    expect(largest(heard.slice(300))).toBe(0);
  });

  it('passes over strips whose effects rest, and the paths behind them, until something sounds again', () => {
    const early = clip('tone', { lengthFrames: 2000 });
    const strips = [
      track('a', [early, { ...early, id: 'again', startFrame: 4 * RATE }], [insert('e', 'eq', { 'bands.2.on': true })]),
      planStrip('late', { inserts: [insert('s', 'saturator')] }),
      planStrip('wet', { inserts: [insert('u', 'utility')] }),
      main,
    ];
    const { engine, play } = live(routed(strips, [out('a', 'late'), out('late', 'wet'), out('wet')]));
    engine.play();
    const sounding = () => strips.map(({ id }) => engine.strip(id)!.isSounding);
    expect(largest(play(4096))).toBeGreaterThan(0.2);
    expect(sounding()).toEqual([true, true, true, true]);
    play(4 * RATE - 8192);
    expect(sounding()).toEqual([false, false, false, false]);
    const latency = engine.latencyFrames;
    expect(latency).toBeGreaterThan(0);
    const again = play(8192).slice(4096 + latency);
    expect(largest(again.slice(0, 2000))).toBeGreaterThan(0.2);
    const whole = renderPlan(routed(strips, [out('a', 'late'), out('late', 'wet'), out('wet')]), samples, {
      fromFrame: 4 * RATE,
      toFrame: 4 * RATE + 2000,
      tailSeconds: 0,
    })!;
    expect(largest(again.slice(0, 2000).map((x, n) => x - whole.left[n]!))).toBeLessThan(1e-6);
  });

  it('lands a direct path, a send, a nested send and a keyed effect on one frame, whatever their latency', () => {
    const at = clip('impulse', { startFrame: 300, gain: 0.3 });
    const late = (id: string) => insert(id, 'limiter');
    const strips = [
      track('plain', [at]),
      track('slow', [at], [late('l1')]),
      planStrip('first', { inserts: [late('l2')] }),
      planStrip('second', {
        inserts: [late('l3'), { ...insert('k', 'utility'), inputs: { key: { stripId: 'slow', tap: 'beforeFader' } } }],
      }),
      main,
    ];
    const edges = [
      out('plain'),
      out('slow'),
      out('plain', 'first'),
      out('slow', 'second'),
      out('first', 'second'),
      out('first'),
      out('second'),
    ];
    const heard = renderPlan(routed(strips, edges), samples, range)!.left;
    // plain, slow, first, second with slow and with first
    expect(heard[300]).toBeCloseTo(5 * 0.3, 5);
    expect(largest(heard.filter((_, frame) => frame !== 300))).toBeLessThan(1e-6);
  });

  it('brings a key to its effect in step with what the effect works on', () => {
    const seen: number[] = [];
    const slowKey = track('key', [clip('impulse', { startFrame: 40, gain: 0.2 })], [insert('l', 'limiter')]);
    const keyed = track(
      'sound',
      [clip('impulse', { startFrame: 40, gain: 0.2 })],
      [{ ...insert('k', 'gate'), inputs: { key: { stripId: 'key', tap: 'beforeFader' } } }],
    );
    const engine = new Engine(RATE);
    for (const [id, sound] of samples) engine.setSamples(id, sound);
    engine.applyPlan(routed([slowKey, keyed, main], [out('sound')]));
    const [node] = engine.strip('sound')!.inserts;
    jest.spyOn(node!.kernel, 'process').mockImplementation((left, _right, frames, inputs) => {
      for (let i = 0; i < frames; i++) if (left[i]! > 0.1 && inputs![0]!.left[i]! > 0.1) seen.push(i);
    });
    engine.play();
    for (let block = 0; block < 20; block++) engine.renderBlock(new Float32Array(128), new Float32Array(128), 128);
    expect(seen).toHaveLength(1);
    expect(engine.latencyFrames).toBe(engine.strip('key')!.latencyFrames);
  });

  it('brings a key in step with its effect behind one that has latency, from a track that has none', () => {
    const keyed = track(
      'sound',
      [clip('impulse', { startFrame: 40, gain: 0.2 })],
      [
        insert('before', 'limiter'),
        { ...insert('k', 'gate'), inputs: { key: { stripId: 'key', tap: 'beforeFader' } } },
        insert('after', 'limiter'),
      ],
    );
    const engine = new Engine(RATE);
    for (const [id, sound] of samples) engine.setSamples(id, sound);
    const key = track('key', [clip('impulse', { startFrame: 40, gain: 0.2 })]);
    engine.applyPlan(routed([key, keyed, main], [out('sound')]));
    const node = engine.strip('sound')!.insert('k')!;
    const [seen, steered] = [[] as number[], [] as number[]];
    let frame = 0;
    jest.spyOn(node.kernel, 'process').mockImplementation((left, _right, frames, inputs) => {
      for (let i = 0; i < frames; i++) {
        if (left[i]! > 0.1) seen.push(frame + i);
        if (inputs![0]!.left[i]! > 0.1) steered.push(frame + i);
      }
      frame += frames;
    });
    engine.play();
    for (let block = 0; block < 20; block++) engine.renderBlock(new Float32Array(128), new Float32Array(128), 128);
    expect(steered).toHaveLength(1);
    expect(steered).toEqual(seen);
  });

  it('routes, unroutes and removes returns without clicks', () => {
    const tone = track('a', [clip('tone', { lengthFrames: 2 * RATE })]);
    const wet = planStrip('wet', { inserts: [insert('d', 'delay', { 'lines.1.timeLeft': 20, mix: 100 })] });
    const none = routed([tone, main], [out('a')]);
    const sent = routed([tone, wet, main], [out('a'), out('a', 'wet', { gain: 0.6 }), out('wet')]);
    const early = routed([tone, wet, main], [out('a'), out('a', 'wet', { gain: 0.6, tap: 'beforeFader' }), out('wet')]);
    const { engine, play } = live(none);
    engine.play();
    const parts = [play(6400)];
    for (const next of [sent, early, none]) {
      engine.applyPlan(next);
      parts.push(play(6400));
    }
    const bend = 0.5 * ((2 * Math.PI * 100) / RATE) ** 2;
    const whole = Float32Array.from(parts.flatMap((part) => [...part]));
    expect(largestBend(whole.slice(128)) - 2 * bend).toBeLessThan(0.0015);
    expect(engine.strip('wet')).toBeUndefined();
  });
});

describe('automation', () => {
  const range = { fromFrame: 0, toFrame: 8000, tailSeconds: 0 };
  const ones = new Map([['one', both(new Float32Array(RATE).fill(1))]]);
  const steady = (more: Partial<PlanStrip>, inserts: PlanInsert[] = [], gain = 1) =>
    plan([track('a', [clip('one', { gain })], inserts, more)]);

  it('follows a fader curve to the frame, and holds at its ends', () => {
    const curve = { frames: [1000, 3000], values: [0.25, 0.75] };
    const heard = renderPlan(steady({ curves: { gain: curve } }), ones, range)!.left;
    expect(heard[0]).toBe(0.25);
    expect(heard[1000]).toBeCloseTo(0.25, 6);
    expect(heard[2000]).toBeCloseTo(0.5, 6);
    expect(heard[2999]).toBeCloseTo(0.75 - 0.5 / 2000, 6);
    expect(heard[7999]).toBe(0.75);
  });

  it('takes leaps within 15 ms and without a click', () => {
    const curve = { frames: [0, 2000, 2000, 8000], values: [1, 1, 0.2, 0.2] };
    const heard = renderPlan(steady({ curves: { gain: curve } }), ones, range)!.left;
    expect(heard[1999]).toBe(1);
    expect(heard[2000 + 720]).toBeCloseTo(0.2, 6);
    expect(largestBend(heard)).toBeLessThan(0.002);
  });

  it('moves a parameter of an effect along its curve, corner by corner, whatever the block length', () => {
    const gain = effectById('utility').parameters.findIndex((parameter) => parameter.id === 'gain');
    const curve = { frames: [1003, 5003], values: [0, -12] };
    const moved = steady({}, [{ ...insert('u', 'utility'), curves: [{ index: gain, curve }] }]);
    const heard = renderPlan(moved, ones, range)!.left;
    for (const [frame, level] of [
      [1000, 0],
      [2003, -3],
      [3003, -6],
      [4003, -9],
      [6000, -12],
    ] as const) {
      expect(db(heard[frame]!)).toBeCloseTo(level, 2);
    }
    const { engine, play } = live(moved);
    engine.setSamples('one', ones.get('one')!);
    engine.play();
    expect(firstDifference(play(6000, 41), heard.slice(0, 6000))).toBe(-1);
  });

  it('is seen by what is delayed at the place the sound comes from', () => {
    const curve = { frames: [3000, 3000], values: [0, 0.5] };
    const late = steady({ curves: { gain: curve } }, [insert('l', 'limiter')], 0.5);
    const direct = steady({ curves: { gain: curve } }, [], 0.5);
    const [a, b] = [late, direct].map((one) => renderPlan(one, ones, range)!.left);
    expect(largest(a!.map((x, frame) => x - b![frame]!))).toBeLessThan(1e-6);
    expect(a!.findIndex((x) => x > 0)).toBe(b!.findIndex((x) => x > 0));
  });

  it('moves the gain of a clip', () => {
    const faded = plan([track('a', [clip('one', { gainCurve: { frames: [0, 4000], values: [0, 1] } })])]);
    const heard = renderPlan(faded, ones, range)!.left;
    expect(heard[2000]).toBeCloseTo(0.5, 6);
    expect(heard[5000]).toBe(1);
  });
});

describe('the tail of a plan', () => {
  const room = insert('room', 'delay', { 'lines.1.feedback': 80, mix: 50 });
  const tailOfPlan = (strips: PlanStrip[], edges?: PlanEdge[]) =>
    tailOf(plan(strips, [], edges ? { edges } : {}), samples);

  it('counts what can be heard: no muted, unfed or bypassed strip', () => {
    const heard = tailOfPlan([track('a', [clip('tone')], [room])]);
    expect(heard).toBeGreaterThan(1);
    expect(tailOfPlan([track('a', [clip('tone')], [room], { audible: false })])).toBe(0);
    expect(tailOfPlan([track('a', [], [room])])).toBe(0);
    expect(tailOfPlan([track('a', [clip('tone')], [{ ...room, bypass: true }])])).toBe(0);
    const send = [out('a'), out('a', 'wet', { id: 'send', gain: 0 }), out('wet')];
    expect(tailOfPlan([track('a', [clip('tone')]), track('wet', [], [room])], send)).toBe(0);
    send[1] = { ...send[1]!, gain: 0.5 };
    expect(tailOfPlan([track('a', [clip('tone')]), track('wet', [], [room])], send)).toBe(heard);
  });

  it('counts the release of an instrument that has notes', () => {
    const synth = insert('synth', 'synth', { release: 2000 });
    const notes = [{ frame: 0, length: RATE / 2, key: 60, velocity: 1 }] as never;
    expect(tailOfPlan([track('a', [], [synth])])).toBe(0);
    expect(tailOfPlan([track('a', [], [{ ...synth, notes }])])).toBeGreaterThan(2);
  });
});
