import { amplitudeAt, db, firstDifference, floats, largest, sine, readMeter } from '../../../test/support/render';
import { Noise } from '../dsp/noise';
import { MAXIMUM_BLOCK, DEFAULT_MUSICAL_CONTEXT } from '../effects/kernel';
import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import type { ParameterValues } from '../effects/spec';
import { Arena } from '../wasm/arena';
import { InsertNode } from './insertNode';
import type { PlanInsert } from './plan';

const RATE = 48000;

function nodeOf(effect: string, values: ParameterValues, more: Partial<PlanInsert> = {}) {
  const plan: PlanInsert = {
    id: 'one',
    effect,
    bypass: false,
    values: resolveValues(effectById(effect), values, { tempoBpm: 84, beatsPerBar: 3 }),
    ...more,
  };
  const node = new InsertNode(plan, RATE, DEFAULT_MUSICAL_CONTEXT, new Map(), true);
  node.locate(0);
  const { kernel } = node;
  const work = kernel.process.bind(kernel);
  let worked = 0;
  kernel.process = (left, right, frames, key) => {
    worked += frames;
    work(left, right, frames, key);
  };
  return { node, worked: () => worked };
}

/** Plays a sound through a node from the start of the session on, in blocks of these sizes. */
function play(node: InsertNode, sound: Float32Array, sizes: readonly number[] = [128], moving = true): Float32Array {
  const out = sound.slice();
  const memory = new Arena();
  const [left, right] = [memory.floats(MAXIMUM_BLOCK), memory.floats(MAXIMUM_BLOCK)];
  for (let at = 0, turn = 0; at < sound.length; turn++) {
    const frames = Math.min(sizes[turn % sizes.length]!, sound.length - at);
    left.set(sound.subarray(at, at + frames));
    right.set(sound.subarray(at, at + frames));
    node.process(left, right, frames, moving ? at : 0, moving);
    out.set(left.subarray(0, frames), at);
    at += frames;
  }
  memory.free();
  return out;
}

/** Sound for 0.2 s, silence to 3 s or as long as is said, sound again for a second; that begins anywhere in a block. */
function broken(until = 3): Float32Array {
  const noise = new Noise(3);
  const again = until * RATE + 77;
  return Float32Array.from({ length: (until + 1) * RATE }, (_, n) => (n < 9600 || n > again ? 0.4 * noise.pink() : 0));
}

const MOVED: readonly (readonly [string, ParameterValues])[] = [
  [
    'delay',
    { 'lines.1.timeLeft': 90, 'lines.1.feedback': 10, 'lines.1.modDepth': 20, 'lines.1.modRate': 0.7, mix: 60 },
  ],
  ['chorus', { bandLow: 300, rate: 0.7 }],
  ['flanger', { rate: 0.3, feedback: 50 }],
  ['phaser', { rate: 0.3, feedback: 40 }],
  ['autopan', { rate: 0.9 }],
  ['eq', { 'bands.2.on': true, 'bands.2.gain': 6 }],
  ['saturator', { drive: 12 }],
  ['utility', { lowCut: 80, gain: -3 }],
];

const LETTING_GO: readonly (readonly [string, ParameterValues])[] = [
  ['compressor', { threshold: -30, ratio: 4, release: 80 }],
  ['compressor', { threshold: -40, ratio: 8, detector: 'rms', lookahead: 3, release: 40 }],
  ['gate', { threshold: -30, range: -40, release: 60 }],
  ['deesser', { threshold: -40 }],
  ['limiter', { ceiling: -12, release: 60 }],
  ['transient', { attack: 60, sustain: -40 }],
];

describe('an effect at rest', () => {
  it.each(LETTING_GO)(
    '%s is passed over once it has let go, and picks up as after any silence: %j',
    (effect, values) => {
      const sound = broken(6);
      const { node, worked } = nodeOf(effect, values);
      const out = play(node, sound);
      expect(worked()).toBeLessThan(5.5 * RATE);
      const awake = nodeOf(effect, values);
      Object.defineProperty(awake.node.kernel, 'canSleep', { value: undefined });
      const wanted = play(awake.node, sound);
      expect(awake.worked()).toBe(7 * RATE);
      // It does something to the sound on both sides of the silence.
      expect(largest(wanted.slice(6 * RATE).map((x, n) => x - sound[6 * RATE + n]!))).toBeGreaterThan(0.01);
      expect(largest(out.map((x, n) => x - wanted[n]!))).toBeLessThan(1e-4);
    },
  );

  it.each(MOVED)('%s is passed over in silence, and picks up where it would have been', (effect, values) => {
    const sound = broken();
    const { node, worked } = nodeOf(effect, values);
    const out = play(node, sound);
    expect(worked()).toBeLessThan(3 * RATE);
    expect(worked()).toBeGreaterThan(1.2 * RATE);
    // The same effect, kept from resting.
    const awake = nodeOf(effect, values);
    Object.defineProperty(awake.node.kernel, 'canSleep', { value: undefined });
    const wanted = play(awake.node, sound);
    expect(awake.worked()).toBe(4 * RATE);
    expect(largest(wanted.slice(3 * RATE))).toBeGreaterThan(0.05);
    expect(largest(out.slice(0, 3 * RATE).map((x, n) => x - wanted[n]!))).toBeLessThan(1e-6);
    // A moving parameter differs a little between its ticks.
    expect(largest(out.slice(3 * RATE).map((x, n) => x - wanted[3 * RATE + n]!))).toBeLessThan(4e-3);
  });

  it('begins and ends on the same frame however the sound is cut', () => {
    for (const [effect, values] of MOVED) {
      const sound = broken();
      const whole = play(nodeOf(effect, values).node, sound);
      for (const sizes of [[128, 17, 3, 64], [77], [400]]) {
        const one = nodeOf(effect, values);
        expect([effect, firstDifference(play(one.node, sound, sizes), whole)]).toEqual([effect, -1]);
        expect(one.worked()).toBeLessThan(3 * RATE);
      }
    }
  });

  it('goes on being moved, and shows it', () => {
    const { node, worked } = nodeOf(
      'flanger',
      { rate: 0.5 },
      {
        modulations: [
          {
            id: 'm',
            index: effectById('flanger').parameters.findIndex(({ id }) => id === 'depth'),
            ruler: { min: 0, max: 100, scale: 'linear' },
            source: { kind: 'oscillator', shape: 'sine', rateHz: 1, phase: 0, seed: 1 },
            depth: 0.3,
            polarity: 'both',
            smoothingSeconds: 0,
          },
        ],
      },
    );
    const index = effectById('flanger').parameters.findIndex(({ id }) => id === 'depth');
    play(node, new Float32Array(RATE), [128], false);
    const before = worked();
    const [depth, place] = [node.valueOf(index), readMeter(node.kernel, 'flanger', 'place')[0]!];
    play(node, new Float32Array(RATE / 4), [128], false);
    expect(worked()).toBe(before);
    expect(Math.abs(node.valueOf(index) - depth)).toBeGreaterThan(10);
    expect(Math.abs(readMeter(node.kernel, 'flanger', 'place')[0]! - place)).toBeCloseTo(0.125, 2);
  });

  it.each([
    ['hisses', 'delay', { wear: 'tape', hiss: 40, 'lines.1.timeLeft': 10 }],
    ['holds a sound', 'delay', { hold: true }],
    ['holds its sweep', 'flanger', { holdSweep: true }],
    ['hisses along', 'chorus', { noise: 30 }],
  ] as const)('is not one that %s', (_, effect, values) => {
    const { node, worked } = nodeOf(effect, values);
    play(node, new Float32Array(4 * RATE));
    expect(worked()).toBe(4 * RATE);
  });

  it('ends its rest when it comes to sound of its own accord, or is given a key', () => {
    const index = effectById('delay').parameters.findIndex(({ id }) => id === 'wear');
    const { node, worked } = nodeOf('delay', { hiss: 60, 'lines.1.timeLeft': 5, 'lines.1.feedback': 0, mix: 100 });
    play(node, new Float32Array(RATE), [128], false);
    const before = worked();
    expect(before).toBeLessThan(RATE);
    node.setParameter(index, 1);
    const out = play(node, new Float32Array(RATE), [128], false);
    expect(largest(out.slice(RATE / 2))).toBeGreaterThan(1e-4);

    const keyed = nodeOf('delay', { 'lines.1.timeLeft': 5, 'lines.1.feedback': 0 });
    play(keyed.node, new Float32Array(RATE), [128], false);
    const rested = keyed.worked();
    keyed.node.setSidechains(new Map([['key', { left: floats(128), right: floats(128) }]]));
    play(keyed.node, new Float32Array(RATE), [128], false);
    expect(keyed.worked()).toBe(rested + RATE);
  });

  it.each([
    ['vocoder', { noteSource: 'lane', carrierVoices: 1, release: 10, unvoiced: 0, carrierNoise: 0, inputChain: false }],
    ['harmony', { 'voices.1.on': true, 'voices.1.follow': 'notes', mix: 100 }],
  ] as const)(
    '%s with a lane of notes rests while nobody speaks, and then plays the notes that are due',
    (effect, values) => {
      const notes = [48, 60, 55, 64].map((key, n) => ({
        startFrame: n * RATE,
        lengthFrames: RATE,
        key,
        velocity: 1,
      }));
      const voice = Float32Array.from({ length: 4 * RATE }, (_, n) => {
        const phase = (146.8 * n) / RATE;
        const speaks = n < 9600 || n > 3.1 * RATE;
        return speaks ? 0.3 * (2 * (phase - Math.floor(phase)) - 1) : 0;
      });
      const { node, worked } = nodeOf(effect, values, { notes });
      const out = play(node, voice);
      expect(worked()).toBeLessThan(3 * RATE);
      const awake = nodeOf(effect, values, { notes });
      Object.defineProperty(awake.node.kernel, 'canSleep', { value: undefined });
      const wanted = play(awake.node, voice);
      const strength = (sound: Float32Array, key: number) => {
        const piece = sound.subarray(3.4 * RATE);
        return Math.hypot(...[1, 2, 3].map((k) => amplitudeAt(piece, k * 440 * 2 ** ((key - 69) / 12), RATE)));
      };
      expect(strength(out, 64)).toBeGreaterThan(5 * strength(out, 48));
      expect(strength(out, 64)).toBeGreaterThan(5 * strength(out, 55));
      expect(Math.abs(db(strength(out, 64) / strength(wanted, 64)))).toBeLessThan(1);
      // However it is cut.
      const pieces = nodeOf(effect, values, { notes });
      expect(firstDifference(play(pieces.node, voice, [128, 17, 3, 64]), out)).toBe(-1);
    },
  );

  it('waits for all of its tail', () => {
    const { node } = nodeOf('delay', { mix: 100, 'lines.1.timeLeft': 2000, 'lines.1.feedback': 50 });
    const sound = new Float32Array(9 * RATE);
    sound.set(sine(500, RATE, 4800, 0.5));
    const out = play(node, sound);
    for (const [second, level] of [
      [2, 0.5],
      [4, 0.25],
      [6, 0.125],
      [8, 0.0625],
    ] as const) {
      expect(largest(out.slice(second * RATE, second * RATE + 4800))).toBeCloseTo(level, 3);
    }
  });
});
