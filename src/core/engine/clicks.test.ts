import { db, largest, sine } from '../../../test/support/render';
import { SeededRandom } from '../math/random';
import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import { Engine } from './engine';
import type { Plan, PlanInsert, Samples } from './plan';
import { planClip, planStrip } from './plans';

const RATE = 48000;
const SECONDS = 12;
const PEAK = 0.5;
const TAPS = 255;

/** A linear-phase high-pass at 4 kHz: a Hann-windowed sinc, over 90 dB down under 3.4 kHz. */
const HIGH_PASS = Float64Array.from({ length: TAPS }, (_, n) => {
  const t = n - (TAPS - 1) / 2;
  const cutoff = (2 * 4000) / RATE;
  const low = t === 0 ? cutoff : Math.sin(Math.PI * cutoff * t) / (Math.PI * t);
  const window =
    0.42 - 0.5 * Math.cos((2 * Math.PI * n) / (TAPS - 1)) + 0.08 * Math.cos((4 * Math.PI * n) / (TAPS - 1));
  return (t === 0 ? 1 : 0) - low * window;
});

function highPassed(sound: Float32Array): Float32Array {
  const out = new Float32Array(sound.length - TAPS + 1);
  for (let n = 0; n < out.length; n++) {
    let sum = 0;
    for (let k = 0; k < TAPS; k++) sum += HIGH_PASS[k]! * sound[n + k]!;
    out[n] = sum;
  }
  return out;
}

const utility = (id: string, gain: number, bypass: boolean): PlanInsert => ({
  id,
  effect: 'utility',
  values: resolveValues(effectById('utility'), { gain }, { tempoBpm: 84, beatsPerBar: 3 }),
  bypass,
});

/** A track that plays one long sound, laid, levelled and worked on at random. */
function anyPlan(random: SeededRandom, moves: boolean): Plan {
  const below = (end: number) => Math.floor(random.uniform() * end);
  const clip = planClip('sound', SECONDS * RATE, moves ? { startFrame: -below(9000), offsetFrame: below(9000) } : {});
  const inserts = ['one', 'two']
    .filter(() => below(3) > 0)
    .map((id, n) => utility(id, n === 0 ? -6 : 3, below(2) === 0));
  if (below(2) === 0) inserts.reverse();
  const levels = moves ? { gain: random.uniform(), audible: below(4) > 0, pan: random.bipolar() } : {};
  return {
    sampleRate: RATE,
    framesPerBeat: RATE / 2,
    endFrame: SECONDS * RATE,
    loop: null,
    strips: [planStrip('track', { clips: [clip], inserts: moves ? inserts : [], ...levels }), planStrip('main')],
    edges: below(5) === 0 && moves ? [] : [{ id: 'out', fromId: 'track', toId: 'main', tap: 'afterFader', gain: 1 }],
  };
}

type Step = 'plan' | 'seek' | 'stop';

/** The loudest of the output over 4 kHz, in dB of the sound's peak, through steps of a kind at spacings of 1 to `most` frames. */
function clickDb(sound: Samples, steps: readonly Step[], most: number, seed: number): number {
  const random = new SeededRandom(seed);
  const below = (end: number) => Math.floor(random.uniform() * end);
  const engine = new Engine(RATE);
  engine.setSamples('sound', sound);
  engine.applyPlan(anyPlan(random, steps.includes('plan')));
  engine.seek(2 * RATE);
  engine.play();
  const out: number[] = [];
  const left = new Float32Array(128);
  const right = new Float32Array(128);
  const render = (frames: number) => {
    for (let done = 0; done < frames;) {
      const count = Math.min(128, frames - done);
      engine.renderBlock(left, right, count);
      for (let n = 0; n < count; n++) out.push(left[n]!);
      done += count;
    }
  };
  render(4000);
  out.length = 0;
  for (let turn = 0; turn < 60; turn++) {
    render(1 + below(most));
    switch (steps[below(steps.length)]) {
      case 'plan':
        engine.applyPlan(anyPlan(random, true));
        break;
      case 'seek':
        engine.seek(RATE + below(9 * RATE));
        break;
      case 'stop':
        if (engine.playing) engine.stop();
        else engine.play();
    }
  }
  engine.stop();
  render(4000);
  engine.dispose();
  return db(largest(highPassed(Float32Array.from(out))) / PEAK);
}

const frames = SECONDS * RATE;
const both = (sound: Float32Array): Samples => ({ left: sound, right: sound });
const SOUNDS: readonly (readonly [string, Samples])[] = [
  ['a constant', both(new Float32Array(frames).fill(PEAK))],
  ['a sine at 30 Hz', both(sine(30, RATE, frames, PEAK))],
  ['a sine at 100 Hz', both(sine(100, RATE, frames, PEAK))],
];

describe.each(SOUNDS)('%s stays 60 dB clear of clicks', (_, sound) => {
  it.each([
    [['seek'], 1],
    [['seek'], 100],
    [['seek'], 1000],
    [['stop'], 100],
    [['plan'], 1],
    [['plan'], 100],
    [['plan'], 1000],
    [['plan', 'seek', 'stop'], 10],
    [['plan', 'seek', 'stop'], 300],
    [['plan', 'seek', 'stop'], 1000],
  ] as const)('through any %s at spacings of 1 to %i frames', (steps, most) => {
    for (let seed = 1; seed <= 6; seed++) {
      expect(clickDb(sound, steps, most, seed)).toBeLessThan(-60);
    }
  });
});
