import { fireEvent, screen } from '@testing-library/react';
import { renderIn, testStudio, withEffect } from '../../../test/support/studio';
import { currentSlot } from '../session/comparing';
import type { StudioState } from '../session/state';
import { BlindTrial } from './BlindTrial';
import { ROUNDS } from './trialRounds';

/** A trial of two settings of one effect, the second of which is softer by 3 dB. */
function trial() {
  const trims: number[] = [];
  const test = testStudio(
    [
      ...withEffect('delay', { mix: 10 }),
      { type: 'comparison.choose', id: 'one', slot: 'B' },
      { type: 'insert.set', id: 'one', values: { mix: 90 } },
      { type: 'comparison.choose', id: 'one', slot: 'A' },
    ],
    {
      monitor: { setTrim: (_strip: string, db: number) => trims.push(db) },
      // It is told in an effect, where the test is acting already.
      set: (values: Partial<StudioState>) => test.store.setState(values),
    },
  );
  let closed = false;
  const view = renderIn(
    test.studio,
    <BlindTrial
      target="one"
      strip="voice"
      slots={['A', 'B']}
      gains={{ A: 0, B: -3 }}
      onClose={() => {
        closed = true;
      }}
    />,
  );
  const slot = () => currentSlot(test.store.getState().document, 'one');
  const hear = (place: number) => {
    fireEvent.click(screen.getByRole('button', { name: `Hear ${place}` }));
    return slot();
  };
  const prefer = (place: number) => fireEvent.click(screen.getByRole('button', { name: `I prefer ${place}` }));
  return { ...test, trims, slot, hear, prefer, view, closed: () => closed };
}

describe('a blind trial', () => {
  it('plays each setting at the level of the softest, and hides which it is', () => {
    const { hear, trims, store, insert } = trial();
    expect(store.getState().blind).toBe(true);
    const heard = [hear(1), hear(2)];
    expect([...heard].sort()).toEqual(['A', 'B']);
    expect(trims).toEqual(heard.map((slot) => (slot === 'A' ? 0 : -3)));
    expect(insert().values.mix).toBe(heard[1] === 'A' ? 10 : 90);
    const dialog = screen.getByRole('dialog');
    expect(dialog.textContent).not.toMatch(/\b[AB]\b/);
    expect(screen.getByRole('button', { name: 'Hear 2' }).getAttribute('aria-pressed')).toBe('true');
  });

  it('counts what was preferred over all rounds, and says whether chance would do', () => {
    const { hear, prefer, slot } = trial();
    for (let round = 1; round <= ROUNDS; round++) {
      expect(screen.getByRole('heading', { name: `Blind trial, round ${round} of ${ROUNDS}` })).toBeTruthy();
      prefer(hear(1) === 'B' ? 1 : 2);
      // Between rounds the slot that was set is heard.
      expect(slot()).toBe('A');
    }
    expect(screen.getByRole('heading', { name: 'What you preferred' })).toBeTruthy();
    expect(screen.getByRole('status').textContent).toBe(
      `You preferred B in ${ROUNDS} of ${ROUNDS} rounds. That can be chance: the settings may matter less than they seemed to.`,
    );
    expect(screen.getByText(`A: 0 of ${ROUNDS}`)).toBeTruthy();
  });

  it('leaves everything as it was when it is closed', () => {
    const { hear, slot, view, store, performed, trims, closed } = trial();
    if (hear(1) !== 'B') hear(2);
    expect(slot()).toBe('B');
    fireEvent.click(screen.getByRole('button', { name: 'Close' }));
    expect(closed()).toBe(true);
    view.unmount();
    expect(slot()).toBe('A');
    expect(store.getState().blind).toBe(false);
    expect(trims.at(-1)).toBe(0);
    expect(performed).toEqual(['Blind trial']);
  });
});
