import { db } from '../../../test/support/render';
import { measureField } from '../analysis/stereoField';
import { Noise } from '../dsp/noise';
import { renderPlan } from '../engine/render';
import type { Plan } from '../engine/plan';
import { effectById } from '../effects/registry';
import { applyCommand, applyStep, type Command } from './commands';
import { compile } from './compile/compiler';
import { compileBehind, compileHeard } from './compile/parts';
import { placedStrip } from './compile/strips';
import { validateDocument } from './document';
import { firstPlace, isStereo, placed, placeValues } from './stagePlacement';
import { connectionsOf } from './routing';
import { newClip, newDocument, newModulator, newSend } from './records/factories';
import type { SessionDocument } from './records/document';

const SOUND = 'c'.repeat(64);
const RATE = 48000;
const does = (document: SessionDocument, ...commands: Command[]) =>
  applyCommand(document, { type: 'all', commands }, '').document;
const place = (stripId: string, values = {}): Command => ({
  type: 'place.add',
  stripId,
  id: `${stripId}-place`,
  values: { air: 0, ...values },
});
const set = (id: string, values: object): Command => ({ type: 'strip.set', id, values });

/** A pad that plays a second of a steady sound, a bell, and a hall that the pad is sent to. */
function build(...more: Command[]): SessionDocument {
  return does(
    newDocument('Stage'),
    { type: 'asset.add', asset: { id: SOUND, name: 'pad.wav', frames: RATE, sampleRateHz: RATE, channels: 1 } },
    { type: 'track.add', id: 'pad', name: 'Pad' },
    { type: 'track.add', id: 'bell', name: 'Bell' },
    { type: 'return.add', id: 'hall', name: 'Hall', role: 'return' },
    { type: 'send.add', send: { ...newSend('send', 'pad', 'hall'), gainDb: 0 } },
    {
      type: 'clip.add',
      clip: newClip({
        ...{ id: 'clip', trackId: 'pad', name: 'pad', startBeat: 0, lengthSeconds: 1 },
        source: { kind: 'sound', assetId: SOUND },
      }),
    },
    ...more,
  );
}

const sound = Float32Array.from({ length: RATE }, (_, n) => 0.25 * Math.sin((2 * Math.PI * 400 * n) / RATE));
const samples = new Map([[SOUND, { left: sound, right: sound }]]);
const heard = (plan: Plan) => renderPlan(plan, samples, { fromFrame: 0, toFrame: RATE, tailSeconds: 0 })!;
const level = (one: Float32Array) => Math.sqrt(one.subarray(9600).reduce((sum, x) => sum + x * x, 0) / one.length);

describe('places on the stage', () => {
  it('stand after the fader and the sends: distance takes level from the sound and none from its hall', () => {
    const at = (distance: number, wetOnly: boolean) => {
      const document = build(place('pad', { distance }), { type: 'session.set', values: { wetOnly } });
      const { left, right } = heard(compile(document));
      return level(left) + level(right);
    };
    expect(db(at(8, true) / at(1, true))).toBeCloseTo(0, 3);
    const alone = (distance: number) => {
      const { left } = heard(compile(build(place('pad', { distance }), { type: 'send.remove', id: 'send' })));
      return level(left);
    };
    expect(db(alone(8) / alone(1))).toBeCloseTo(-18.06, 1);
  });

  it('have a strip of their own in the plan, behind that which stands there, and pan says nothing there', () => {
    const plan = compile(build(place('pad', { azimuth: 90 }), set('pad', { pan: -100 })));
    const ids = plan.strips.map(({ id }) => id);
    expect(ids.indexOf(placedStrip('pad'))).toBe(ids.indexOf('pad') + 1);
    expect(plan.strips.find(({ id }) => id === 'pad')!.pan).toBe(0);
    const { left, right } = heard(compile(build(place('pad', { azimuth: 90 }), { type: 'send.remove', id: 'send' })));
    expect([level(left), level(right) > 0.1]).toEqual([0, true]);
  });

  it('are heard through what the session says', () => {
    const values = (more: object) => {
      const document = build(place('pad'), { type: 'session.set', values: more });
      return placeValues(document, document.tracks.pad!);
    };
    expect(values({ stage: 'headphones' })).toMatchObject({ render: 'binaural' });
    expect(values({ panLaw: '6' })).toMatchObject({ render: 'speakers', law: '6' });
    const laws = (['3', '4.5', '6'] as const).map((panLaw) => {
      const document = build(
        place('pad'),
        { type: 'session.set', values: { panLaw } },
        { type: 'send.remove', id: 'send' },
      );
      return db(level(heard(compile(document)).left) / level(sound));
    });
    laws.forEach((one, n) => expect(one).toBeCloseTo(-3.01 * [1, 1.5, 2][n]!, 1));
  });

  it('opposite to another take over how it moves, with its lanes and modulators, and keep the rest', () => {
    const lane = (id: string, ownerId: string, parameter: string, value: number): Command => ({
      type: 'lane.add',
      lane: {
        ...{ id, ownerId, parameter, on: true, mirrorOf: null, mirrorAmount: 100 },
        points: [{ beat: 0, value, shape: 'straight', bend: 0 }],
      },
    });
    const document = build(
      place('pad', { azimuth: 60, motion: 'circle', motionRate: '4bar', doppler: 50 }),
      place('hall', { azimuth: 5, size: 3, mirror: 'angle' }),
      set('hall', { oppositeOf: 'pad' }),
      lane('one', 'pad-place', 'azimuth', 20),
      lane('two', 'hall-place', 'distance', 9),
      lane('three', 'hall-place', 'size', 2),
    );
    expect(placeValues(document, document.returns.hall!)).toMatchObject({
      ...{ azimuth: 60, motion: 'circle', motionRate: '4bar' },
      ...{ size: 3, mirror: 'angle', doppler: 0 },
    });
    const insert = compile(document).strips.find(({ id }) => id === placedStrip('hall'))!.inserts[0]!;
    const moved = insert.curves!.map(({ index }) => effectById('place').parameters[index]!.id);
    expect(moved).toEqual(['azimuth', 'size']);
  });

  it('let what a place follows be ready for those that stand opposite to it, too', () => {
    const document = build(place('pad'), place('hall'), set('hall', { oppositeOf: 'pad' }), {
      type: 'modulator.add',
      modulator: {
        ...newModulator('tide', 'Tide', 'follower'),
        followId: 'bell',
        targets: [{ insertId: 'pad-place', parameter: 'azimuth', depth: 30, polarity: 'both' }],
      },
    });
    const follows = connectionsOf(document).filter(({ kind }) => kind === 'follow');
    expect(follows.map(({ fromId, toId }) => [fromId, toId])).toEqual([
      ['bell', 'pad'],
      ['bell', 'hall'],
    ]);
    const moved = compile(document).strips.find(({ id }) => id === placedStrip('hall'))!.inserts[0]!;
    expect(moved.modulations).toHaveLength(1);
    expect(() =>
      applyCommand(document, { type: 'modulator.set', id: 'tide', values: { followId: 'hall' } }, ''),
    ).toThrow('in a circle');
  });

  it('are heard out of one effect of a chain, without what is behind it', () => {
    const utility = (id: string, index: number, values: object): Command => ({
      type: 'insert.add',
      ...{ stripId: 'pad', id, effect: 'utility', index, values: { ...values } },
    });
    const document = build(
      place('pad'),
      utility('flip', 0, { polarityRight: true }),
      utility('quiet', 1, { gain: -40 }),
    );
    const out = heard(compileBehind(document, 'flip'));
    expect(level(out.left) / level(sound)).toBeCloseTo(1, 3);
    for (let n = 9600; n < RATE; n += 997) expect(out.right[n]).toBeCloseTo(-out.left[n]!, 6);
    expect(db(level(heard(compileHeard(document, 'pad')).left) / level(sound))).toBeLessThan(-40);
  });

  it('are what a command makes of them, and all of it is taken back', () => {
    const before = build(place('pad', { azimuth: 40 }), place('hall'), set('hall', { oppositeOf: 'pad' }));
    const { document, step } = applyCommand(before, { type: 'insert.remove', id: 'pad-place' }, '');
    expect([document.tracks.pad!.placeId, document.returns.hall!.oppositeOf]).toEqual([null, null]);
    expect(placed(document).map(({ id }) => id)).toEqual(['hall']);
    expect(applyStep(document, step.inverse)).toEqual(before);
    const without = does(before, { type: 'strip.remove', id: 'pad' });
    expect(Object.keys(without.inserts)).toEqual(['hall-place']);
    expect(validateDocument(JSON.parse(JSON.stringify(before)))).toEqual(before);
  });

  it('refuse what has nothing to stand opposite to, by name', () => {
    const both = build(place('pad'), place('hall'), place('bell'));
    expect(() => does(build(place('hall')), set('hall', { oppositeOf: 'pad' }))).toThrow('must stand on the stage');
    const one = does(both, set('hall', { oppositeOf: 'pad' }));
    expect(() => does(one, set('bell', { oppositeOf: 'hall' }))).toThrow('Bell cannot be opposite to Hall');
    expect(() => does(both, { type: 'insert.set', id: 'pad-place', values: { distance: 90 } })).toThrow(
      'distance takes 0.3 to 50 m (30 cm to 50 m), not 90 m.',
    );
  });

  it('begin where the pan had it: what is mono as a point, what has two sides as wide as it was', () => {
    const document = build(set('pad', { pan: 50 }));
    expect(firstPlace(document, document.tracks.pad!)).toEqual({ azimuth: 45 });
    expect(firstPlace(document, document.returns.hall!)).toMatchObject({ size: 12, distanceLevel: 0 });
    const insert = (effect: string): Command => ({
      type: 'insert.add',
      ...{ stripId: 'pad', id: effect, effect, index: 0, values: {} },
    });
    const stereo = (...more: Command[]) => {
      const made = build(...more);
      return isStereo(made, made.tracks.pad!);
    };
    expect([stereo(), stereo(insert('compressor')), stereo(insert('chorus'))]).toEqual([false, false, true]);
    const asset = { id: 'e'.repeat(64), name: 'wide.wav', frames: RATE, sampleRateHz: RATE, channels: 2 };
    const ofTwo: Command[] = [
      { type: 'asset.add', asset },
      { type: 'clip.set', id: 'clip', values: { source: { kind: 'sound', assetId: asset.id } } },
      { type: 'send.remove', id: 'send' },
    ];
    expect(stereo(...ofTwo)).toBe(true);
    const wide = build(...ofTwo);
    const noise = [new Noise(1), new Noise(2)].map((one) =>
      Float32Array.from({ length: RATE }, () => 0.2 * one.white()),
    );
    const sides = new Map([[asset.id, { left: noise[0]!, right: noise[1]! }]]);
    const correlation = (values: object) => {
      const plan = compile(does(wide, place('pad', values)));
      const { left, right } = renderPlan(plan, sides, { fromFrame: 0, toFrame: RATE, tailSeconds: 0 })!;
      return measureField(left, right, RATE).correlation!;
    };
    expect(correlation(firstPlace(wide, wide.tracks.pad!))).toBeLessThan(0.15);
    expect(correlation({})).toBeCloseTo(1, 6);
  });

  it('of before keep the size that they had, and their strips the pan', () => {
    const now = build(place('pad'), place('hall', { size: 2 }));
    const old = JSON.parse(JSON.stringify(now)) as Record<string, object>;
    for (const strip of Object.values({ ...old.tracks, ...old.returns, main: old.main })) {
      delete (strip as Record<string, unknown>).panMode;
    }
    const moved = validateDocument({ ...old, version: 9 });
    expect([moved.inserts['pad-place']!.values.size, moved.inserts['hall-place']!.values.size]).toEqual([0, 2]);
    expect([moved.tracks.pad!, moved.returns.hall!, moved.main].map(({ panMode }) => panMode)).toEqual(
      Array(3).fill('balance'),
    );
    expect(now.returns.hall!.panMode).toBe('stereo');
  });

  it('are not in documents of version 6, which sound as they did', () => {
    const now = build(set('hall', { panMode: 'balance' }));
    const old = JSON.parse(JSON.stringify(now)) as Record<string, object>;
    const session = old.session as Record<string, unknown>;
    delete session.stage;
    delete session.panLaw;
    for (const strip of Object.values({ ...old.tracks, ...old.returns, main: old.main })) {
      delete (strip as Record<string, unknown>).panMode;
      delete (strip as Record<string, unknown>).monoLimitDb;
      delete (strip as Record<string, unknown>).placeId;
      delete (strip as Record<string, unknown>).oppositeOf;
    }
    expect(validateDocument({ ...old, version: 6 })).toEqual(now);
  });
});
