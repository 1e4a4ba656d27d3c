import { Steady, steadySpec as spec, withSteady } from '../../../test/support/steady';
import { resolveSettings, resolveValues, validateValues } from '../effects/resolve';
import { resourceFor } from '../effects/resource';
import type { ParameterValues } from '../effects/spec';
import { runJob } from '../jobs/jobs';
import { applyCommand, type Command } from '../session/commands';
import { compile } from '../session/compile/compiler';
import { validateDocument } from '../session/document';
import { newDocument } from '../session/records/factories';
import { Engine } from './engine';
import type { Plan, PlanInsert } from './plan';
import { planClip, planStrip } from './plans';
import { renderPlan } from './render';

const RATE = 48000;
const SOUND = 'a'.repeat(64);

withSteady();

function insertOf(values: ParameterValues): PlanInsert {
  const numbers = resolveValues(spec, values, { tempoBpm: 90, beatsPerBar: 4 });
  const settings = resolveSettings(spec, values)!;
  const resource = resourceFor(spec, RATE, numbers, settings)!;
  return { id: 's', effect: 'steady', bypass: false, values: numbers, settings, resource };
}
const plan = (values: ParameterValues): Plan => ({
  sampleRate: RATE,
  framesPerBeat: 24000,
  endFrame: RATE,
  loop: null,
  strips: [planStrip('main', { clips: [planClip('clip', RATE, { assetId: 'dry' })], inserts: [insertOf(values)] })],
  edges: [],
});
const dry = new Float32Array(RATE).fill(0.1);
const samples = new Map([['dry', { left: dry, right: dry }]]);

function heard(engine: Engine, blocks: number): Float32Array {
  const left = new Float32Array(128);
  for (let block = 0; block < blocks; block++) engine.renderBlock(left, new Float32Array(128), 128);
  return left;
}

describe('what an effect works with', () => {
  it('is called by another key when what it is made from changes, and only then', () => {
    const key = (values: ParameterValues) => insertOf(values).resource!.key;
    expect(key({ other: 5 })).toBe(key({}));
    expect(new Set([key({}), key({ factor: 2 }), key({ sound: SOUND })]).size).toBe(3);
    expect(insertOf({ sound: SOUND }).resource!.assetId).toBe(SOUND);
    expect(insertOf({}).resource!.assetId).toBeNull();
  });

  it('is waited for with the dry sound, then faded in; the old one sounds on until a new one is there', () => {
    const engine = new Engine(RATE);
    engine.setSamples('dry', samples.get('dry')!);
    engine.applyPlan(plan({}));
    engine.play();
    expect(heard(engine, 4)[127]).toBeCloseTo(0.1, 6);
    engine.setResource(insertOf({}).resource!.key, [Float32Array.of(0.5)]);
    const first = heard(engine, 1)[0]!;
    expect(first).toBeGreaterThan(0.09);
    expect(first).toBeLessThan(0.2);
    expect(heard(engine, 20)[127]).toBeCloseTo(0.5, 6);
    engine.applyPlan(plan({ factor: 2 }));
    expect(heard(engine, 20)[127]).toBeCloseTo(0.5, 6);
    engine.setResource(insertOf({ factor: 2 }).resource!.key, [Float32Array.of(0.9)]);
    expect(heard(engine, 20)[127]).toBeCloseTo(0.9, 6);
    Steady.taken = 0;
    engine.applyPlan(plan({ factor: 2, other: 3 }));
    expect(Steady.taken).toBe(0);
  });

  it('is there from the first frame when it came before the plan, and in every print', () => {
    const engine = new Engine(RATE);
    engine.setResource(insertOf({}).resource!.key, [Float32Array.of(0.5)]);
    engine.applyPlan(plan({}));
    engine.play();
    expect(heard(engine, 1)[0]).toBeCloseTo(0.5, 6);
    const sound = Float32Array.of(0.25, 0);
    const sounds = new Map([...samples, [SOUND, { left: sound, right: sound }] as const]);
    const range = { fromFrame: 0, toFrame: 1000, tailSeconds: 0 };
    expect(renderPlan(plan({ factor: 3 }), samples, range)!.left[0]).toBeCloseTo(1.5, 6);
    expect(renderPlan(plan({ sound: SOUND, factor: 2 }), sounds, range)!.left[999]).toBeCloseTo(0.5, 6);
  });

  it('is prepared by a job, which says why it cannot be', async () => {
    const prepared = await runJob({
      kind: 'prepare',
      insert: insertOf({ factor: 4 }),
      sampleRateHz: RATE,
      sound: null,
    });
    expect(prepared).toEqual([Float32Array.of(2)]);
    const broken = insertOf({ sound: 'broken' });
    await expect(runJob({ kind: 'prepare', insert: broken, sampleRateHz: RATE, sound: null })).rejects.toThrow(
      'a broken sound',
    );
  });

  it('is saved as what it is called by, must be in the session, and takes nothing else', () => {
    const add = (values: ParameterValues): Command => ({
      type: 'insert.add',
      stripId: 'main',
      id: 's',
      effect: 'steady',
      index: 0,
      values: { ...values },
    });
    const document = applyCommand(newDocument('S'), add({}), '').document;
    expect(compile(document).strips[0]!.inserts[0]!.resource).toEqual(insertOf({}).resource);
    expect(() => applyCommand(newDocument('S'), add({ sound: SOUND }), '')).toThrow('a sound that is not there');
    const asset = { id: SOUND, name: 'a.wav', frames: 100, sampleRateHz: RATE, channels: 1 };
    const both: Command = { type: 'all', commands: [{ type: 'asset.add', asset }, add({ sound: SOUND })] };
    const whole = applyCommand(newDocument('S'), both, '').document;
    expect(validateDocument(JSON.parse(JSON.stringify(whole)))).toEqual(whole);
    expect(() => validateValues(spec, { sound: 'hall' })).toThrow(
      'sound takes a sound of up to 2 s or one of one, broken, not "hall"',
    );
  });
});
