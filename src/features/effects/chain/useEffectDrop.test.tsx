import { countIds, testStudio, withEffect } from '../../../../test/support/studio';
import type { Command } from '@/core/session/commands';
import { dropEffect } from './useEffectDrop';

const lane: Command = {
  type: 'lane.add',
  lane: { id: 'lane', ownerId: 'one', parameter: 'mix', on: true, points: [], mirrorOf: null, mirrorAmount: 100 },
};
const setup = () => {
  const selected: string[] = [];
  const commands: Command[] = [
    ...withEffect('delay', { mix: 40 }),
    { type: 'insert.add', stripId: 'voice', id: 'two', effect: 'utility', index: 1 },
    { type: 'track.add', id: 'harp', name: 'Harp' },
    lane,
  ];
  const made = testStudio(commands, { selection: { selectInsert: (id: string) => selected.push(id) } });
  const chains = () => {
    const { tracks } = made.store.getState().document;
    return [tracks.voice!.insertIds.length, tracks.harp!.insertIds.length];
  };
  return { ...made, selected, chains };
};

beforeAll(countIds);

describe('an effect that is dropped', () => {
  it('on another strip goes there with its lanes, in one step', () => {
    const { studio, store, performed, selected, chains } = setup();
    dropEffect(studio, 'one', { kind: 'strip', id: 'harp' }, 'two', false);
    expect([chains(), performed, selected]).toEqual([[1, 1], ['Move Delay to Harp'], ['one']]);
    expect(store.getState().document.lanes.lane!.ownerId).toBe('one');
  });

  it('there with a key held leaves itself where it was and goes as a copy', () => {
    const { studio, store, performed, chains } = setup();
    dropEffect(studio, 'one', { kind: 'strip', id: 'harp' }, null, true);
    expect([chains(), performed]).toEqual([[2, 1], ['Copy Delay to Harp']]);
    const [copy] = store.getState().document.tracks.harp!.insertIds;
    expect(store.getState().document.inserts[copy!]!.values.mix).toBe(40);
  });

  it('on its own chain changes the order, and elsewhere nothing', () => {
    const { studio, store, performed } = setup();
    dropEffect(studio, 'one', { kind: 'chain' }, 'two', false);
    expect(store.getState().document.tracks.voice!.insertIds).toEqual(['two', 'one']);
    dropEffect(studio, 'one', { kind: 'nothing' }, 'two', false);
    dropEffect(studio, 'one', { kind: 'strip', id: 'voice' }, 'two', false);
    expect(performed).toEqual(['Reorder effects']);
  });
});
