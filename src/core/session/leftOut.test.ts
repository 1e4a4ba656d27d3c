import { applyCommand, type Command } from './commands';
import { leftOut } from './leftOut';
import { newDocument } from './records/factories';

const tracks = ['a', 'b', 'c', 'd'].map((id): Command => ({ type: 'track.add', id, name: `Track ${id}` }));
const after = (...commands: Command[]) =>
  leftOut(applyCommand(newDocument('Mix'), { type: 'all', commands: [...tracks, ...commands] }, '').document);

describe('what a mix leaves out', () => {
  it('is nothing where nothing is switched', () => expect(after()).toEqual([]));

  it('is said by name', () => {
    expect(
      after(
        { type: 'strip.set', id: 'a', values: { solo: true } },
        ...['a', 'b', 'c', 'd'].map((id): Command => ({ type: 'strip.set', id, values: { mute: true } })),
        { type: 'insert.add', stripId: 'a', id: 'echo', effect: 'delay', index: 0 },
        { type: 'insert.bypass', id: 'echo', bypass: true },
        { type: 'strip.set', id: 'b', values: { bypass: true } },
        { type: 'session.set', values: { wetOnly: true } },
      ),
    ).toEqual([
      'Solo is on: only Track a and what feeds them.',
      'Muted: Track a, Track b, Track c and 1 more.',
      'Bypassed: all of Track b, Delay on Track a.',
      'Wet only is on: what does not pass a return is left out.',
    ]);
    expect(after({ type: 'session.set', values: { effectsOff: true } })).toEqual(['All effects are bypassed.']);
  });
});
