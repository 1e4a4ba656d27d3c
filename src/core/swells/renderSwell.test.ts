import { db, largest } from '../../../test/support/render';
import { finished } from '../math/steps';
import { TIMING } from '../../../test/support/render';
import { Noise } from '../dsp/noise';
import { effectById } from '../effects/registry';
import { resolveSettings, resolveValues } from '../effects/resolve';
import type { ParameterValues } from '../effects/spec';
import type { PlanInsert, Samples } from '../engine/plan';
import { chainPlan } from '../engine/plans';
import { renderPlan } from '../engine/render';
import { renderSwell, type SwellSettings } from './renderSwell';
import { wetOnly } from './wetOnly';

const RATE = 48000;
const insert = (effect: string, values: ParameterValues): PlanInsert => {
  const spec = effectById(effect);
  return {
    id: effect,
    effect,
    bypass: false,
    values: resolveValues(spec, values, TIMING),
    settings: resolveSettings(spec, values)!,
  };
};
const noise = new Noise(4);
/** A word that begins at 1.25 s. */
const LAND = 60000;
const word = Float32Array.from({ length: 2 * RATE }, (_, n) =>
  n < LAND ? 0 : 0.3 * noise.white() * Math.exp(-(n - LAND) / 9000),
);
const sound: Samples = { left: word, right: word };
const settings: SwellSettings = {
  sampleRate: RATE,
  landFrame: LAND,
  sourceSeconds: 0.3,
  lengthSeconds: 1.5,
  fadeInSeconds: 0,
  fadeShape: 'smooth',
  width: 1,
  gapSeconds: 0,
  levelDb: 0,
  over: false,
};
const space = wetOnly([insert('reverb', { decay: 2, mix: 30 })]);
const swell = (more: Partial<SwellSettings> = {}) => finished(renderSwell(sound, space, { ...settings, ...more }));

describe('a reverse swell', () => {
  it('is the word reversed, the wet space, and that reversed, sample for sample', () => {
    const cut = word.slice(LAND, LAND + 0.3 * RATE).reverse();
    const { plan, samples } = chainPlan([insert('reverb', { decay: 2, mix: 100 })], RATE, { left: cut, right: cut });
    const wet = renderPlan(plan, samples, { fromFrame: 0, toFrame: cut.length, tailSeconds: 1.5 })!;
    const { left, right } = swell({ over: true });
    expect(left).toEqual(wet.left.slice().reverse());
    expect(right).toEqual(wet.right.slice().reverse());
    expect(swell().left).toEqual(left.slice(0, 1.5 * RATE));
  });

  it('grows to its end, which is the landing; a gap, a fade and a level are what they say', () => {
    const { left } = swell();
    expect(left.length).toBe(1.5 * RATE);
    const loud = (from: number, to: number) => {
      let sum = 0;
      for (let n = from; n < to; n++) sum += left[n]! * left[n]!;
      return 10 * Math.log10(sum / (to - from));
    };
    // It falls by 60 dB in two seconds, turned round.
    const grown = loud(left.length - 4800, left.length) - loud(left.length - 4800 - 24000, left.length - 24000);
    expect(Math.abs(grown - 15)).toBeLessThan(3);
    const late = swell({ gapSeconds: 0.1 }).left;
    expect(late.length).toBe(1.5 * RATE);
    expect(late.subarray(late.length - 4800).every((x) => x === 0)).toBe(true);
    expect(late[late.length - 4801]).toBe(left[left.length - 1]);
    const faded = swell({ fadeInSeconds: 1 }).left;
    expect(faded[0]).toBe(0);
    expect(faded[RATE + 1]).toBe(left[RATE + 1]);
    expect(db(largest(swell({ levelDb: -6 }).left) / largest(left))).toBeCloseTo(-6, 4);
  });

  it('takes only what a space adds, not what other effects pass', () => {
    const [tone, room] = wetOnly([insert('compressor', { mix: 40 }), insert('reverb', { mix: 40 })]);
    const mixOf = (one: PlanInsert) =>
      one.values[effectById(one.effect).parameters.findIndex(({ id }) => id === 'mix')];
    expect([mixOf(tone!), mixOf(room!)]).toEqual([40, 100]);
  });
});
