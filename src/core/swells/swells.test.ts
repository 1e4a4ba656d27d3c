import { madeFile } from '../../../test/support/madeFile';
import { db, largest } from '../../../test/support/render';
import { readWav } from '../formats/wav';
import { Noise } from '../dsp/noise';
import { JOBS } from '../jobs/jobs';
import { inMemory } from '../jobs/place';
import type { JobStep, SharedSamples, Task } from '../jobs/kinds';
import { renderPlan } from '../engine/render';
import { applyCommand, applyStep, type Command } from '../session/commands';
import { compile } from '../session/compile/compiler';
import { framesPerBeat } from '../session/compile/context';
import { isFresh, printWork } from '../session/printing';
import { loopedPart } from './makeSwell';
import { landingBeat, type PlacedPrint } from '../session/prints';
import { newClip, newDocument } from '../session/records/factories';
import type { Clip } from '../session/records/clips';
import type { Insert } from '../session/records/inserts';
import type { Print, SwellRecipe } from '../session/records/prints';
import type { SessionDocument } from '../session/records/document';
import { validateDocument } from '../session/document';

const RATE = 48000;
const VOICE = 'a'.repeat(64);
const LAND = 0.75;
const noise = new Noise(9);
/** A word that begins after 0.75 s. */
const word = Float32Array.from({ length: 2 * RATE }, (_, n) =>
  n < LAND * RATE ? 0 : 0.3 * noise.white() * Math.exp(-(n - LAND * RATE) / 6000),
);
const samples = (more: readonly SharedSamples[] = []) => [{ assetId: VOICE, left: word, right: word }, ...more];
const hall: Insert = {
  id: 'hall',
  effect: 'reverb',
  bypass: false,
  values: { decay: 1.2, quality: 'eco' },
  inputs: {},
  notesFrom: null,
};
const recipe = (more: Partial<SwellRecipe> = {}): SwellRecipe => ({
  kind: 'swell',
  clipId: 'word',
  landSeconds: LAND,
  space: { kind: 'own', inserts: [hall] },
  values: { fadeIn: 0, source: 0.3, level: 0 },
  ...more,
});

const after = (document: SessionDocument, ...commands: Command[]) =>
  applyCommand(document, { type: 'all', commands }, '').document;

function build(more: Partial<SwellRecipe> = {}): SessionDocument {
  const clip = newClip({
    id: 'word',
    trackId: 'voice',
    source: { kind: 'sound', assetId: VOICE },
    name: 'low tide',
    startBeat: 8,
    lengthSeconds: 2,
  });
  return after(
    newDocument('Swells'),
    { type: 'session.set', values: { tempoBpm: 120 } },
    { type: 'asset.add', asset: { id: VOICE, name: 'v', frames: word.length, sampleRateHz: RATE, channels: 1 } },
    { type: 'track.add', id: 'voice', name: 'Voice' },
    { type: 'track.add', id: 'swells', name: 'Swells' },
    { type: 'return.add', id: 'echo', name: 'Echo', role: 'return' },
    {
      type: 'insert.add',
      stripId: 'echo',
      id: 'tide',
      effect: 'reverb',
      index: 0,
      values: { decay: 0.8, quality: 'eco' },
    },
    { type: 'clip.add', clip },
    { type: 'print.add', print: { id: 'p', recipe: recipe(more), made: null } },
    {
      type: 'clip.add',
      clip: {
        ...clip,
        id: 'swell',
        trackId: 'swells',
        name: 'swell',
        source: { kind: 'print', printId: 'p' },
        startBeat: 0,
        lengthSeconds: 1,
      },
    },
  );
}

const print = (document: SessionDocument) => document.prints.p as Print & PlacedPrint;
const workOf = (document: SessionDocument) => printWork(document, print(document))!;

/** Does the work of the print queue: the sound of the swell, and the document that has it. */
async function made(document: SessionDocument, steps: JobStep[] = []) {
  const { task, fingerprint } = workOf(document);
  const { bytes, landSeconds } = await madeFile({ ...task, samples: samples() } as Task & { kind: 'swell' }, (step) => {
    steps.push(step);
  });
  const [left, right] = readWav(bytes, 'swell').channels;
  const sound = { assetId: 'b'.repeat(64), left: left!, right: right! };
  const next = after(
    document,
    {
      type: 'asset.add',
      asset: { id: sound.assetId, name: 's', frames: left!.length, sampleRateHz: RATE, channels: 2 },
    },
    { type: 'print.made', id: 'p', made: { assetId: sound.assetId, fingerprint, landSeconds } },
  );
  return { document: next, sound };
}

const heard = (document: SessionDocument, sound: SharedSamples) => {
  const alone = after(document, { type: 'strip.set', id: 'voice', values: { mute: true } });
  const plan = compile(alone);
  const all = new Map(samples([sound]).map((one) => [one.assetId, one]));
  return renderPlan(plan, all, { fromFrame: 0, toFrame: plan.endFrame, tailSeconds: 0 })!.left;
};
const landingFrame = (document: SessionDocument) =>
  Math.round(landingBeat(document, print(document)) * framesPerBeat(document));

describe('a swell of a session', () => {
  it('grows up to its word and ends on the very frame, wherever the word goes and however fast the session is', async () => {
    const first = await made(build());
    expect(first.sound.left.length).toBeGreaterThan(RATE);
    const moves: Command[][] = [
      [],
      [{ type: 'clip.set', id: 'word', values: { startBeat: 13.37 } }],
      [{ type: 'session.set', values: { tempoBpm: 93 } }],
      [{ type: 'clip.set', id: 'word', values: { startBeat: 9, offsetSeconds: 0.5, lengthSeconds: 1.2 } }],
    ];
    for (const move of moves) {
      const document = after(first.document, ...move);
      const sound = heard(document, first.sound);
      const land = landingFrame(document);
      // Beats are figures with a fraction: the sound may lie one frame beside.
      expect(largest(sound.subarray(land + 1))).toBe(0);
      expect(db(largest(sound.subarray(land - 480, land)))).toBeGreaterThan(-40);
      expect(largest(sound.subarray(land - 240, land))).toBeGreaterThan(
        5 * largest(sound.subarray(land - 0.9 * RATE, land - 0.9 * RATE + 240)),
      );
      validateDocument(structuredClone(document));
    }
  });

  it('is out of date when word, landing, space or tempo of its length change, and stays fresh when it is moved', async () => {
    const { document } = await made(build({ values: { ring: false, length: '1/2' } }));
    expect(isFresh(document, print(document))).toBe(true);
    const set = (more: Partial<SwellRecipe>): Command => ({
      type: 'print.set',
      id: 'p',
      recipe: recipe({ values: { ring: false, length: '1/2' }, ...more }),
    });
    const fresh = (...commands: Command[]) => {
      const next = after(document, ...commands);
      return isFresh(next, print(next));
    };
    expect(fresh({ type: 'clip.set', id: 'word', values: { startBeat: 20 } })).toBe(true);
    expect(fresh({ type: 'strip.set', id: 'swells', values: { gainDb: -3 } })).toBe(true);
    expect(fresh({ type: 'clip.set', id: 'word', values: { gainDb: -3 } })).toBe(false);
    expect(fresh({ type: 'session.set', values: { tempoBpm: 119 } })).toBe(false);
    expect(fresh(set({ landSeconds: 0.8 }))).toBe(false);
    expect(fresh(set({ space: { kind: 'return', returnId: 'echo' } }))).toBe(false);
    const linked = after(document, set({ space: { kind: 'return', returnId: 'echo' } }));
    const before = workOf(linked).fingerprint;
    const turned = after(linked, { type: 'insert.set', id: 'tide', values: { decay: 0.9 } });
    expect(workOf(turned).fingerprint).not.toBe(before);
  });

  it('of a whole phrase goes on under the words', async () => {
    const { document, sound } = await made(build({ values: { source: 1, over: true, fadeIn: 0 } }));
    const land = landingFrame(document);
    const out = heard(document, sound);
    expect(db(largest(out.subarray(land + 100, land + 4800)))).toBeGreaterThan(-40);
    const { startBeat, lengthSeconds } = document.clips.swell!;
    expect(startBeat / 2 + lengthSeconds - land / RATE).toBeCloseTo(1, 3);
  });

  it('leads into what of a clip lies under the loop, where that begins within the clip, reversed clips from their end', () => {
    const looped = (startBeat: number, endBeat: number, more: Partial<Clip> = {}) => {
      const values = { loopOn: true, loopStartBeat: startBeat, loopEndBeat: endBeat };
      const document = after(build(), { type: 'session.set', values }, { type: 'clip.set', id: 'word', values: more });
      return loopedPart(document.clips.word!, document);
    };
    // Half a second a beat; the clip lies from beat 8 to 12.
    expect(looped(9, 10)).toEqual({ from: 0.5, to: 1 });
    expect(looped(9, 40)).toEqual({ from: 0.5, to: 2 });
    expect(looped(9, 10, { reversed: true })).toEqual({ from: 1, to: 1.5 });
    expect(looped(9, 10, { offsetSeconds: 0.25, lengthSeconds: 1.5 })).toEqual({ from: 0.75, to: 1.25 });
    for (const [from, to] of [
      [4, 10],
      [12, 14],
    ] as const) {
      expect(looped(from, to)).toBeNull();
    }
    expect(loopedPart(build().clips.word!, build())).toBeNull();
  });

  it('is seen while it grows: what is there so far comes ahead of the end', async () => {
    const steps: JobStep[] = [];
    const { sound } = await made(build(), steps);
    const begun = steps.find((step) => typeof step !== 'number') as { left: Float32Array; right: Float32Array };
    expect(steps.indexOf(begun)).toBeLessThan(steps.length - 1);
    expect(begun.left.length).toBe(sound.left.length + Math.round(0.3 * RATE));
  });

  it('has level, tone, width, gap and length as they are set', async () => {
    const plain = (await made(build())).sound;
    const with_ = async (values: SwellRecipe['values']) =>
      (await made(build({ values: { source: 0.3, fadeIn: 0, level: 0, ...values } }))).sound;
    const softer = await with_({ level: -6 });
    expect(softer.left[20000]! / plain.left[20000]!).toBeCloseTo(10 ** (-6 / 20), 5);
    const mono = await with_({ width: 0 });
    expect(mono.left).toEqual(mono.right);
    const gapped = await with_({ gap: 20 });
    expect(gapped.left.length).toBe(plain.left.length);
    expect(largest(gapped.left.subarray(-960))).toBe(0);
    expect(largest(gapped.left.subarray(-1200, -960))).toBeGreaterThan(0.0001);
    expect((await with_({ ring: false, length: '1/2' })).left.length).toBe(RATE);
    const high = (x: Float32Array) => {
      let sum = 0;
      let all = 0;
      for (let n = 1; n < x.length; n++) {
        sum += (x[n]! - x[n - 1]!) ** 2;
        all += x[n]! ** 2;
      }
      return sum / all;
    };
    expect(high((await with_({ tone: -3 })).left)).toBeLessThan(0.5 * high(plain.left));
  });

  it('goes with its word when that is split, and is a sound of its own when the word goes', async () => {
    const { document, sound } = await made(build());
    const early = after(document, { type: 'clip.split', id: 'word', atBeat: 8.5, newId: 'rest' });
    expect((print(early).recipe as SwellRecipe).clipId).toBe('rest');
    expect(landingFrame(early)).toBe(landingFrame(document));
    const late = after(document, { type: 'clip.split', id: 'word', atBeat: 11, newId: 'rest' });
    expect((print(late).recipe as SwellRecipe).clipId).toBe('word');
    const alone = after(document, { type: 'clip.remove', ids: ['word'] });
    expect(alone.clips.swell!.source).toEqual({ kind: 'sound', assetId: sound.assetId });
    expect([alone.prints, alone.clips.swell!.startBeat]).toEqual([{}, document.clips.swell!.startBeat]);
    expect(after(build(), { type: 'clip.remove', ids: ['word'] }).clips).toEqual({});
    expect(after(document, { type: 'clip.remove', ids: ['swell'] }).prints).toEqual({});
    expect(after(document, { type: 'strip.remove', id: 'voice' }).clips.swell!.source.kind).toBe('sound');
  });

  it('is copied with its word as another, and alone as a sound', async () => {
    const { document } = await made(build());
    const both = after(document, {
      type: 'clip.duplicate',
      copies: [
        { id: 'word', newId: 'word2' },
        { id: 'swell', newId: 'swell2' },
      ],
    });
    const copy = both.prints['swell2-print']! as PlacedPrint;
    expect(copy.recipe.clipId).toBe('word2');
    expect(landingBeat(both, copy)).toBeGreaterThan(landingBeat(both, print(both)));
    expect(isFresh(both, copy)).toBe(true);
    const alone = after(document, { type: 'clip.duplicate', copies: [{ id: 'swell', newId: 'swell2' }] });
    expect(alone.clips.swell2!.source.kind).toBe('sound');
  });

  it('keeps the effects of a return that goes', () => {
    const document = build({ space: { kind: 'return', returnId: 'echo' } });
    const { space } = print(after(document, { type: 'strip.remove', id: 'echo' })).recipe as SwellRecipe;
    expect(space).toMatchObject({ kind: 'own', inserts: [{ effect: 'reverb', values: { decay: 0.8 } }] });
  });

  it('loses its beginning where the session has not begun yet, and is where it leads after undo', async () => {
    const first = await made(build());
    const { document, step } = applyCommand(
      first.document,
      { type: 'clip.set', id: 'word', values: { startBeat: 0 } },
      'Move',
    );
    const { startBeat, offsetSeconds, lengthSeconds } = document.clips.swell!;
    expect([startBeat, lengthSeconds]).toEqual([0, expect.closeTo(LAND, 3)]);
    expect(offsetSeconds).toBeGreaterThan(0.2);
    // Another sound has come in between.
    const shorter = after(
      document,
      { type: 'asset.add', asset: { id: 'c'.repeat(64), name: 's', frames: RATE, sampleRateHz: RATE, channels: 2 } },
      { type: 'print.made', id: 'p', made: { assetId: 'c'.repeat(64), fingerprint: 'x', landSeconds: 1 } },
    );
    const back = applyStep(shorter, step.inverse);
    expect(back.clips.swell).toMatchObject({
      startBeat: expect.closeTo(9.5 - 2, 6),
      lengthSeconds: 1,
      offsetSeconds: 0,
    });
  });

  it('refuses what it cannot be', () => {
    const document = build();
    const set = (more: Partial<SwellRecipe>) => () =>
      after(document, { type: 'print.set', id: 'p', recipe: recipe(more) });
    expect(set({ clipId: 'swell' })).toThrow('A clip cannot be made from itself');
    expect(set({ clipId: 'nobody' })).toThrow('a print of a clip that is not there');
    expect(set({ space: { kind: 'return', returnId: 'voice' } })).toThrow('rings in a return that is not there');
    expect(set({ values: { source: 100 } })).toThrow('source takes 0.01 s to 60 s');
    expect(set({ values: { wonder: 1 } })).toThrow('A swell has no wonder');
    expect(() => after(document, { type: 'print.unlink', id: 'p' })).toThrow('It has not been made yet');
  });

  it('gives back all memory when it is given up', async () => {
    const { task } = workOf(build());
    const steps = JOBS.swell(
      { ...(task as Task & { kind: 'swell' }), samples: samples() },
      { tell: () => {}, place: inMemory() },
    );
    await steps.next();
    await steps.next();
    await steps.return(undefined as never);
    expect((await steps.next()).done).toBe(true);
  });
});

describe('a print of a clip', () => {
  it('is the clip through its track, from where it begins, with what rings after it', async () => {
    const document = after(
      build(),
      { type: 'insert.add', stripId: 'voice', id: 'echo1', effect: 'delay', index: 0, values: { mix: 50 } },
      {
        type: 'clip.add',
        clip: { ...build().clips.word!, id: 'other', startBeat: 9 },
      },
    );
    const work = printWork(document, { recipe: { kind: 'clip', clipId: 'word' } })!;
    const { bytes, landSeconds } = await madeFile({ ...work.task, samples: samples() } as Task & { kind: 'print' });
    const [left] = readWav(bytes, 'print').channels;
    expect(landSeconds).toBe(0);
    expect(left!.length).toBeGreaterThan(2 * RATE);
    // The dry word begins where it begins in the clip; the other clip is not heard.
    expect(largest(left!.subarray(0, LAND * RATE))).toBe(0);
    const alone = after(document, { type: 'clip.remove', ids: ['other', 'swell'] });
    const plan = compile(alone);
    const whole = renderPlan(plan, new Map([[VOICE, { left: word, right: word }]]), {
      fromFrame: 0,
      toFrame: plan.endFrame,
      tailSeconds: 1,
    })!.left;
    expect(left!.subarray(0, 2 * RATE)).toEqual(whole.subarray(4 * RATE, 6 * RATE));
  });
});

describe('a repair', () => {
  it('takes offset and rumble away and leaves the rest', async () => {
    const rumble = Float32Array.from(
      { length: 2 * RATE },
      (_, n) => 0.1 + 0.2 * Math.sin((2 * Math.PI * 20 * n) / RATE),
    );
    const tone = Float32Array.from(rumble, (one, n) => one + 0.2 * Math.sin((2 * Math.PI * 1000 * n) / RATE));
    const repaired = async (removeDc: boolean, rumbleHz: number) => {
      const recipe = {
        kind: 'repair' as const,
        source: { kind: 'sound' as const, assetId: VOICE },
        removeDc,
        rumbleHz,
      };
      const work = printWork(build(), { recipe })!;
      const task = { ...work.task, samples: [{ assetId: VOICE, left: tone, right: tone }] } as Task & {
        kind: 'repair';
      };
      return readWav((await madeFile(task)).bytes, 'r').channels[0]!;
    };
    const mean = (x: Float32Array) => x.reduce((a, b) => a + b, 0) / x.length;
    const at = (x: Float32Array, hz: number) => {
      let re = 0;
      let im = 0;
      for (let n = RATE; n < 2 * RATE; n++) {
        re += x[n]! * Math.cos((2 * Math.PI * hz * n) / RATE);
        im += x[n]! * Math.sin((2 * Math.PI * hz * n) / RATE);
      }
      return (2 * Math.hypot(re, im)) / RATE;
    };
    expect(mean(tone)).toBeCloseTo(0.1, 3);
    const level = await repaired(true, 0);
    expect(Math.abs(mean(level))).toBeLessThan(1e-6);
    expect(at(level, 20)).toBeCloseTo(0.2, 3);
    const cut = await repaired(false, 80);
    // Two octaves below the corner at 24 dB an octave.
    expect(db(at(cut, 20) / 0.2)).toBeLessThan(-46);
    expect(db(at(cut, 1000) / 0.2)).toBeCloseTo(0, 1);
    expect(cut.length).toBe(tone.length);
  });

  it('is heard as the sound is until it has been made', () => {
    const document = after(
      build(),
      {
        type: 'print.add',
        print: {
          id: 'r',
          recipe: { kind: 'repair', source: { kind: 'sound', assetId: VOICE }, removeDc: true, rumbleHz: 60 },
          made: null,
        },
      },
      { type: 'clip.set', id: 'word', values: { source: { kind: 'print', printId: 'r' } } },
    );
    const strip = compile(document).strips.find(({ id }) => id === 'voice')!;
    expect(strip.clips[0]!.assetId).toBe(VOICE);
    expect(after(document, { type: 'clip.remove', ids: ['word'] }).prints).toEqual({});
  });
});
