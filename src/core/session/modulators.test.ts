import { effectById } from '../effects/registry';
import { applyCommand, applyStep, type Command } from './commands';
import { compile } from './compile/compiler';
import { compileTap } from './compile/parts';
import { validateDocument } from './document';
import { newDocument, newModulator, newSend } from './records/factories';
import type { Modulator } from './records/modulators';
import type { SessionDocument } from './records/document';
import { connectionsOf, followable, signalOrder } from './routing';

function build(...more: Command[]): SessionDocument {
  const commands: Command[] = [
    { type: 'session.set', values: { tempoBpm: 120 } },
    { type: 'track.add', id: 'a', name: 'A' },
    { type: 'track.add', id: 'b', name: 'B' },
    { type: 'insert.add', stripId: 'a', id: 'sweep', effect: 'flanger', index: 0 },
  ];
  return applyCommand(newDocument('Moved'), { type: 'all', commands: [...commands, ...more] }, '').document;
}

const add = (kind: Modulator['kind'], more: Partial<Modulator> = {}): Command => ({
  type: 'modulator.add',
  modulator: {
    ...newModulator('m', 'M', kind),
    targets: [{ insertId: 'sweep', parameter: 'depth', depth: 25, polarity: 'up' }],
    ...more,
  },
});

const modulations = (document: SessionDocument) =>
  compile(document).strips.find(({ id }) => id === 'a')!.inserts[0]!.modulations;

describe('modulators', () => {
  it('become what the engine plays: rates from note values, phases in cycles, depths as parts of the ruler', () => {
    const document = build(add('oscillator', { rate: '1/2', phaseDegrees: 90, shape: 'triangle' }));
    const { min, max, scale } = effectById('flanger').parameters.find(({ id }) => id === 'depth') as never;
    expect(modulations(document)).toEqual([
      {
        id: 'm>depth',
        index: effectById('flanger').parameters.findIndex(({ id }) => id === 'depth'),
        ruler: { min, max, scale },
        source: { kind: 'oscillator', shape: 'triangle', rateHz: 1, phase: 0.25, seed: expect.any(Number) },
        depth: 0.25,
        polarity: 'up',
        smoothingSeconds: 0,
      },
    ]);
    expect(modulations(build(add('pattern', { rate: 3, steps: [1, 0] })))![0]!.source).toEqual({
      kind: 'pattern',
      steps: [1, 0],
      rateHz: 3,
      phase: 0,
    });
  });

  it('move switches and choices from place to place', () => {
    const target = (parameter: string) => ({ insertId: 'sweep', parameter, depth: 100, polarity: 'both' as const });
    const targets = [target('throughZero'), target('filterType')];
    const found = modulations(build(add('pattern', { targets })))!;
    expect(found.map(({ id, ruler, stepped }) => [id, ruler, stepped])).toEqual([
      ['m>throughZero', { min: 0, max: 1, scale: 'linear' }, true],
      ['m>filterType', { min: 0, max: 3, scale: 'linear' }, true],
    ]);
  });

  it('move nothing while they are off, without depth, or a follower without anything to follow', () => {
    expect(modulations(build(add('oscillator', { on: false })))).toBeUndefined();
    expect(modulations(build(add('follower')))).toBeUndefined();
    const still = [{ insertId: 'sweep', parameter: 'depth', depth: 0, polarity: 'both' as const }];
    expect(modulations(build(add('walk', { targets: still })))).toBeUndefined();
  });

  it('a follower makes its strip come first, is part of what a print depends on, and may not run in a circle', () => {
    const document = build(add('follower', { followId: 'b' }));
    expect(connectionsOf(document)).toContainEqual({ kind: 'follow', id: 'm', fromId: 'b', toId: 'a' });
    expect(signalOrder(document).indexOf('b')).toBeLessThan(signalOrder(document).indexOf('a'));
    expect(compileTap(document, 'a').strips.map(({ id }) => id)).toContain('b');
    const both: Command[] = [
      { type: 'insert.add', stripId: 'b', id: 'other', effect: 'utility', index: 0 },
      { type: 'insert.input', id: 'sweep', slot: 'key', from: null },
    ];
    const more = applyCommand(document, { type: 'all', commands: both }, '').document;
    const circle: Command = {
      type: 'modulator.add',
      modulator: {
        ...newModulator('n', 'N', 'follower'),
        followId: 'a',
        targets: [{ insertId: 'other', parameter: 'gain', depth: 10, polarity: 'both' }],
      },
    };
    expect(() => applyCommand(more, circle, '')).toThrow('in a circle: A → B → A');
  });

  it('forget what goes: the effect they move, the track they follow', () => {
    const document = build(add('follower', { followId: 'b' }));
    const without = applyCommand(document, { type: 'insert.remove', id: 'sweep' }, '');
    expect(without.document.modulators.m!.targets).toEqual([]);
    expect(applyStep(without.document, without.step.inverse)).toEqual(document);
    const alone = applyCommand(document, { type: 'strip.remove', id: 'b' }, '').document;
    expect(alone.modulators.m!.followId).toBeNull();
  });

  it('are refused when they name what is not there, cannot be moved, or is out of range', () => {
    const attempt = (more: Partial<Modulator>) => () => build(add('oscillator', more));
    const target = (parameter: string, insertId = 'sweep') => ({
      targets: [{ insertId, parameter, depth: 10, polarity: 'both' as const }],
    });
    expect(attempt(target('wobble'))).toThrow('M has nothing wobble to move on sweep.');
    expect(attempt(target('depth', 'ghost'))).toThrow('nothing depth to move on ghost');
    expect(attempt({ targets: [...target('depth').targets, ...target('depth').targets] })).toThrow(
      'moves Depth already',
    );
    expect(attempt({ rate: 99 })).toThrow('rate takes');
    expect(attempt({ followId: 'ghost' })).toThrow('M follows a track that is not there.');
    expect(attempt({ steps: [] })).toThrow('steps');
    expect(attempt({ steps: [2] })).toThrow('steps[0] takes -1 to 1, not 2');
  });

  it('survive JSON, and every step of theirs is taken back', () => {
    const document = build(add('walk'));
    expect(validateDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    const changed = applyCommand(document, { type: 'modulator.set', id: 'm', values: { rate: '1/8t', on: false } }, '');
    expect(changed.document.modulators.m).toMatchObject({ rate: '1/8t', on: false });
    expect(applyStep(changed.document, changed.step.inverse)).toEqual(document);
    const removed = applyCommand(document, { type: 'modulator.remove', id: 'm' }, '');
    expect(removed.document.modulators).toEqual({});
    expect(applyStep(removed.document, removed.step.inverse)).toEqual(document);
    expect(() => applyCommand(document, { type: 'modulator.remove', id: 'x' }, '')).toThrow('no modulator x');
  });

  it('of what goes into an effect stays out of the order of signals, and of what can be followed', () => {
    const commands: Command[] = [
      { type: 'track.add', id: 'voice', name: 'Voice' },
      { type: 'track.add', id: 'harp', name: 'Harp' },
      { type: 'return.add', id: 'room', name: 'Room', role: 'return' },
      { type: 'send.add', send: newSend('s', 'voice', 'room') },
      { type: 'insert.add', stripId: 'voice', id: 'echo', effect: 'delay', index: 0 },
    ];
    const document = applyCommand(newDocument('Own'), { type: 'all', commands }, '').document;
    const follower = {
      ...newModulator('f', 'Follower', 'follower'),
      targets: [{ insertId: 'echo', parameter: 'mix', depth: 20, polarity: 'both' as const }],
    };
    // The strip itself and what it feeds would lead in a circle.
    expect(followable(document, new Set(['voice'])).map(({ id }) => id)).toEqual(['harp']);
    for (const followId of ['voice', 'room']) {
      expect(() => applyCommand(document, { type: 'modulator.add', modulator: { ...follower, followId } }, '')).toThrow(
        'in a circle',
      );
    }
    const own = { ...follower, followTap: 'effectInput' as const };
    const moved = applyCommand(document, { type: 'modulator.add', modulator: own }, '').document;
    const insert = compile(moved).strips.flatMap((strip) => strip.inserts)[0]!;
    expect(insert.modulations![0]!.source).toMatchObject({ kind: 'follower', key: null });
  });
});
