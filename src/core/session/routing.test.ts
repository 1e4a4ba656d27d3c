import { readFileSync } from 'node:fs';
import { largest } from '../../../test/support/render';
import { renderPlan } from '../engine/render';
import { applyCommand, type Command } from './commands';
import { compile } from './compile/compiler';
import { compileTap } from './compile/parts';
import { isFresh, printsBehind, printWork } from './printing';
import { validateDocument } from './document';
import { DOCUMENT_VERSION, type SessionDocument } from './records/document';
import { newDocument } from './records/factories';

const SOUND = 'b'.repeat(64);
const send = (id: string, fromId: string, toId: string, more = {}): Command => ({
  type: 'send.add',
  send: { id, fromId, toId, gainDb: 0, tap: 'afterFader', mute: false, ...more },
});
const key = (id: string, stripId: string): Command => ({
  type: 'insert.input',
  id,
  slot: 'key',
  from: { stripId, tap: 'beforeFader' },
});
const strip = (stripId: string) => ({ id: `${stripId}-print`, recipe: { kind: 'strip' as const, stripId } });
const of = (document: SessionDocument, stripId: string) => printWork(document, strip(stripId))!.fingerprint;
const set = (id: string, values: object): Command => ({ type: 'strip.set', id, values });

/** Two tracks, two returns and a group, with an impulse at 0 on each track. */
function build(...more: Command[]): SessionDocument {
  const clip = (trackId: string): Command => ({
    type: 'clip.add',
    clip: {
      id: `clip-${trackId}`,
      trackId,
      source: { kind: 'sound', assetId: SOUND },
      name: 'click',
      startBeat: 0,
      offsetSeconds: 0,
      lengthSeconds: 0.5,
      gainDb: 0,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
      fadeInShape: 'smooth' as const,
      fadeOutShape: 'smooth' as const,
      reversed: false,
      mute: false,
    },
  });
  const commands: Command[] = [
    { type: 'asset.add', asset: { id: SOUND, name: 'click.wav', frames: 24000, sampleRateHz: 48000, channels: 1 } },
    { type: 'track.add', id: 'voice', name: 'Voice' },
    { type: 'track.add', id: 'harp', name: 'Harp' },
    { type: 'return.add', id: 'echo', name: 'Echo', role: 'return' },
    { type: 'return.add', id: 'hall', name: 'Hall', role: 'return' },
    { type: 'return.add', id: 'band', name: 'Band', role: 'group' },
    { type: 'insert.add', stripId: 'echo', id: 'duck', effect: 'compressor', index: 0 },
    clip('voice'),
    clip('harp'),
  ];
  return applyCommand(newDocument('Routing'), { type: 'all', commands: [...commands, ...more] }, '').document;
}

const does = (document: SessionDocument, command: Command) => applyCommand(document, command, '').document;
const click = new Float32Array(24000);
click[0] = 1;
const samples = new Map([[SOUND, { left: click, right: click }]]);
/** Level of each path at frame 0: voice 1, harp 0.25 after its clip. */
function heard(document: SessionDocument): number {
  const out = renderPlan(compile(document), samples, { fromFrame: 0, toFrame: 64, tailSeconds: 0 })!;
  return Number(largest(out.left).toFixed(4));
}

describe('routing', () => {
  it('puts every strip after what feeds or keys it', () => {
    const document = build(send('s1', 'hall', 'echo'), send('s2', 'voice', 'hall'), key('duck', 'harp'));
    const order = compile(document).strips.map((strip) => strip.id);
    expect(order.indexOf('hall')).toBeLessThan(order.indexOf('echo'));
    expect(order.indexOf('harp')).toBeLessThan(order.indexOf('echo'));
    expect(order.at(-1)).toBe('main');
  });

  it('refuses a loop and names its path', () => {
    const document = build(send('s1', 'echo', 'hall'));
    expect(() => does(document, send('s2', 'hall', 'echo'))).toThrow(
      /in a circle: .*(Echo → Hall → Echo|Hall → Echo → Hall)/,
    );
    expect(() => does(document, key('duck', 'hall'))).toThrow('in a circle');
    expect(() => does(document, key('duck', 'echo'))).toThrow('Echo → Echo');
    expect(() => does(document, set('band', { outputId: 'band' }))).toThrow('Band → Band');
  });

  it('refuses sends to what is no return, outputs to what is no group, and a second send', () => {
    const document = build(send('s1', 'voice', 'echo'));
    expect(() => does(document, send('s2', 'voice', 'band'))).toThrow('must go to a return');
    expect(() => does(document, send('s2', 'voice', 'harp'))).toThrow('must go to a return');
    expect(() => does(document, set('voice', { outputId: 'echo' }))).toThrow('main output or a group');
    expect(() => does(document, send('s2', 'voice', 'echo'))).toThrow('Voice has a send to Echo already');
  });

  it('takes everything away that hung on a removed return, and goes on', () => {
    const document = build(send('s1', 'voice', 'echo'), key('duck', 'harp'), set('harp', { outputId: 'band' }), {
      type: 'lane.add',
      lane: { id: 'l', ownerId: 's1', parameter: 'gainDb', on: true, points: [], mirrorOf: null, mirrorAmount: 100 },
    });
    const without = does(does(document, { type: 'strip.remove', id: 'echo' }), { type: 'strip.remove', id: 'band' });
    expect([without.sends, without.lanes, without.inserts]).toEqual([{}, {}, {}]);
    expect(without.tracks.harp!.outputId).toBe('main');
    const unkeyed = does(document, { type: 'strip.remove', id: 'harp' });
    expect(unkeyed.inserts.duck!.inputs).toEqual({});
  });
});

describe('listening', () => {
  const quiet = { type: 'clip.set' as const, id: 'clip-harp', values: { gainDb: -12.0412 } };
  const base = (...more: Command[]) =>
    build(quiet, { type: 'insert.remove', id: 'duck' }, send('v', 'voice', 'echo'), send('h', 'harp', 'echo'), ...more);

  it('sums tracks and the returns they feed', () => {
    expect(heard(base())).toBe(2.5);
  });

  it('keeps the returns a soloed track feeds, without the others in them', () => {
    expect(heard(base(set('voice', { solo: true })))).toBe(2);
    expect(heard(base(set('harp', { solo: true })))).toBe(0.5);
  });

  it('keeps what feeds a soloed return, through it alone', () => {
    expect(heard(base(set('echo', { solo: true })))).toBe(1.25);
    expect(heard(base(set('echo', { solo: true }), set('voice', { mute: true })))).toBe(0.25);
    expect(heard(base(set('echo', { solo: true }), set('voice', { solo: true })))).toBe(2.25);
  });

  it('lets solo win over mute on one strip, and mute silence its sends', () => {
    expect(heard(base(set('voice', { solo: true, mute: true })))).toBe(2);
    expect(heard(base(set('voice', { mute: true })))).toBe(0.5);
  });

  it('hears wet only, groups, before-fader sends and muted sends', () => {
    expect(heard(base({ type: 'session.set', values: { wetOnly: true } }))).toBe(1.25);
    expect(heard(base(set('voice', { outputId: 'band' }), set('band', { gainDb: -100 })))).toBe(1.5);
    const free = { type: 'send.set' as const, id: 'v', values: { tap: 'beforeFader' as const } };
    expect(heard(base(free, set('voice', { gainDb: -100 }), set('harp', { mute: true })))).toBe(1);
    expect(heard(base({ type: 'send.set', id: 'v', values: { mute: true } }))).toBe(1.5);
  });

  it('bypasses a chain or all effects, keeping latency', () => {
    const limited = build(
      { type: 'insert.add', stripId: 'voice', id: 'lim', effect: 'limiter', index: 0, values: { ceiling: -12 } },
      set('harp', { mute: true }),
    );
    expect(heard(limited)).toBeLessThan(0.3);
    expect(heard(does(limited, set('voice', { bypass: true })))).toBe(1);
    expect(heard(does(limited, { type: 'session.set', values: { effectsOff: true } }))).toBe(1);
  });
});

describe('freezing', () => {
  const document = build(
    { type: 'insert.add', stripId: 'voice', id: 'lim', effect: 'limiter', index: 0, values: { ceiling: -6 } },
    send('v', 'voice', 'echo'),
    key('duck', 'harp'),
  );

  it('prints exactly what the strip does before its fader, whatever is soloed', () => {
    const soloed = does(document, {
      type: 'all',
      commands: [set('harp', { solo: true }), set('voice', { gainDb: -20 })],
    });
    const range = { fromFrame: 0, toFrame: 4800, tailSeconds: 0 };
    const print = renderPlan(compileTap(soloed, 'voice'), samples, range)!.left;
    expect(largest(print)).toBeCloseTo(10 ** (-6 / 20), 1);
    const PRINT = 'c'.repeat(64);
    const frozen = does(document, {
      type: 'all',
      commands: [
        { type: 'asset.add', asset: { id: PRINT, name: 'print.wav', frames: 4800, sampleRateHz: 48000, channels: 2 } },
        {
          type: 'print.add',
          print: { ...strip('voice'), made: { assetId: PRINT, fingerprint: of(document, 'voice'), landSeconds: 0 } },
        },
        set('voice', { frozen: 'voice-print' }),
        { type: 'send.remove', id: 'v' },
        set('harp', { mute: true }),
      ],
    });
    const live = does(document, {
      type: 'all',
      commands: [{ type: 'send.remove', id: 'v' }, set('harp', { mute: true })],
    });
    const sounds = new Map([...samples, [PRINT, { left: print, right: print }] as const]);
    const played = renderPlan(compile(frozen), sounds, range)!.left;
    expect(compile(frozen).strips.find((strip) => strip.id === 'voice')!.inserts).toEqual([]);
    expect(played).toEqual(renderPlan(compile(live), samples, range)!.left);
  });

  it('tells when what it depends on has changed, and only then', () => {
    const source = of(document, 'echo');
    const same = [set('voice', { solo: true }), set('echo', { gainDb: -9, pan: 20 }), set('hall', { gainDb: -3 })];
    for (const command of same) expect(of(does(document, command), 'echo')).toBe(source);
    const different: Command[] = [
      set('voice', { gainDb: -3 }),
      { type: 'insert.set', id: 'lim', values: { ceiling: -9 } },
      { type: 'insert.set', id: 'duck', values: { ratio: 9 } },
      { type: 'clip.set', id: 'clip-harp', values: { startBeat: 1 } },
      { type: 'session.set', values: { tempoBpm: 90 } },
    ];
    for (const command of different) expect(of(does(document, command), 'echo')).not.toBe(source);
  });
});

describe('prints', () => {
  const [FIRST, SECOND] = ['c'.repeat(64), 'd'.repeat(64)];
  const asset = (id: string): Command => ({
    type: 'asset.add',
    asset: { id, name: 'print.wav', frames: 4800, sampleRateHz: 48000, channels: 2 },
  });
  const printed = (document: SessionDocument, stripId: string, assetId: string) =>
    does(document, {
      type: 'all',
      commands: [
        asset(assetId),
        {
          type: 'print.add',
          print: { ...strip(stripId), made: { assetId, fingerprint: of(document, stripId), landSeconds: 0 } },
        },
        set(stripId, { frozen: `${stripId}-print` }),
      ],
    });
  const document = build(send('v', 'voice', 'echo'));
  const both = printed(printed(document, 'voice', FIRST), 'echo', SECOND);

  it('are fresh until something changes that they are made from, also the sound of another print', () => {
    const fresh = (one: SessionDocument, id: string) => isFresh(one, one.prints[id]!);
    expect([fresh(both, 'voice-print'), fresh(both, 'echo-print')]).toEqual([true, true]);
    expect(printsBehind(both, both.prints['echo-print']!)).toEqual(['voice-print']);
    expect(printsBehind(both, both.prints['voice-print']!)).toEqual([]);
    const moved = does(both, { type: 'clip.set', id: 'clip-voice', values: { gainDb: -3 } });
    expect([fresh(moved, 'voice-print'), fresh(moved, 'echo-print')]).toEqual([false, true]);
    const THIRD = 'e'.repeat(64);
    const anew = does(moved, {
      type: 'all',
      commands: [
        asset(THIRD),
        {
          type: 'print.made',
          id: 'voice-print',
          made: { assetId: THIRD, fingerprint: of(moved, 'voice'), landSeconds: 0 },
        },
      ],
    });
    expect([fresh(anew, 'voice-print'), fresh(anew, 'echo-print')]).toEqual([true, false]);
  });

  it('go with the strip they are of, take their clips along, and let a strip work again', () => {
    const clip: Command = {
      type: 'clip.add',
      clip: { ...both.clips['clip-harp']!, id: 'printed', source: { kind: 'print', printId: 'voice-print' } },
    };
    const played = compile(does(both, clip)).strips.find(({ id }) => id === 'harp')!;
    expect(played.clips.map(({ assetId }) => assetId)).toContain(FIRST);
    const thawed = does(does(both, clip), { type: 'print.remove', id: 'voice-print' });
    expect([thawed.tracks.voice!.frozen, thawed.clips.printed]).toEqual([null, undefined]);
    expect(does(both, { type: 'strip.remove', id: 'voice' }).prints['voice-print']).toBeUndefined();
    expect(() => does(both, { type: 'print.made', id: 'voice-print', made: null })).toThrow('print of Voice');
  });
});

describe('comparing', () => {
  it('switches settings of an effect and of a chain, with their automation, and back', () => {
    const lane: Command = {
      type: 'lane.add',
      lane: { id: 'l', ownerId: 'duck', parameter: 'ratio', on: true, points: [], mirrorOf: null, mirrorAmount: 100 },
    };
    const start = build(lane);
    const b = does(start, { type: 'comparison.choose', id: 'echo', slot: 'B' });
    const changed = does(b, {
      type: 'all',
      commands: [
        { type: 'insert.remove', id: 'duck' },
        { type: 'insert.add', stripId: 'echo', id: 'gate', effect: 'gate', index: 0 },
      ],
    });
    const a = does(changed, { type: 'comparison.choose', id: 'echo', slot: 'A' });
    expect(a.returns.echo!.insertIds).toEqual(['duck']);
    expect([a.inserts, a.lanes]).toEqual([start.inserts, start.lanes]);
    const again = does(a, { type: 'comparison.choose', id: 'echo', slot: 'B' });
    expect(again.returns.echo!.insertIds).toEqual(['gate']);
    const one = does(build(), { type: 'comparison.choose', id: 'duck', slot: 'C' });
    const louder = does(one, { type: 'insert.set', id: 'duck', values: { makeup: 6 } });
    expect(does(louder, { type: 'comparison.choose', id: 'duck', slot: 'C' }).inserts).toEqual(louder.inserts);
    expect(does(louder, { type: 'comparison.choose', id: 'duck', slot: 'A' }).inserts.duck!.values.makeup).toBe(0);
  });

  it('keeps what a slot holds when the effect is changed in the same step', () => {
    const lane = {
      id: 'l',
      ownerId: 'duck',
      parameter: 'ratio',
      on: true,
      points: [],
      mirrorOf: null,
      mirrorAmount: 100,
    };
    const start = build({ type: 'lane.add', lane });
    const changed = does(start, {
      type: 'all',
      commands: [
        { type: 'comparison.choose', id: 'duck', slot: 'B' },
        { type: 'insert.set', id: 'duck', values: { makeup: 6 } },
        { type: 'lane.set', id: 'l', values: { on: false } },
        { type: 'comparison.choose', id: 'duck', slot: 'A' },
        { type: 'insert.set', id: 'duck', values: { ratio: 9 } },
      ],
    });
    expect(changed.inserts.duck!.values).toMatchObject({ makeup: 0, ratio: 9 });
    expect(changed.lanes.l!.on).toBe(true);
    const b = does(changed, { type: 'comparison.choose', id: 'duck', slot: 'B' });
    expect(b.inserts.duck!.values).toMatchObject({ makeup: 6, ratio: start.inserts.duck!.values.ratio });
    expect(b.lanes.l!.on).toBe(false);
  });

  it('evens out after the effects of a strip', () => {
    const document = build({ type: 'insert.remove', id: 'duck' }, set('harp', { mute: true }));
    const plan = compile(document, { trims: { voice: -6.0206 } });
    const out = renderPlan(plan, samples, { fromFrame: 0, toFrame: 10, tailSeconds: 0 })!;
    expect(out.left[0]).toBeCloseTo(0.5, 4);
  });
});

describe('documents of version 1', () => {
  it('gain what version 2 has and sound the same', () => {
    const document = validateDocument(JSON.parse(readFileSync('test/fixtures/session-1.json', 'utf8')));
    expect([document.version, document.session.returnIds, document.sends]).toEqual([DOCUMENT_VERSION, [], {}]);
    expect(Object.values(document.inserts)[0]).toMatchObject({ inputs: {} });
    expect(validateDocument(document)).toBe(document);
  });
});
