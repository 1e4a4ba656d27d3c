import { OCTAVES_HZ } from '../dsp/octaveBands';
import { monotoneCurveAt } from '../math/monotoneCurve';
import { effectById } from '../effects/registry';
import { readFileSync } from 'node:fs';
import { validateDocument } from './document';
import { isFresh } from './printing';
import fc from 'fast-check';
import type { ParameterValue } from '../effects/spec';
import { KinetikonError } from '../errors';
import { applyChanges, documentChanges, type Change } from './changes';
import { documentChecksum } from './checksum';
import { applyCommand, applyStep, type Command } from './commands';
import { compile } from './compile/compiler';
import { compileBounce, playedFiner } from './compile/bounce';
import type { Plan } from '../engine/plan';
import { redo, remember, undo } from './history';
import { EMPTY_HISTORY, validateHistory } from './storedHistory';
import { DOCUMENT_VERSION, type SessionDocument } from './records/document';
import { newClip, newDocument, newTrack } from './records/factories';
import type { Asset, Clip } from './records/clips';
import type { Point } from './records/lanes';

const SOUND = 'a'.repeat(64);

const clipOf = (id: string, more: Partial<Clip> = {}): Clip => ({
  id,
  trackId: 'voice',
  source: { kind: 'sound', assetId: SOUND },
  name: 'Lamp song',
  startBeat: 3,
  offsetSeconds: 0.5,
  lengthSeconds: 4,
  gainDb: 0,
  fadeInSeconds: 0.01,
  fadeOutSeconds: 0.02,
  fadeInShape: 'smooth' as const,
  fadeOutShape: 'smooth' as const,
  reversed: false,
  mute: false,
  ...more,
});

function build(): SessionDocument {
  return applyCommand(
    newDocument('Low Water Signal'),
    {
      type: 'all',
      commands: [
        { type: 'session.set', values: { tempoBpm: 84, metreBeats: 3 } },
        {
          type: 'asset.add',
          asset: { id: SOUND, name: 'voice.flac', frames: 480000, sampleRateHz: 48000, channels: 1 },
        },
        { type: 'track.add', id: 'voice', name: 'Lamp keeper' },
        { type: 'track.add', id: 'harp', name: 'Nylon harp' },
        { type: 'clip.add', clip: clipOf('one') },
        { type: 'insert.add', stripId: 'voice', id: 'echo', effect: 'delay', index: 0 },
        { type: 'insert.add', stripId: 'main', id: 'guard', effect: 'limiter', index: 0 },
        { type: 'section.add', section: { id: 'ebb', name: 'ebb', startBeat: 0, lengthBeats: 12 } },
      ],
    },
    'Build',
  ).document;
}

/** Commands that may or may not fit the document: what does not fit must be refused without a trace. */
const anyCommand: fc.Arbitrary<Command> = fc.oneof(
  fc.record({
    type: fc.constant('session.set' as const),
    values: fc.record({ tempoBpm: fc.integer({ min: 10, max: 310 }) }),
  }),
  fc.record({
    type: fc.constant('strip.set' as const),
    id: fc.constantFrom('voice', 'harp', 'main', 'nobody'),
    values: fc.record({ gainDb: fc.integer({ min: -120, max: 20 }), mute: fc.boolean() }),
  }),
  fc.record({
    type: fc.constant('clip.set' as const),
    id: fc.constantFrom('one', 'two'),
    values: fc.record({
      startBeat: fc.integer({ min: -2, max: 40 }),
      trackId: fc.constantFrom('voice', 'harp', 'nobody'),
    }),
  }),
  fc.record({
    type: fc.constant('clip.split' as const),
    id: fc.constant('one'),
    atBeat: fc.integer({ min: 0, max: 10 }),
    newId: fc.constantFrom('two', 'three'),
  }),
  fc.record({ type: fc.constant('clip.duplicate' as const), copies: fc.constant([{ id: 'one', newId: 'four' }]) }),
  fc.record({ type: fc.constant('clip.remove' as const), ids: fc.constantFrom(['one'], ['two', 'one'], ['four']) }),
  fc.record({
    type: fc.constant('insert.add' as const),
    stripId: fc.constantFrom('voice', 'harp', 'main'),
    id: fc.constantFrom('u1', 'u2'),
    effect: fc.constantFrom('utility', 'delay', 'choir'),
    index: fc.nat({ max: 3 }),
  }),
  fc.record({
    type: fc.constant('insert.set' as const),
    id: fc.constantFrom('echo', 'u1'),
    values: fc.constantFrom<Record<string, ParameterValue>>(
      { mix: 40 },
      { mix: 140 },
      { 'lines.1.timeLeft': '1/8d' },
      { other: 1 },
    ),
  }),
  fc.record({
    type: fc.constant('return.add' as const),
    id: fc.constantFrom('wet', 'bus'),
    name: fc.constant('Wet'),
    role: fc.constantFrom('return' as const, 'group' as const),
  }),
  fc.record({
    type: fc.constant('send.add' as const),
    send: fc.record({
      id: fc.constantFrom('s1', 's2'),
      fromId: fc.constantFrom('voice', 'harp', 'wet', 'bus'),
      toId: fc.constantFrom('wet', 'bus', 'voice'),
      gainDb: fc.integer({ min: -110, max: 20 }),
      tap: fc.constantFrom('beforeFader' as const, 'afterFader' as const),
      mute: fc.boolean(),
    }),
  }),
  fc.record({ type: fc.constant('send.remove' as const), id: fc.constantFrom('s1', 's2') }),
  fc.record({
    type: fc.constant('strip.set' as const),
    id: fc.constantFrom('voice', 'wet', 'bus'),
    values: fc.record({ outputId: fc.constantFrom('main', 'wet', 'bus') }),
  }),
  fc.record({
    type: fc.constant('insert.input' as const),
    id: fc.constantFrom('echo', 'u1'),
    slot: fc.constantFrom('key', 'other'),
    from: fc.option(
      fc.record({
        stripId: fc.constantFrom('voice', 'harp', 'wet'),
        tap: fc.constantFrom('beforeFader' as const, 'afterFader' as const),
      }),
    ),
  }),
  fc.record({
    type: fc.constant('lane.add' as const),
    lane: fc.record({
      id: fc.constantFrom('l1', 'l2'),
      ownerId: fc.constantFrom('voice', 'echo', 'one', 's1'),
      parameter: fc.constantFrom('gainDb', 'mix', 'pan'),
      on: fc.boolean(),
      points: fc.constantFrom<Point[]>([], [{ beat: 1, value: 0, shape: 'hold', bend: 0 }]),
      mirrorOf: fc.constantFrom(null, 'l1'),
      mirrorAmount: fc.integer({ min: 0, max: 250 }),
    }),
  }),
  fc.record({ type: fc.constant('lane.remove' as const), id: fc.constantFrom('l1', 'l2') }),
  fc.record({
    type: fc.constant('comparison.choose' as const),
    id: fc.constantFrom('echo', 'voice', 'wet'),
    slot: fc.constantFrom('A' as const, 'B' as const, 'C' as const),
  }),
  fc.record({ type: fc.constant('insert.move' as const), id: fc.constantFrom('echo', 'u1'), to: fc.nat({ max: 3 }) }),
  fc.record({ type: fc.constant('insert.remove' as const), id: fc.constantFrom('echo', 'u2') }),
  fc.record({ type: fc.constant('strip.move' as const), id: fc.constantFrom('voice', 'harp'), to: fc.nat({ max: 2 }) }),
  fc.record({ type: fc.constant('strip.remove' as const), id: fc.constantFrom('voice', 'harp', 'wet', 'bus') }),
);

describe('commands', () => {
  it('leave a valid document, or refuse and change nothing; their inverses are exact; steps can be done again', () => {
    fc.assert(
      fc.property(fc.array(anyCommand, { maxLength: 12 }), (commands) => {
        let document = build();
        const start = document;
        let history = EMPTY_HISTORY;
        for (const command of commands) {
          const frozen = JSON.stringify(document);
          try {
            const done = applyCommand(document, command, command.type);
            expect(applyStep(done.document, done.step.inverse)).toEqual(document);
            document = done.document;
            history = remember(history, done.step);
            validateDocument(document);
          } catch (error) {
            if (!(error instanceof KinetikonError)) throw error;
            expect(JSON.stringify(document)).toBe(frozen);
          }
        }
        const end = document;
        // A save carries what has changed, and its sum tells that it arrived.
        const changes = JSON.parse(JSON.stringify(documentChanges(start, end))) as Change[];
        const arrived = applyChanges(JSON.parse(JSON.stringify(start)) as SessionDocument, changes);
        expect(arrived).toEqual(end);
        expect(documentChecksum(arrived)).toBe(documentChecksum(end));
        for (let back = undo(document, history); back; back = undo(document, history)) ({ document, history } = back);
        expect(document).toEqual(start);
        const saved = JSON.parse(JSON.stringify(history));
        for (let again = redo(document, saved); again; again = redo(document, history)) ({ document, history } = again);
        expect(document).toEqual(end);
      }),
    );
  });

  it('split a clip without losing a moment of its sound', () => {
    const { document } = applyCommand(build(), { type: 'clip.split', id: 'one', atBeat: 4.4, newId: 'two' }, 'Split');
    const { one, two } = document.clips;
    expect(one!.lengthSeconds + two!.lengthSeconds).toBeCloseTo(4, 12);
    expect(two!.offsetSeconds).toBeCloseTo(0.5 + one!.lengthSeconds, 12);
    expect([one!.fadeInSeconds, one!.fadeOutSeconds, two!.fadeInSeconds, two!.fadeOutSeconds]).toEqual([
      0.01, 0, 0, 0.02,
    ]);
  });

  it('refuse with the name, the range and the value', () => {
    const attempt = (command: Command) => () => applyCommand(build(), command, '');
    expect(attempt({ type: 'insert.set', id: 'echo', values: { 'lines.1.feedback': 130 } })).toThrow(
      'lines.1.feedback takes -110 % to 110 %, not 130',
    );
    expect(attempt({ type: 'session.set', values: { tempoBpm: 500 } })).toThrow('the tempo takes 20 to 300, not 500');
    expect(attempt({ type: 'session.set', values: { loopEndBeat: 0 } })).toThrow('loop must end after');
    expect(attempt({ type: 'insert.add', stripId: 'voice', id: 'x', effect: 'choir', index: 0 })).toThrow(
      'There is no effect "choir"',
    );
  });
});

describe('compile', () => {
  it('turns beats and seconds into frames, and note values into milliseconds', () => {
    const plan = compile(
      applyCommand(build(), { type: 'insert.set', id: 'echo', values: { 'lines.1.timeLeft': '1/8d' } }, '').document,
    );
    const voice = plan.strips[0]!;
    expect(voice.clips[0]).toMatchObject({
      startFrame: Math.round((3 * 60 * 48000) / 84),
      offsetFrame: 24000,
      lengthFrames: 192000,
    });
    const time = effectById('delay').parameters.findIndex(({ id }) => id === 'lines.1.timeLeft');
    expect(voice.inserts[0]!.values[time]).toBeCloseTo(535.714286, 5);
    expect(plan.strips.at(-1)!.inserts[0]!.effect).toBe('limiter');
  });

  it('lets solo win over everything unsoloed, and mute silence the rest', () => {
    const audible = (commands: Command[]) =>
      compile(applyCommand(build(), { type: 'all', commands }, '').document)
        .strips.slice(0, 2)
        .map((strip) => strip.audible);
    expect(audible([])).toEqual([true, true]);
    expect(audible([{ type: 'strip.set', id: 'harp', values: { mute: true } }])).toEqual([true, false]);
    expect(audible([{ type: 'strip.set', id: 'harp', values: { solo: true } }])).toEqual([false, true]);
  });
});

describe('documents', () => {
  it('survive JSON and are checked whole', () => {
    const document = build();
    expect(validateDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    const spoil = (edit: (copy: SessionDocument) => void) => () => {
      const copy = structuredClone(document);
      edit(copy);
      validateDocument(copy);
    };
    expect(spoil((d) => (d.clips.one!.trackId = 'nobody'))).toThrow('a track that is not there');
    expect(spoil((d) => d.session.trackIds.pop())).toThrow('order of tracks');
    expect(spoil((d) => d.tracks.voice!.insertIds.push('ghost'))).toThrow('effects differ');
    expect(spoil((d) => ((d as { version: number }).version = 99))).toThrow('newer version');
    expect(spoil((d) => (d.inserts.echo!.values.mix = 'loud'))).toThrow('mix takes 0 % to 100 %');
    expect(spoil((d) => Object.assign(d.tracks.harp!, { colour: 'red' }))).toThrow(
      'there is nothing called colour that could be set',
    );
  });

  it('of version 1, as it was frozen, still open and sound', () => {
    const frozen = JSON.parse(readFileSync('test/fixtures/session-1.json', 'utf8')) as unknown;
    const plan = compile(validateDocument(frozen));
    expect(plan.strips.map((strip) => strip.clips.length)).toEqual([3, 1, 1, 1, 3, 1, 1, 0]);
    expect(plan.strips[0]!.inserts.map((insert) => insert.effect)).toEqual(['delay']);
  });

  it('of version 2, as it was frozen, gain modulators and sound the same', () => {
    const document = validateDocument(JSON.parse(readFileSync('test/fixtures/session-2.json', 'utf8')));
    expect([document.version, document.modulators]).toEqual([DOCUMENT_VERSION, {}]);
    const inserts = compile(document).strips.flatMap((strip) => strip.inserts);
    expect(inserts).toHaveLength(Object.keys(document.inserts).length);
    expect(inserts.every((insert) => insert.modulations === undefined)).toBe(true);
    const delay = inserts.find((insert) => insert.id === 'keeper-echo')!;
    const at = (id: string) => delay.values[effectById('delay').parameters.findIndex((one) => one.id === id)];
    expect([at('lines.1.on'), at('lines.2.on'), at('lines.1.feedback'), at('routing')]).toEqual([1, 0, 38, 0]);
  });

  it('brings a document of version 4 up to date: keys become inputs, clips have sources, frozen strips their prints', () => {
    const old = JSON.parse(readFileSync('test/fixtures/session-4.json', 'utf8')) as {
      [collection: string]: Record<string, Record<string, unknown>>;
    };
    const keyed = Object.values(old.inserts!).filter(({ keyId }) => keyId !== null);
    expect(keyed.length).toBeGreaterThan(0);
    const [assetId] = Object.keys(old.assets!);
    const { harp } = old.tracks!;
    harp!.frozen = { assetId, source: 'f' };
    const [comparedId] = old.tracks!['lamp-keeper']!.insertIds as string[];
    old.comparisons![comparedId!] = {
      id: comparedId,
      current: 'A',
      slots: { A: null, B: { inserts: [old.inserts![comparedId!]], lanes: [] }, C: null, D: null },
    };
    const document = validateDocument(old);
    for (const { id, keyId, keyTap } of keyed) {
      expect(document.inserts[String(id)]!.inputs).toEqual({ key: { stripId: keyId, tap: keyTap } });
    }
    for (const { id, source } of Object.values(document.clips)) {
      expect(source).toEqual({ kind: 'sound', assetId: old.clips![id]!.assetId });
    }
    expect(document.comparisons[comparedId!]!.slots.B!.inserts[0]!.inputs).toEqual({});
    const print = document.prints[document.tracks.harp!.frozen!]!;
    expect(isFresh(document, print)).toBe(false);
    const played = compile(document).strips.find(({ id }) => id === 'harp')!;
    expect([played.inserts, played.clips.map((clip) => clip.assetId)]).toEqual([[], [assetId]]);
  });

  it('brings a document of version 3 up to date: times beyond their range become what they sounded as', () => {
    const old = JSON.parse(readFileSync('test/fixtures/session-3.json', 'utf8')) as SessionDocument;
    const document = validateDocument(old);
    const values = document.inserts['keeper-echo']!.values;
    expect(document.version).toBe(DOCUMENT_VERSION);
    expect([values['lines.1.timeLeft'], values['lines.2.linked'], values['lines.2.timeRight']]).toEqual([
      12000,
      false,
      12000,
    ]);
    expect(document.lanes['old-lane']!.points.map((point) => point.value)).toEqual([12000, '1/4']);
    for (const { source, ...clip } of Object.values(document.clips)) {
      expect({ ...clip, assetId: (source as { assetId: string }).assetId }).toMatchObject(old.clips[clip.id]!);
    }
    expect(() => validateDocument({ version: 3 })).toThrow('of an older version is damaged');
  });

  it('lets vocoders of version 8 keep their carriers as they were, and leaves those of today alone', () => {
    const evens = (document: SessionDocument) =>
      Object.values(document.inserts)
        .filter(({ effect }) => effect === 'vocoder')
        .map(({ values }) => values.even);
    const today = JSON.parse(readFileSync('demo/session.json', 'utf8')) as SessionDocument;
    expect(evens(validateDocument(today))).toEqual([100]);
    for (const { effect, values } of Object.values(today.inserts)) if (effect === 'vocoder') delete values.even;
    expect(evens(validateDocument({ ...today, version: 8 as never }))).toEqual([0]);
  });
});

describe('documents with names that every object has', () => {
  const inherited = ['constructor', '__proto__', 'toString', 'hasOwnProperty'];

  it.each(inherited)('are refused for the version %s', (version) => {
    expect(() => validateDocument({ version })).toThrow(`not ${version}`);
  });

  it.each(inherited)('are refused for %s as an id and as a reference', (id) => {
    const document = newDocument('Tide');
    document.session.trackIds.push('one');
    document.tracks.one = { ...newTrack('one', 'One'), outputId: id };
    expect(() => validateDocument(document)).toThrow(`outputId must be an id, not "${id}"`);
    const own = newDocument('Tide');
    own.session.trackIds.push(id);
    Object.defineProperty(own.tracks, id, { value: newTrack(id, 'One'), enumerable: true });
    expect(() => validateDocument(own)).toThrow('must be an id');
  });
});

describe('documents of version 5', () => {
  it('gain shapes of fades, and sound the same', () => {
    const old = JSON.parse(readFileSync('test/fixtures/session-5.json', 'utf8')) as SessionDocument;
    const document = validateDocument(structuredClone(old));
    expect(document.version).toBe(DOCUMENT_VERSION);
    for (const clip of Object.values(document.clips)) {
      expect(clip).toEqual({
        ...old.clips[clip.id],
        fadeInShape: 'smooth',
        fadeOutShape: 'smooth',
        reversed: false,
        mute: false,
      });
    }
    for (const { clips } of compile(document).strips) {
      for (const clip of clips) expect(Object.keys(clip)).not.toEqual(expect.arrayContaining(['reversed']));
    }
  });
});

describe('documents of version 10', () => {
  it('set the decay of every reverb by octaves, each within 0.1 % of the former curve', () => {
    const old = JSON.parse(readFileSync('test/fixtures/session-7.json', 'utf8')) as SessionDocument;
    const document = validateDocument(structuredClone(old));
    expect(JSON.stringify(document)).not.toContain('decayCurve');
    const reverbs = Object.values(old.inserts).filter(({ effect }) => effect === 'reverb');
    expect(reverbs).toHaveLength(3);
    for (const { id, values } of reverbs) {
      const points = String(values.decayCurve)
        .split(',')
        .map((one) => one.split(':').map(Number));
      const curve = { x: points.map(([hz]) => hz!), y: points.map(([, factor]) => factor!) };
      const factors = String(document.inserts[id]!.values.decayOctaves).split(',').map(Number);
      OCTAVES_HZ.forEach((hz, n) => {
        expect(Math.abs(factors[n]! / monotoneCurveAt(curve, hz) - 1)).toBeLessThan(1e-3);
      });
    }
  });
});

describe('what is heard of a sound', () => {
  const four = {
    id: 'a'.repeat(64),
    name: 'four.wav',
    frames: 48000,
    sampleRateHz: 48000,
    channels: 4,
    heard: 'take-3-4',
    about: { startSeconds: 3600, key: 'D minor', marks: [{ seconds: 0.5, name: 'Gate' }] },
  };
  const withSound = (asset: Asset): SessionDocument => {
    const clip = newClip({
      id: 'clip',
      trackId: 'track',
      source: { kind: 'sound', assetId: asset.id },
      name: 'four',
      startBeat: 0,
      lengthSeconds: 1,
    });
    const add = { type: 'track.add', id: 'track', name: 'Four' } as const;
    const commands = [{ type: 'asset.add', asset } as const, add, { type: 'clip.add', clip } as const];
    return applyCommand(newDocument('Four'), { type: 'all', commands }, '').document;
  };
  const played = (document: SessionDocument) =>
    compile(document).strips.flatMap((strip) => strip.clips[0]?.assetId ?? []);

  it('stays with it, and is what the plan plays', () => {
    const document = withSound(four);
    expect(validateDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    expect(played(document)).toEqual([`${four.id}:take-3-4`]);
    const first = applyCommand(document, { type: 'asset.hear', id: four.id, heard: null }, '').document;
    expect(played(first)).toEqual([four.id]);
  });

  it.each([
    ['heard', { heard: 'take-5' }],
    ['heard', { heard: 'fold-3' }],
    ['startSeconds', { about: { startSeconds: -1 } }],
    ['tempoBpm', { about: { tempoBpm: 301 } }],
    ['seconds', { about: { marks: [{ seconds: NaN, name: 'x' }] } }],
    ['marks', { about: { marks: Array.from({ length: 501 }, () => ({ seconds: 0, name: 'x' })) } }],
    ['rumour', { about: { rumour: 'x' } }],
  ])('is refused with a wrong %s', (name, values) => {
    const document = JSON.parse(JSON.stringify(withSound(four))) as SessionDocument;
    Object.assign(document.assets[four.id]!, values);
    expect(() => validateDocument(document)).toThrow(name);
  });

  it('documents of version 11 keep their first two channels', () => {
    const { id, name, frames, sampleRateHz, channels } = four;
    const old = {
      ...JSON.parse(JSON.stringify(withSound({ id, name, frames, sampleRateHz, channels }))),
      version: 11,
    };
    expect(played(validateDocument(old))).toEqual([four.id]);
  });
});

describe('a bounce at its finest', () => {
  it('plays reverbs finer than they are heard, and nothing else otherwise, when the session says so', () => {
    const document = applyCommand(
      build(),
      {
        type: 'all',
        commands: [
          { type: 'insert.add', stripId: 'voice', id: 'room', effect: 'reverb', index: 0, values: { quality: 'eco' } },
          { type: 'insert.add', stripId: 'voice', id: 'hall', effect: 'reverb', index: 0, values: { quality: 'fine' } },
        ],
      },
      '',
    ).document;
    expect(compileBounce(document)).toEqual(compile(document));
    expect(playedFiner(document).map(({ id }) => id)).toEqual(['room']);
    const finest = applyCommand(document, { type: 'session.set', values: { bounceFinest: true } }, '').document;
    const quality = effectById('reverb').parameters.findIndex(({ id }) => id === 'quality');
    const of = (plan: Plan) =>
      plan.strips.flatMap(({ inserts }) => inserts).filter(({ effect }) => effect === 'reverb');
    expect(of(compileBounce(finest)).map(({ values }) => values[quality])).toEqual([2, 2]);
    const others = (plan: Plan) => of(plan).map(({ values }) => values.filter((_, index) => index !== quality));
    expect(others(compileBounce(finest))).toEqual(others(compile(finest)));
    expect(of(compile(finest)).map(({ values }) => values[quality])).toEqual([2, 0]);
  });
});

describe('times and the tempo', () => {
  const withEcho = (values: Record<string, string | number | boolean>) =>
    applyCommand(
      newDocument('Times'),
      {
        type: 'all',
        commands: [
          { type: 'track.add', id: 'voice', name: 'Lamp keeper' },
          { type: 'insert.add', stripId: 'voice', id: 'echo', effect: 'delay', index: 0, values },
        ],
      },
      '',
    ).document;

  it('a note value is refused at a tempo at which it would be too long, and a tempo at which one would become so', () => {
    const document = withEcho({ 'lines.1.timeLeft': '4bar' });
    expect(() => applyCommand(document, { type: 'session.set', values: { tempoBpm: 60 } }, '')).toThrow(
      'Delay on Lamp keeper: Left of line 1 takes 0.1 ms to 12 s; 4 bars at 60 BPM would be 16 s.',
    );
    const slow = applyCommand(withEcho({}), { type: 'session.set', values: { tempoBpm: 60 } }, '').document;
    expect(() =>
      applyCommand(slow, { type: 'insert.set', id: 'echo', values: { 'lines.3.timeLeft': '4bar' } }, ''),
    ).toThrow('Left of line 3');
    expect(() =>
      applyCommand(
        slow,
        { type: 'insert.set', id: 'echo', values: { 'lines.1.rightRatio': 400, 'lines.1.timeLeft': 9000 } },
        '',
      ),
    ).toThrow('Right ratio of line 1');
  });

  it('a lane refuses notes that lie beyond its ruler', () => {
    const lane = (value: string): Command => ({
      type: 'lane.add',
      lane: {
        id: 'l',
        ownerId: 'echo',
        parameter: 'lines.1.modRate',
        on: true,
        points: [{ beat: 0, value, shape: 'hold', bend: 0 }],
        mirrorOf: null,
        mirrorAmount: 100,
      },
    });
    expect(() => applyCommand(withEcho({}), lane('1/64'), '')).toThrow('1/64 at 100 BPM would be 26.7 Hz');
    expect(() => applyCommand(withEcho({}), lane('1/32'), '')).not.toThrow();
  });

  it('keeping the bend takes the rate there is as the one whose bend is kept', () => {
    const commands: Command[] = [
      { type: 'track.add', id: 'voice', name: 'Lamp keeper' },
      { type: 'insert.add', stripId: 'voice', id: 'comb', effect: 'flanger', index: 0, values: { rate: '1/4' } },
    ];
    const document = applyCommand(newDocument('Bend'), { type: 'all', commands }, '').document;
    const set = (values: Record<string, number | boolean>, from = document) =>
      applyCommand(from, { type: 'insert.set', id: 'comb', values }, '').document;
    const kept = set({ constantPitch: true });
    expect(kept.inserts.comb!.values.bendRate).toBeCloseTo(100 / 60, 4);
    expect(set({ rate: 3 }, kept).inserts.comb!.values.bendRate).toBeCloseTo(100 / 60, 4);
    expect(set({ constantPitch: true, bendRate: 0.5 }).inserts.comb!.values.bendRate).toBe(0.5);
  });
});

describe('steps from outside', () => {
  const document = newDocument('Steps');
  const { step } = applyCommand(document, { type: 'session.set', values: { tempoBpm: 90 } }, 'Tempo');
  const historyWith = (change: unknown) => ({
    past: [{ label: 'x', forward: [change], inverse: [] }],
    future: [],
    base: 0,
  });

  it('are taken as they were written', () => {
    const history = JSON.parse(JSON.stringify(remember(EMPTY_HISTORY, step))) as unknown;
    expect(validateHistory(history)).toEqual(remember(EMPTY_HISTORY, step));
  });

  it.each([
    { op: 'replace', path: ['__proto__', 'polluted'], value: 1 },
    { op: 'replace', path: ['session', 'constructor', 'prototype'], value: 1 },
    { op: 'replace', path: ['elsewhere'], value: 1 },
    { op: 'move', path: ['session', 'tempoBpm'], value: 1 },
    { op: 'replace', path: [], value: 1 },
    { op: 'replace', path: ['session', -1], value: 1 },
    { op: 'points', laneId: '__proto__', at: 0, remove: 0, insert: [] },
    { op: 'points', laneId: 'l', at: -1, remove: 0, insert: [] },
    { op: 'points', laneId: 'l', at: 0, remove: 0, insert: [{ beat: 'x' }] },
    'nothing',
    null,
  ])('are refused when they are none: %j', (change) => {
    expect(() => validateHistory(historyWith(change))).toThrow(KinetikonError);
  });

  it('that lead to what is no session are refused when they are taken, and nothing changes', () => {
    const bad = validateHistory(historyWith({ op: 'replace', path: ['session', 'tempoBpm'], value: 9999 }));
    const history = { ...bad, past: [], future: bad.past };
    expect(() => redo(document, history)).toThrow('the tempo takes 20 to 300');
    const lost = validateHistory(historyWith({ op: 'points', laneId: 'nowhere', at: 0, remove: 0, insert: [] }));
    expect(() => redo(document, { ...lost, past: [], future: lost.past })).toThrow('does not fit this session');
    expect(document.session.tempoBpm).toBe(100);
  });
});
