import { drawn } from '../../../../test/support/sweep';
import { shippedSession } from '../../../../test/support/shipped';
import { amplitudeAt, db } from '../../../../test/support/render';
import type { FoundChord } from '../../analysis/chordFinder';
import { findOnsets } from '../../analysis/onsets';
import { findPhrases, type Phrases } from '../../analysis/phrases';
import { portraitOf, type Region } from '../../analysis/portrait';
import { measureField } from '../../analysis/stereoField';
import type { Samples } from '../../engine/plan';
import { renderPlan } from '../../engine/render';
import { renderField } from '../../engine/field';
import { inOne } from '../../formats/parts';
import { applyCommand, type Command } from '../commands';
import { compileBounce } from '../compile/bounce';
import { compileTap } from '../compile/parts';
import { landingBeat, type PlacedPrint } from '../prints';
import { SONG } from '../../../../demo/score';
import { channelOf, channels, stripOf } from '../records/queries';
import type { SessionDocument } from '../records/document';
import { connectionsOf } from '../routing';
import type { Answers, RecipeContext, Recipe } from './recipe';
import { RECIPES } from './recipes';

const RATE = 48000;
/** Frames of a beat, of which the session has 84 in a minute. */
const BEAT = Math.round((60 / 84) * RATE);
let count = 0;
const newId = () => `id-${count++}`;

let demo: SessionDocument;
let samples: Map<string, Samples>;
let phrases: Phrases;
/** The demo with the voice alone, without effects, and its phrases. */
let dry: SessionDocument;
let sung: Phrases;
let regions: readonly Region[];
let onsets: Record<string, readonly number[]>;

beforeAll(async () => {
  ({ document: demo, samples } = await shippedSession());
  const voice = tap(demo, 'lamp-keeper');
  phrases = findPhrases(voice.left, voice.right, RATE);
  const only = emptied(demo);
  dry = only.tracks['lamp-keeper']!.insertIds.reduce(
    (rest, id) => applyCommand(rest, { type: 'insert.remove', id }, '').document,
    only,
  );
  const plain = tap(dry, 'lamp-keeper');
  sung = findPhrases(plain.left, plain.right, RATE);
  ({ regions } = portraitOf(voice.left, voice.right, RATE));
  const take = Object.values(demo.clips).find(({ trackId }) => trackId === 'lamp-keeper')!.source as {
    assetId: string;
  };
  const { left, right } = samples.get(take.assetId)!;
  onsets = { [take.assetId]: findOnsets(left, right, RATE).seconds };
});

/** Output of a strip up to a time. */
function tap(document: SessionDocument, stripId: string, seconds = Infinity): Samples {
  const plan = compileTap(document, stripId);
  const toFrame = Math.min(plan.endFrame, Math.round(seconds * RATE));
  return renderPlan(plan, samples, { fromFrame: 0, toFrame, tailSeconds: 0 })!;
}

function rms({ left }: Samples, from: number, to: number): number {
  let sum = 0;
  for (let n = Math.round(from * RATE); n < Math.round(to * RATE); n++) sum += left[n]! * left[n]!;
  return db(Math.sqrt(sum / ((to - from) * RATE)) + 1e-9);
}

const cook = (recipe: Recipe, answers: Answers, chords: RecipeContext['chords'] = []) => {
  const dish = recipe.build({ document: demo, answers, phrases, regions, onsets, chords, newId });
  return { dish, document: applyCommand(demo, dish.command, recipe.name).document };
};

/** The section that the hall is for. */
const flood = () => Object.values(demo.sections).find(({ startBeat }) => startBeat === 36)!;

const firstOf = (recipe: Recipe): Answers =>
  Object.fromEntries(
    recipe.questions.map((one) => [
      one.id,
      one.kind === 'track' ? 'lamp-keeper' : one.kind === 'section' ? flood().id : one.choices[0]!.id,
    ]),
  );

/** The demo with its voice alone, so that all that a recipe makes is new. */
function emptied(document: SessionDocument): SessionDocument {
  const gone = channels(document).filter(({ id }) => id !== 'lamp-keeper');
  return gone.reduce((rest, { id }) => applyCommand(rest, { type: 'strip.remove', id }, '').document, document);
}

describe('recipes', () => {
  it('ask two or three plain questions, say what they will build, and build it in one step', () => {
    for (const recipe of RECIPES) {
      expect(recipe.questions.length).toBeGreaterThanOrEqual(2);
      expect(recipe.questions.length).toBeLessThanOrEqual(3);
      const answers = firstOf(recipe);
      expect(recipe.preview(demo, answers).join(' ')).toContain('Lamp keeper');
      const { dish, document } = cook(recipe, answers);
      expect(dish.built.length).toBeGreaterThan(2);
      const parts = (of: SessionDocument) =>
        of.session.returnIds.length + Object.keys(of.clips).length + Object.keys(of.inserts).length;
      expect(parts(document)).toBeGreaterThan(parts(demo));
    }
  });

  it.each(RECIPES.map((recipe) => [recipe.name, recipe] as const))(
    '%s: what is drawn beforehand is built',
    (_, recipe) => {
      const bare = emptied(demo);
      const answers = firstOf(recipe);
      const drawn = recipe.sketch(bare, answers);
      const { command } = recipe.build({ document: bare, answers, phrases, regions, onsets, chords: [], newId });
      const { document } = applyCommand(bare, command, '');
      const made = channels(document).filter(({ id }) => !stripOf(bare, id));
      const printed = (id: string) =>
        Object.values(document.clips).some(({ trackId, source }) => trackId === id && source.kind === 'print');
      const effects = (ids: readonly string[]) => ids.map((one) => document.inserts[one]!.effect);
      const voice = channelOf(document, 'lamp-keeper')!;
      const placeOf = (id: string) => channelOf(document, id)?.placeId ?? [];
      const given = [
        ...voice.insertIds.slice(stripOf(bare, 'lamp-keeper')!.insertIds.length),
        ...[placeOf('lamp-keeper')].flat(),
      ];
      expect([
        ...(given.length > 0 ? [{ name: voice.name, kind: 'voice', effects: effects(given), fedBy: [] }] : []),
        ...made.map(({ id, name, insertIds }) => ({
          name,
          kind: document.tracks[id] ? 'track' : 'return',
          effects: effects([...insertIds, ...[placeOf(id)].flat()]),
          fedBy: [
            ...connectionsOf(document)
              .filter(({ kind, fromId, toId }) => kind !== 'output' && fromId === 'lamp-keeper' && toId === id)
              .map(({ kind }) => kind),
            ...(printed(id) ? ['print'] : []),
          ],
        })),
      ]).toEqual(drawn);
    },
  );

  it('echoes sink at least 10 dB lower under the words than in the pauses after them', () => {
    const { dish, document } = cook(RECIPES[0]!, { voice: 'lamp-keeper', time: '1/4d', depth: 'clearly' });
    const [, compressor] = document.returns[dish.showId]!.insertIds;
    const free = applyCommand(document, { type: 'insert.bypass', id: compressor!, bypass: true }, '').document;
    const ducked = tap(document, dish.showId);
    const undisturbed = tap(free, dish.showId);
    // Phrases with a pause after them in which their repeats still sound.
    const closed = phrases.phrases.filter(({ start, end }, index) => {
      const next = phrases.phrases[index + 1]?.start;
      return next !== undefined && next - end > 1.5 && end - start > 4;
    });
    expect(closed).toHaveLength(2);
    for (const { start, end } of closed) {
      const words = [start + 2, end - 0.2] as const;
      const pause = [end + 0.5, end + 1.5] as const;
      // The repeats are heard, although they are already dying away in the pause.
      expect(rms(ducked, ...pause) - rms(ducked, ...words)).toBeGreaterThan(10);
      // Effect of the key on the very same repeats.
      const sunk = rms(undisturbed, ...words) - rms(ducked, ...words);
      expect(sunk).toBeGreaterThan(15);
      expect(sunk - (rms(undisturbed, ...pause) - rms(ducked, ...pause))).toBeGreaterThan(10);
    }
  });

  it('throws open the send on the ends of phrases alone', () => {
    const { dish, document } = cook(RECIPES[1]!, { voice: 'lamp-keeper', length: 'word', time: '1/2' });
    expect(dish.built[2]).toContain(`${phrases.phrases.length} phrases`);
    const returnId = document.session.returnIds.at(-1)!;
    const [first] = phrases.phrases;
    const half = (60 / 84) * 2;
    const wet = tap(document, returnId, Math.max(first!.end, (11 * 60) / 84) + half);
    expect(rms(wet, first!.end - 0.45 + half, first!.end + half)).toBeGreaterThan(-50);
    // The last word, “sea”, begins on beat 11.
    expect(rms(wet, 0, (11 * 60) / 84 - 0.02 + half)).toBeLessThan(-100);
  });

  it('a hall is heard in its section alone, and the room in all others', () => {
    const recipe = RECIPES.find(({ id }) => id === 'rooms-by-section')!;
    const { document } = cook(recipe, { voice: 'lamp-keeper', section: flood().id, hall: 'large' });
    const at = (beat: number) => (beat * 60) / 84;
    const [room, hall] = document.session.returnIds.slice(-2).map((id) => tap(document, id, at(46)));
    // In the words of the first phrase, of the flood, and the hall in the line that leads to it.
    expect(rms(room!, at(6), at(10))).toBeGreaterThan(-50);
    expect(rms(hall!, at(6), at(10))).toBeLessThan(-100);
    expect(rms(hall!, at(40), at(44))).toBeGreaterThan(-45);
    expect(rms(room!, at(42), at(46))).toBeLessThan(rms(hall!, at(42), at(46)) - 30);
    const empty = { ...demo, sections: {} };
    expect(() =>
      recipe.build({
        document: empty,
        answers: { voice: 'lamp-keeper', section: '', hall: 'large' },
        phrases,
        regions,
        onsets,
        chords: [],
        newId,
      }),
    ).toThrow('no section to switch rooms by');
  });

  it.each(drawn('halls', ['modest', 'large', 'stone']))(
    'a %s hall opens the chorus to the sides, and is there behind its words',
    (hall) => {
      const recipe = RECIPES.find(({ id }) => id === 'rooms-by-section')!;
      const question = recipe.questions.find(({ kind }) => kind === 'section')!;
      // All sections are as long as one another: the last is meant.
      expect(question.kind === 'section' && question.preselect?.(demo)).toBe('flood');
      const longer: Command = { type: 'section.set', id: 'slack', values: { lengthBeats: 17.5 } };
      const shorter: Command = { type: 'section.set', id: 'flood', values: { lengthBeats: 12 } };
      const changed = applyCommand(demo, { type: 'all', commands: [longer, shorter] }, '').document;
      expect(question.kind === 'section' && question.preselect?.(changed)).toBe('ebb');

      const answers = { voice: 'lamp-keeper', section: 'flood', hall };
      const build = { document: dry, answers, phrases: sung, regions, onsets, chords: [], newId };
      const { document } = applyCommand(dry, recipe.build(build).command, '');
      const mix = renderPlan(compileBounce(document), samples, { fromFrame: 0, toFrame: 54 * BEAT, tailSeconds: 0 })!;
      const sideToMid = (from: number, to: number) => {
        let [mid, side] = [0, 0];
        for (let n = from * BEAT; n < to * BEAT; n++) {
          mid += (mix.left[n]! + mix.right[n]!) ** 2;
          side += (mix.left[n]! - mix.right[n]!) ** 2;
        }
        return 10 * Math.log10(side / mid);
      };
      expect(sideToMid(36, 54)).toBeGreaterThan(3 + Math.max(sideToMid(3, 14), sideToMid(19, 30)));
      const voice = tap(dry, 'lamp-keeper');
      const wet = tap(document, document.session.returnIds.at(-1)!);
      const lines = sung.phrases.filter(({ start }) => start * RATE > 35 * BEAT);
      expect(lines.length).toBeGreaterThan(2);
      for (const { end } of lines)
        expect(rms(wet, end + 0.19, end + 0.21)).toBeGreaterThan(rms(voice, end - 0.4, end - 0.1) - 20);
    },
  );

  it('a word that is held across the end of its section has the hall to its end', () => {
    const recipe = RECIPES.find(({ id }) => id === 'rooms-by-section')!;
    const cut = (id: string, lengthBeats: number, heard: Record<string, readonly number[]>) => {
      const document = applyCommand(dry, { type: 'section.set', id, values: { lengthBeats } }, '').document;
      const answers = { voice: 'lamp-keeper', section: id, hall: 'large' };
      const build = { document, answers, phrases: sung, regions, onsets: heard, chords: [], newId };
      const { command } = recipe.build(build);
      const changed = applyCommand(document, command, '').document;
      const send = Object.values(changed.sends).find(({ toId }) => toId === changed.session.returnIds.at(-1))!;
      return Object.values(changed.lanes)
        .find(({ ownerId }) => ownerId === send.id)!
        .points.at(-1)!.beat;
    };
    // “home” is sung from beat 51 to beat 53.8; on beat 37 “tide” follows “slow” without a pause.
    expect(cut('flood', 16, onsets)).toBeCloseTo(53.8, 1);
    expect(cut('slack', 18.5, onsets)).toBeCloseTo(37, 1);
    expect(cut('slack', 18.5, {})).toBeGreaterThan(43);
    expect(cut('slack', 18, onsets)).toBe(36);
    expect(cut('ebb', 18, onsets)).toBe(18);
  });

  it('a short room is far under the voice, and a bright one has its de-esser first', () => {
    const cooked = (id: string, answers: Answers) => {
      const { document } = cook(
        RECIPES.find((one) => one.id === id)!,
        { voice: 'lamp-keeper', ...answers },
      );
      return { document, wet: tap(document, document.session.returnIds.at(-1)!, to) };
    };
    const [from, to] = [phrases.phrases[0]!.start + 0.5, phrases.phrases[0]!.end - 0.3];
    const voice = tap(demo, 'lamp-keeper', to);
    const near = cooked('pushed-forward', { nearness: 'hardly' });
    const under = rms(voice, from, to) - rms(near.wet, from, to);
    expect(under).toBeGreaterThan(12);
    expect(under).toBeLessThan(30);
    const { document } = cooked('clean-bright-room', { shine: 'bright' });
    const { insertIds } = document.returns[document.session.returnIds.at(-1)!]!;
    expect(insertIds.map((id) => document.inserts[id]!.effect)).toEqual(['deesser', 'reverb']);
  });

  it('a swell lands on the first word of its section, which the score knows', () => {
    for (const [section, beat] of [
      ['ebb', 3],
      ['slack', 19],
      ['flood', 36],
    ] as const) {
      const recipe = RECIPES.find(({ id }) => id === 'swell-into-word')!;
      const { document } = cook(recipe, { voice: 'lamp-keeper', section, space: 'plate' });
      const print = Object.values(document.prints).find(({ id }) => !demo.prints[id]) as PlacedPrint;
      const seconds = ((landingBeat(document, print) - beat) * 60) / document.session.tempoBpm;
      expect(Math.abs(seconds)).toBeLessThan(0.015);
      const clip = Object.values(document.clips).find(
        ({ source }) => source.kind === 'print' && source.printId === print.id,
      )!;
      expect(document.tracks[clip.trackId]!.name).toBe('Swells');
    }
    const recipe = RECIPES.find(({ id }) => id === 'swell-into-word')!;
    expect(() => cook(recipe, { voice: 'low-bell', section: 'flood', space: 'hall' })).toThrow('No word of');
  });

  it('throws open where the last word begins', () => {
    const recipe = RECIPES.find(({ id }) => id === 'last-word-throws')!;
    const { document } = cook(recipe, { voice: 'lamp-keeper', length: 'word', time: '1/4' });
    const lane = Object.values(document.lanes).find(({ id }) => !demo.lanes[id])!;
    const opens = lane.points.filter(({ value }) => value === -3).map(({ beat }) => beat);
    const words = SONG.map(([, beat]) => beat);
    // Beginnings of words in the score, not places in the middle of one.
    for (const beat of opens) {
      const nearest = Math.min(...words.map((one) => Math.abs(one - beat)));
      expect((nearest * 60) / 84).toBeLessThan(0.015);
    }
    expect(opens).toContainEqual(expect.closeTo(51, 1));
  });

  it('widths are wide, and what each says of mono is so', () => {
    const field = ({ left, right }: Samples) => measureField(left, right, RATE);
    const with_ = (id: string, answers: Answers) =>
      cook(
        RECIPES.find((one) => one.id === id)!,
        { voice: 'lamp-keeper', ...answers },
      );
    const before = tap(demo, 'lamp-keeper', 10);
    const deep = with_('depth-from-mono', { depth: 'much' });
    const after = tap(deep.document, 'lamp-keeper', 10);
    expect(field(after).correlation!).toBeLessThan(field(before).correlation! - 0.05);
    let [off, most] = [0, 0];
    for (let n = 0; n < before.left.length; n++) {
      off = Math.max(off, Math.abs(after.left[n]! + after.right[n]! - before.left[n]! - before.right[n]!));
      most = Math.max(most, Math.abs(before.left[n]!));
    }
    expect(db(off / most)).toBeLessThan(-120);

    const split = with_('split-sides', { side: 'right', time: 'wide' });
    const late = split.document.session.returnIds.at(-1)!;
    expect(field(tap(split.document, late, 10)).tiltDb!).toBeLessThan(-20);
    expect(split.document.tracks['lamp-keeper']!.pan).toBe(-70);
    const twice = with_('doubled-take', { grit: 'rough' });
    const second = tap(twice.document, twice.document.session.returnIds.at(-1)!, 10);
    const copies = field(second);
    expect(copies.correlation!).toBeLessThan(0.6);
    expect(Math.abs(copies.tiltDb!)).toBeLessThan(2);
    // With the take itself, as both are heard, hardly anything is lost.
    const sum = (side: 'left' | 'right') => before[side].map((x, n) => x + second[side][n]!);
    expect(field({ left: sum('left'), right: sum('right') }).monoLossDb!).toBeLessThan(1);
    const walk = with_('walking-tremolo', { walk: '1/4d' });
    const { left, right } = tap(walk.document, walk.dish.showId, 10);
    // Every half of its step the room is on the other side.
    const half = Math.round((1.5 / 2) * (60 / demo.session.tempoBpm) * RATE);
    const leaning = Array.from({ length: 12 }, (_, n) => {
      const from = Math.round((3 * RATE) / half) * half + n * half;
      return field({ left: left.slice(from, from + half), right: right.slice(from, from + half) }).tiltDb ?? 0;
    });
    const signs = leaning.map(Math.sign);
    expect(signs.every((one, n) => n === 0 || one === -signs[n - 1]!)).toBe(true);
    expect(Math.min(...leaning.map(Math.abs))).toBeGreaterThan(2);
  });

  it('harmonies sing in the key, and a layer plays its notes with the words of the lead', () => {
    const by = (id: string) => RECIPES.find((one) => one.id === id)!;
    const stretch = (document: SessionDocument, stripId: string, from: number, to: number) => {
      const plan = compileTap(document, stripId);
      const range = { fromFrame: Math.round(from * RATE), toFrame: Math.round(to * RATE), tailSeconds: 0 };
      return renderPlan(plan, samples, range)!;
    };
    const seconds = 60 / demo.session.tempoBpm;
    // The lamp keeper holds E4 from beat 45.5 on: a third above is G4, a fifth B4, and no G sharp.
    const sung = cook(by('harmonies'), { voice: 'lamp-keeper', singers: 'thirdFifth' });
    const high = stretch(sung.document, sung.dish.showId, 45 * seconds, 47.4 * seconds);
    const piece = (sound: Float32Array) => sound.subarray(Math.round(1.1 * RATE), Math.round(1.6 * RATE));
    // With its vibrato.
    const near = (sound: Float32Array, key: number) =>
      Math.hypot(
        ...[-30, -20, -10, 0, 10, 20, 30].map((cents) =>
          amplitudeAt(piece(sound), 440 * 2 ** ((key - 69 + cents / 100) / 12), RATE),
        ),
      );
    expect(near(high.left, 67)).toBeGreaterThan(1.7 * near(high.left, 68));
    expect(near(high.right, 71)).toBeGreaterThan(1.7 * near(high.right, 70));
    // Each at its side.
    expect(near(high.left, 67)).toBeGreaterThan(1.5 * near(high.right, 67));

    const layered = cook(by('vocoded-layer'), { voice: 'lamp-keeper', layer: 'chord' });
    const keysOf = ({ document, dish }: typeof layered) =>
      Object.values(document.notes).flatMap(({ ownerId, key }) => (ownerId === dish.showId ? [key] : []));
    expect(keysOf(layered)).toEqual([50, 53, 57]);
    const layer = stretch(layered.document, layered.dish.showId, 45 * seconds, 47.4 * seconds);
    const harmonic = (key: number) =>
      Math.hypot(...[2, 3, 4].map((k) => amplitudeAt(piece(layer.left), k * 440 * 2 ** ((key - 69) / 12), RATE)));
    for (const key of [50, 53, 57]) expect(harmonic(key)).toBeGreaterThan(2 * harmonic(key + 0.5));

    const found = (steps: FoundChord['steps']) => ({ steps, likeness: 0.9 });
    const [dm, f] = [found([2, 5, 9]), found([5, 9, 0])];
    const answers = { voice: 'lamp-keeper', layer: 'found', chords: 'organ' };
    const followed = cook(by('vocoded-layer'), answers, [dm, dm, null, f, dm]);
    expect(by('vocoded-layer').chordsOf!(answers)).toBe('organ');
    expect(by('vocoded-layer').chordsOf!({ ...answers, layer: 'chord' })).toBeNull();
    // Bars of three beats; the same chord goes on, and nothing is played where none was found.
    expect(
      Object.values(followed.document.notes)
        .filter(({ ownerId }) => ownerId === followed.dish.showId)
        .map(({ startBeat, lengthBeats, key }) => [startBeat, lengthBeats, key]),
    ).toEqual([
      ...[50, 53, 57].map((key) => [0, 6, key]),
      ...[53, 57, 60].map((key) => [9, 3, key]),
      ...[50, 53, 57].map((key) => [12, 3, key]),
    ]);
    expect(followed.dish.built.join(' ')).toContain('Reed organ plays: Dm F Dm.');
    expect(() => cook(by('vocoded-layer'), { ...answers, chords: 'tin' }, [null, null])).toThrow(
      'Tin percussion plays no chord of the key.',
    );

    const spoken = cook(by('speaking-instrument'), { voice: 'announcer', instrument: 'organ', own: 'silent' });
    const [speaking] = spoken.document.returns[spoken.dish.showId]!.insertIds;
    const vocoder = spoken.document.inserts[speaking!]!;
    expect(vocoder.effect).toBe('vocoder');
    expect(vocoder.inputs).toEqual({ key: { stripId: 'organ', tap: 'beforeFader' } });
    expect(spoken.document.tracks.organ!.mute).toBe(true);
    const moved = cook(by('moving-drone'), { voice: 'announcer', way: 'fifth' });
    const lane = Object.values(moved.document.lanes).find(({ parameter }) => parameter === 'transpose')!;
    expect(Math.max(...lane.points.map(({ value }) => Number(value)))).toBe(7);
  });

  it('both orders of an echo and a room are slots of one return', () => {
    const recipe = RECIPES.find(({ id }) => id === 'both-orders')!;
    const { dish, document } = cook(recipe, { voice: 'harp', time: '1/4d', room: 'hall' });
    const effectsOf = (of: SessionDocument) => of.returns[dish.showId]!.insertIds.map((id) => of.inserts[id]!.effect);
    expect(effectsOf(document)).toEqual(['delay', 'reverb']);
    const other = applyCommand(document, { type: 'comparison.choose', id: dish.showId, slot: 'B' }, '').document;
    expect(effectsOf(other)).toEqual(['reverb', 'delay']);
  });

  it('a pad and its hall are across from one another all the way round', () => {
    const pad = tap(demo, 'organ', 10);
    const { regions } = portraitOf(pad.left, pad.right, RATE);
    const answers = { voice: 'organ', round: '2bar', hall: 'far' };
    const dish = RECIPES.find(({ id }) => id === 'circling')!.build({
      ...{ document: demo, answers, phrases, regions, onsets, chords: [], newId },
    });
    const { document } = applyCommand(demo, dish.command, '');
    const hallId = document.session.returnIds.at(-1)!;
    // Nothing but the pad, and of that either the pad itself or its hall.
    const alone = (only: 'pad' | 'hall') => {
      const others = channels(document).filter(({ id }) => id !== 'organ' && id !== hallId);
      const commands: Command[] = [
        ...others.map(({ id }): Command => ({ type: 'strip.set', id, values: { mute: true } })),
        ...(only === 'pad' ? [{ type: 'strip.set', id: hallId, values: { mute: true } } as const] : []),
        { type: 'session.set', values: { wetOnly: only === 'hall' } },
      ];
      const plan = compileBounce(applyCommand(document, { type: 'all', commands }, '').document, 'field1');
      const range = { fromFrame: 0, toFrame: 10 * RATE, tailSeconds: 0 };
      return inOne(
        [...renderField(plan, { samples }, range, 1)].flatMap(({ channels }) =>
          channels.length > 0 ? [channels] : [],
        ),
      );
    };
    /** Degrees to the right, weighted by energy, over a tenth of a second, in which both turn by 8. */
    const azimuth = ([w, y, , x]: readonly Float32Array[], from: number) => {
      let [ahead, right] = [0, 0];
      for (let n = from; n < from + RATE / 10; n++) {
        ahead += w![n]! * x![n]!;
        right -= w![n]! * y![n]!;
      }
      return (Math.atan2(right, ahead) * 180) / Math.PI;
    };
    const [dry, wet] = [alone('pad'), alone('hall')];
    for (let from = 2 * RATE; from < 9 * RATE; from += RATE / 4) {
      const apart = azimuth(dry, from) - azimuth(wet, from) - 180;
      expect([from / RATE, Math.abs(apart - 360 * Math.round(apart / 360)) < 10]).toEqual([from / RATE, true]);
    }
  });

  it('say what is missing when there is nothing to work with', () => {
    const silent: Phrases = { phrases: [], levelDb: null, thresholdDb: -70 };
    const attempt = (recipe: Recipe, answers: Answers) => () =>
      recipe.build({ document: demo, answers, phrases: silent, regions: [], onsets, chords: [], newId });
    expect(attempt(RECIPES[0]!, { voice: 'harp', time: '1/4', depth: 'away' })).toThrow('is silent');
    expect(attempt(RECIPES[1]!, { voice: 'harp', length: 'word', time: '1/4' })).toThrow('No phrases were found');
  });
});

describe('phrases', () => {
  it('are found where the words are', () => {
    const sound = new Float32Array(RATE * 6);
    const spoken = [
      [0.5, 1.4],
      [2.2, 3.1],
      [3.3, 4.0],
    ] as const;
    for (const [from, to] of spoken) {
      for (let n = from * RATE; n < to * RATE; n++) sound[Math.round(n)] = 0.2 * Math.sin(n / 20);
    }
    const found = findPhrases(sound, sound, RATE);
    // The last two are closer than a breath: one phrase.
    expect(found.phrases).toHaveLength(2);
    expect(found.phrases[0]!.start).toBeCloseTo(0.5, 1);
    expect(found.phrases[0]!.end).toBeCloseTo(1.4, 1);
    expect(found.phrases[1]!.end).toBeCloseTo(4.0, 1);
    expect(found.levelDb).toBeGreaterThan(-20);
  });

  it('of silence are none', () => {
    expect(findPhrases(new Float32Array(RATE), new Float32Array(RATE), RATE)).toMatchObject({
      phrases: [],
      levelDb: null,
    });
  });
});
