import { fireEvent, screen } from '@testing-library/react';
import type { Command } from '@/core/session/commands';
import { countIds, renderIn, testStudio, withEffect } from '../../../../test/support/studio';
import { Sends } from './Sends';

beforeAll(countIds);

describe('sends', () => {
  it('into new returns give these names of their own, and offer what can stand beside a sound', () => {
    const { studio, store } = testStudio(withEffect('utility'));
    const add = (effect: string) => {
      const { tracks } = store.getState().document;
      const { unmount } = renderIn(studio, <Sends strip={tracks.voice!} />);
      fireEvent.click(screen.getByRole('button', { name: 'send' }));
      for (const name of ['Chorus', 'Vocoder', 'Reverb']) expect(screen.getAllByText(name).length).toBeGreaterThan(0);
      expect(screen.queryByText('Limiter')).toBeNull();
      fireEvent.click(screen.getAllByRole('button', { name: effect }).at(-1)!);
      unmount();
    };
    for (let n = 0; n < 3; n++) add('Delay');
    const { returns, session } = store.getState().document;
    expect(session.returnIds.map((id) => returns[id]!.name)).toEqual(['Delay', 'Delay 2', 'Delay 3']);
  });

  it('are listed in the order of the returns, whatever order they are stored in', () => {
    const commands: Command[] = [
      ...withEffect('utility'),
      ...['first', 'second'].map((id): Command => ({ type: 'return.add', id, name: id, role: 'return' })),
      ...['second', 'first'].map((toId): Command => ({
        type: 'send.add',
        send: { id: `to-${toId}`, fromId: 'voice', toId, gainDb: 0, tap: 'afterFader', mute: false },
      })),
    ];
    const { studio, store } = testStudio(commands);
    renderIn(studio, <Sends strip={store.getState().document.tracks.voice!} />);
    const names = screen.getAllByRole('button', { name: /^Mute the send to/ }).map((one) => one.ariaLabel);
    expect(names).toEqual(['Mute the send to first', 'Mute the send to second']);
  });
});
