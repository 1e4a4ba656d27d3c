import { db, firstDifference, impulse, largest, largestBend, sine } from '../../../test/support/render';
import { pitchTrack } from '../../../test/support/pitch';
import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import { exactValueAt, positionOf } from '../effects/scale';
import { findParameter, type NumberParameter, type ParameterValues } from '../effects/spec';
import { Engine } from './engine';
import type { Plan, PlanCurve, PlanInsert, PlanModulation, PlanSource, Samples } from './plan';
import { planClip, planStrip } from './plans';
import { renderPlan } from './render';

const RATE = 48000;
const TIMING = { tempoBpm: 84, beatsPerBar: 3 };
const parameterOf = (effect: string, id: string) => findParameter(effectById(effect), id) as NumberParameter;
const indexOf = (effect: string, id: string) => effectById(effect).parameters.findIndex((one) => one.id === id);

function moved(effect: string, id: string, source: PlanSource, more: Partial<PlanModulation> = {}): PlanModulation {
  const { min, max, scale } = parameterOf(effect, id);
  return {
    id: `m>${id}`,
    index: indexOf(effect, id),
    ruler: { min, max, scale },
    source,
    depth: 0.2,
    polarity: 'both',
    smoothingSeconds: 0,
    ...more,
  };
}

const insert = (effect: string, values: ParameterValues, more: Partial<PlanInsert> = {}): PlanInsert => ({
  id: 'one',
  effect,
  values: resolveValues(effectById(effect), values, TIMING),
  bypass: false,
  ...more,
});

/** One strip that plays a sound through effects, and another sound on a strip of its own that nobody hears. */
function planOf(inserts: readonly PlanInsert[], seconds: number): Plan {
  const frames = seconds * RATE;
  return {
    sampleRate: RATE,
    framesPerBeat: RATE,
    endFrame: frames,
    loop: null,
    strips: [
      planStrip('other', { clips: [planClip('other', frames)] }),
      planStrip('sound', { clips: [planClip('sound', frames)], inserts }),
    ],
    edges: [],
  };
}

function play(
  inserts: readonly PlanInsert[],
  sound: Float32Array,
  other = new Float32Array(sound.length),
  fromFrame = 0,
): Samples {
  const samples = new Map([
    ['sound', { left: sound, right: sound }],
    ['other', { left: other, right: other }],
  ]);
  const plan = planOf(inserts, sound.length / RATE);
  return renderPlan(plan, samples, { fromFrame, toFrame: sound.length, tailSeconds: 0 })!;
}

const oscillator = (rateHz: number, phase = 0): PlanSource => ({
  kind: 'oscillator',
  shape: 'sine',
  rateHz,
  phase,
  seed: 1,
});
const constant = (seconds: number) => new Float32Array(seconds * RATE).fill(0.5);
const gainIn = (sound: Float32Array, frame: number) => db(sound[frame]! / 0.5);

describe('modulation', () => {
  it('moves a parameter along its ruler as its source says, with the phase that is set', () => {
    const { ruler } = moved('utility', 'gain', oscillator(2));
    for (const phase of [0, 0.25]) {
      const one = insert('utility', { gain: 0 }, { modulations: [moved('utility', 'gain', oscillator(2, phase))] });
      const out = play([one], constant(2)).left;
      for (let frame = 2000; frame < 2 * RATE; frame += 1777) {
        const course = Math.sin(2 * Math.PI * ((2 * frame) / RATE + phase));
        const expected = exactValueAt(ruler, positionOf(ruler, 0) + 0.2 * course);
        expect(Math.abs(gainIn(out, frame) - expected)).toBeLessThan(0.06);
      }
    }
  });

  it.each([
    ['both', -1, 1],
    ['up', 0, 1],
    ['down', -1, 0],
  ] as const)('goes %s', (polarity, low, high) => {
    const modulation = moved('utility', 'gain', oscillator(2), { polarity });
    const { ruler } = modulation;
    const out = play([insert('utility', { gain: 0 }, { modulations: [modulation] })], constant(2)).left.slice(RATE);
    const found = Array.from(out, (x) => db(x / 0.5));
    const at = (away: number) => exactValueAt(ruler, positionOf(ruler, 0) + 0.2 * away);
    expect(Math.abs(Math.max(...found) - at(high))).toBeLessThan(0.05);
    expect(Math.abs(Math.min(...found) - at(low))).toBeLessThan(0.05);
  });

  it('adds to automation, and several add up, never past the ends of the ruler', () => {
    const curve: PlanCurve = { frames: [0, RATE], values: [-12, 12] };
    const index = indexOf('utility', 'gain');
    const one = insert(
      'utility',
      {},
      {
        curves: [{ index, curve }],
        modulations: [
          moved('utility', 'gain', oscillator(3), { id: 'a', depth: 0.05 }),
          moved('utility', 'gain', oscillator(5), { id: 'b', depth: 0.03 }),
        ],
      },
    );
    const out = play([one], constant(1)).left;
    const { ruler } = moved('utility', 'gain', oscillator(1));
    for (let frame = 3200; frame < RATE - 3200; frame += 991) {
      const base = -12 + (24 * frame) / RATE;
      const course =
        0.05 * Math.sin((2 * Math.PI * 3 * frame) / RATE) + 0.03 * Math.sin((2 * Math.PI * 5 * frame) / RATE);
      expect(Math.abs(gainIn(out, frame) - exactValueAt(ruler, positionOf(ruler, base) + course))).toBeLessThan(0.06);
    }
    const wide = insert('utility', {}, { modulations: [moved('utility', 'gain', oscillator(1), { depth: 1 })] });
    expect(largest(play([wide], constant(2)).left)).toBeLessThanOrEqual(0.5 * 10 ** (ruler.max / 20) + 1e-6);
  });

  it('turns a switch and steps through a choice where its course is nearest to them, without clicks', () => {
    const stepped = { stepped: true, depth: 1 } as const;
    const square: PlanSource = { kind: 'pattern', steps: [1, -1], rateHz: 4, phase: 0 };
    const turn: PlanModulation = {
      ...stepped,
      id: 'm>mono',
      index: indexOf('utility', 'mono'),
      ruler: { min: 0, max: 1, scale: 'linear' },
      source: square,
      polarity: 'both',
      smoothingSeconds: 0,
    };
    const tone = sine(100, RATE, RATE, 0.5);
    const samples = new Map([
      ['sound', { left: tone, right: tone.map((x) => -0.5 * x) }],
      ['other', { left: tone, right: tone }],
    ]);
    const plan = planOf([insert('utility', {}, { modulations: [turn] })], 1);
    const { left, right } = renderPlan(plan, samples, { fromFrame: 0, toFrame: RATE, tailSeconds: 0 })!;
    const alike = (at: number) => largest(left.slice(at, at + 4000).map((x, n) => x - right[at + n]!)) < 1e-6;
    // A quarter of a second on, a quarter off, and so on; each turn takes 20 ms.
    expect([2, 14, 26, 38].map((thousand) => alike(thousand * 1000))).toEqual([true, false, true, false]);
    // Beyond the bend of the tone itself nothing above -60 dB of it.
    expect(largestBend(left) - 0.5 * ((2 * Math.PI * 100) / RATE) ** 2).toBeLessThan(0.5e-3);

    const choices = ['off', 'lowPass', 'highPass', 'bandPass', 'notch'];
    const walk = Array.from({ length: 5 }, (_, n) => n / 4);
    const wandering: PlanModulation = {
      ...stepped,
      id: 'm>type',
      index: indexOf('delay', 'lines.1.filterType'),
      ruler: { min: 0, max: choices.length - 1, scale: 'linear' },
      source: { kind: 'pattern', steps: walk, rateHz: 5, phase: 0 },
      polarity: 'both',
      smoothingSeconds: 0,
    };
    const echo = { mix: 100, 'lines.1.timeLeft': 1, 'lines.1.feedback': 0, 'lines.1.cutoff': 1000 };
    const out = play([insert('delay', echo, { modulations: [wandering] })], sine(4000, RATE, RATE, 0.5)).left;
    const level = (step: number) => db(largest(out.slice((step + 0.4) * 9600, (step + 0.8) * 9600)) / 0.5);
    const wanted = choices.map((filterType) => {
      const plain = play([insert('delay', { ...echo, 'lines.1.filterType': filterType })], sine(4000, RATE, RATE, 0.5));
      return db(largest(plain.left.slice(24000)) / 0.5);
    });
    wanted.forEach((expected, step) => expect(Math.abs(level(step) - expected)).toBeLessThan(0.2));
  });

  it('steps through a pattern without clicks, and again from its start', () => {
    const steps = [1, 0, -1, 0.5];
    const source: PlanSource = { kind: 'pattern', steps, rateHz: 8, phase: 0 };
    const modulation = moved('utility', 'gain', source);
    const { ruler } = modulation;
    const out = play([insert('utility', {}, { modulations: [modulation] })], constant(2)).left;
    for (let step = 1; step < 16; step++) {
      const frame = Math.round(((step + 0.6) * RATE) / 8);
      const expected = exactValueAt(ruler, positionOf(ruler, 0) + 0.2 * steps[step % 4]!);
      expect(Math.abs(gainIn(out, frame) - expected)).toBeLessThan(0.05);
    }
    // A bare step would bend by its own height, half of full scale and more.
    expect(largestBend(out.slice(100))).toBeLessThan(0.005);
  });

  it('walks at random but the same way every time, within its depth', () => {
    const source: PlanSource = { kind: 'walk', rateHz: 3, phase: 0, seed: 77 };
    const modulation = moved('utility', 'gain', source, { depth: 0.1 });
    const one = insert('utility', {}, { modulations: [modulation] });
    const out = play([one], constant(8)).left;
    expect(firstDifference(play([one], constant(8)).left, out)).toBe(-1);
    const gains = Array.from({ length: 300 }, (_, n) => gainIn(out, 4000 + n * 1200));
    const { ruler } = modulation;
    const at = (away: number) => exactValueAt(ruler, positionOf(ruler, 0) + away);
    expect(Math.max(...gains)).toBeLessThanOrEqual(at(0.1) + 0.01);
    expect(Math.min(...gains)).toBeGreaterThanOrEqual(at(-0.1) - 0.01);
    expect(Math.max(...gains) - Math.min(...gains)).toBeGreaterThan(0.4 * (at(0.1) - at(-0.1)));
  });

  it('follows the level of another strip, at the attack and release that are set', () => {
    const source: PlanSource = {
      kind: 'follower',
      key: { stripId: 'other', tap: 'beforeFader' },
      attackSeconds: 0.005,
      releaseSeconds: 0.1,
      gainDb: 0,
    };
    const modulation = moved('utility', 'gain', source, { depth: -0.2, polarity: 'up' });
    const { ruler } = modulation;
    const other = new Float32Array(2 * RATE);
    // A steady key in the first second: its level is its magnitude.
    other.fill(0.1, 0, RATE);
    const out = play([insert('utility', {}, { modulations: [modulation] })], constant(2), other).left;
    const at = (level: number) => exactValueAt(ruler, positionOf(ruler, 0) - 0.2 * (1 + db(level) / 60));
    expect(Math.abs(gainIn(out, RATE - 100) - at(0.1))).toBeLessThan(0.05);
    // A time constant after the end the level has fallen to 1/e.
    expect(Math.abs(gainIn(out, Math.round(1.1 * RATE)) - at(0.1 / Math.E))).toBeLessThan(0.1);
    expect(Math.abs(gainIn(out, 2 * RATE - 100))).toBeLessThan(0.2);
  });

  it('follows what goes into the effect itself, before it changes that', () => {
    const source: PlanSource = { kind: 'follower', key: null, attackSeconds: 0.002, releaseSeconds: 0.02, gainDb: 0 };
    const modulation = moved('utility', 'gain', source, { depth: -0.3, polarity: 'up' });
    const { ruler } = modulation;
    const sound = new Float32Array(2 * RATE).fill(0.5, 0, RATE);
    sound.fill(0.05, RATE);
    const out = play([insert('utility', {}, { modulations: [modulation] })], sound).left;
    const at = (level: number) => exactValueAt(ruler, positionOf(ruler, 0) - 0.3 * (1 + db(level) / 60));
    expect(Math.abs(db(out[RATE - 100]! / 0.5) - at(0.5))).toBeLessThan(0.05);
    expect(Math.abs(db(out[2 * RATE - 100]! / 0.05) - at(0.05))).toBeLessThan(0.05);
  });

  it('smooths with its time constant', () => {
    const source: PlanSource = { kind: 'pattern', steps: [-1, 1], rateHz: 1, phase: 0 };
    const modulation = moved('utility', 'gain', source, { smoothingSeconds: 0.1 });
    const { ruler } = modulation;
    const out = play([insert('utility', {}, { modulations: [modulation] })], constant(2)).left;
    const later = gainIn(out, Math.round(1.104 * RATE));
    const expected = exactValueAt(ruler, positionOf(ruler, 0) + 0.2 * (1 - 2 / Math.E));
    expect(Math.abs(later - expected)).toBeLessThan(0.4);
  });

  it('sounds the same from a place, however it is cut into blocks', () => {
    const tone = sine(440, RATE, 2 * RATE, 0.4);
    const one = insert(
      'flanger',
      { mix: 50, rate: 0.4 },
      {
        modulations: [
          moved('flanger', 'delay', oscillator(0.7), { depth: 0.1 }),
          moved('flanger', 'feedback', { kind: 'pattern', steps: [0.3, -0.4], rateHz: 9, phase: 0 }),
        ],
      },
    );
    const whole = play([one], tone).left;
    const cut = (sizes: number[]) => {
      const engine = new Engine(RATE);
      engine.setSamples('sound', { left: tone, right: tone });
      engine.setSamples('other', { left: tone, right: tone });
      engine.applyPlan(planOf([one], 2));
      engine.play();
      const out = new Float32Array(tone.length);
      const right = new Float32Array(128);
      for (let at = 0, turn = 0; at < tone.length; turn++) {
        const frames = Math.min(sizes[turn % sizes.length]!, tone.length - at);
        engine.renderBlock(out.subarray(at, at + frames), right, frames);
        at += frames;
      }
      return out;
    };
    expect(firstDifference(cut([17, 128, 3, 64]), cut([128]))).toBe(-1);
    const part = play([one], tone, undefined, RATE).left;
    for (let n = 9600; n < RATE - 200; n += 53) expect(Math.abs(part[n]! - whole[RATE + n]!)).toBeLessThan(2e-3);
  });

  it('goes on while the session stands still, and is told', () => {
    const engine = new Engine(RATE);
    engine.applyPlan(planOf([insert('utility', {}, { modulations: [moved('utility', 'gain', oscillator(2))] })], 1));
    const node = engine.strip('sound')!.insert('one')!;
    const left = new Float32Array(128);
    const right = new Float32Array(128);
    const told: number[] = [];
    for (let block = 0; block < 400; block++) {
      engine.renderBlock(left, right, 128);
      told.push(node.valueOf(indexOf('utility', 'gain')));
    }
    expect(Math.max(...told) - Math.min(...told)).toBeGreaterThan(5);
  });

  it('comes and goes without a click', () => {
    const tone = sine(100, RATE, RATE, 0.4);
    const engine = new Engine(RATE);
    engine.setSamples('sound', { left: tone, right: tone });
    const plain = planOf([insert('utility', {})], 1);
    const with1 = planOf([insert('utility', {}, { modulations: [moved('utility', 'gain', oscillator(3, 0.25))] })], 1);
    engine.applyPlan(plain);
    engine.play();
    const out = new Float32Array(RATE);
    const right = new Float32Array(128);
    for (let at = 0; at + 128 <= RATE; at += 128) {
      if (at === 128 * 100) engine.applyPlan(with1);
      if (at === 128 * 200) engine.applyPlan(plain);
      engine.renderBlock(out.subarray(at, at + 128), right, 128);
    }
    expect(largestBend(out.slice(128, RATE - 256))).toBeLessThan(0.0012);
  });
});

describe('automation of a delay time', () => {
  const ramp = (fromMs: number, toMs: number): PlanCurve => ({
    frames: [RATE, Math.round(1.5 * RATE)],
    values: [fromMs, toMs],
  });
  const delayed = (timeChange: string, curve: PlanCurve) =>
    insert(
      'delay',
      { mix: 100, 'lines.1.feedback': 0, timeChange },
      { curves: [{ index: indexOf('delay', 'lines.1.timeLeft'), curve }] },
    );

  it.each([
    [200, 300],
    [300, 120],
    [100, 400],
  ])('in a glide a fast ramp from %d to %d ms bends the pitch as its slope says, within 2 cents', (from, to) => {
    const hz = 2000;
    const out = play([delayed('glide', ramp(from, to))], sine(hz, RATE, 3 * RATE, 0.5)).left;
    const slope = (to - from) / 1000 / 0.5;
    const bent = pitchTrack(out, RATE).filter(([at]) => at > 1.03 * RATE && at < 1.47 * RATE);
    expect(bent.length).toBeGreaterThan(300);
    for (const [, found] of bent) expect(Math.abs(1200 * Math.log2(found / (hz * (1 - slope))))).toBeLessThan(2);
    const after = pitchTrack(out, RATE).filter(([at]) => at > 1.65 * RATE && at < 2.9 * RATE);
    for (const [, found] of after) expect(Math.abs(1200 * Math.log2(found / hz))).toBeLessThan(0.5);
  });

  it('in a crossfade keeps the pitch and has no step above -60 dB of the signal', () => {
    const hz = 1000;
    const out = play([delayed('crossfade', ramp(200, 300))], sine(hz, RATE, 3 * RATE, 0.5)).left;
    const settled = out.slice(RATE / 2);
    const curvature = 0.5 * ((2 * Math.PI * hz) / RATE) ** 2;
    expect(largestBend(settled) - curvature).toBeLessThan(0.5e-3);
    // A glide would be 386 cents lower from end to end. Two periods at a time the pitch is that of the tone, but for
    // the moments in which two places are heard at once.
    const cents = pitchTrack(out, RATE, 2)
      .filter(([at]) => at > 1.05 * RATE && at < 1.5 * RATE)
      .map(([, found]) => Math.abs(1200 * Math.log2(found / hz)));
    expect(cents.length).toBeGreaterThan(300);
    expect(cents.filter((one) => one < 2).length / cents.length).toBeGreaterThan(0.6);
  });
});

describe('the difference an effect makes', () => {
  it('is nothing for a mere change of level, and all of the echoes for a delay', () => {
    const tone = sine(440, RATE, 2 * RATE, 0.3);
    const louder = play([insert('utility', { gain: 6 }, { difference: true })], tone).left.slice(RATE);
    expect(db(largest(louder) / 0.3)).toBeLessThan(-60);
    const click = impulse(RATE);
    const echo = play([insert('delay', { mix: 50, 'lines.1.timeLeft': 100 }, { difference: true })], click).left;
    expect(Math.abs(echo[4800]!)).toBeCloseTo(Math.SQRT1_2, 3);
    expect(Math.abs(echo[0]!)).toBeLessThan(1e-6);
  });
});

describe('a latency that changes with a parameter', () => {
  it('is taken up by all paths, and what sounds together stays together', () => {
    const click = new Float32Array(2 * RATE);
    click[RATE] = 0.5;
    const engine = new Engine(RATE);
    engine.setSamples('sound', { left: click, right: click });
    engine.setSamples('other', { left: click, right: click });
    const delay = insert('delay', { mix: 0 });
    const base = planOf([delay], 2);
    const plan: Plan = {
      ...base,
      strips: [...base.strips, planStrip('main')],
      edges: ['sound', 'other'].map((fromId) => ({ id: fromId, fromId, toId: 'main', tap: 'afterFader', gain: 1 })),
    };
    engine.applyPlan(plan);
    engine.play();
    expect(engine.latencyFrames).toBe(0);
    const out = new Float32Array(2 * RATE);
    const right = new Float32Array(128);
    for (let at = 0; at + 128 <= out.length; at += 128) {
      if (at === 128 * 100) {
        const safety = indexOf('delay', 'safety');
        engine.change({ kind: 'parameter', insertId: 'one', index: safety, value: 1 });
      }
      engine.renderBlock(out.subarray(at, at + 128), right, 128);
    }
    const late = engine.latencyFrames;
    expect(late).toBe(Math.round(0.0015 * RATE) + 72);
    expect(out[RATE + late]).toBeCloseTo(1, 5);
    expect(out.filter((x) => Math.abs(x) > 1e-6)).toHaveLength(1);
  });
});
