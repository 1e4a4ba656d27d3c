import { fireEvent, screen } from '@testing-library/react';
import { EFFECTS } from '@/core/effects/registry';
import { renderIn, testStudio, withEffect } from '../../../test/support/studio';
import { EffectPage, examplesOf } from './EffectPage';

jest.mock('./pictures/useTask', () => ({ useTask: () => null, useTaskState: () => ({ result: null, busy: true }) }));

describe('the page of an effect', () => {
  it('has two examples for each, which say what to listen for', () => {
    for (const spec of EFFECTS) {
      expect([spec.id, examplesOf(spec).length]).toEqual([spec.id, 2]);
      for (const { help } of examplesOf(spec)) expect(help!.length).toBeGreaterThan(20);
    }
  });

  it('puts an example on the effect that is chosen, and adds one where another is chosen', () => {
    const { studio, store, insert } = testStudio(withEffect('chorus'), { selection: { selectInsert: () => {} } });
    studio.set({ about: 'chorus', drawer: 'effect', stripId: 'voice', insertId: 'one' });
    renderIn(studio, <EffectPage />);
    const [first, second] = screen.getAllByRole('button', { name: /^Try it on Voice: / });
    fireEvent.click(first!);
    expect(insert().values).toMatchObject({ rate: 0.25, depth: 22 });
    studio.set({ insertId: null });
    fireEvent.click(second!);
    const { document } = store.getState();
    const added = document.tracks.voice!.insertIds.map((id) => document.inserts[id]!);
    expect(added.map(({ effect }) => effect)).toEqual(['chorus', 'chorus']);
    expect(added[1]!.values).not.toEqual(added[0]!.values);
    expect(store.getState().view).toBe('effect');
  });
});
