import { act, fireEvent, screen, within } from '@testing-library/react';
import { nextFrame, renderIn, testStudio, withEffect } from '../../../test/support/studio';
import type { Command } from '@/core/session/commands';
import { TrackList } from './TrackList';

/** Three tracks, a return with a compressor that listens to one of them; nothing sounds. */
const BUILT: Command[] = [
  ...withEffect('utility'),
  { type: 'track.add', id: 'harp', name: 'Harp' },
  { type: 'track.add', id: 'bell', name: 'Bell' },
  { type: 'return.add', id: 'room', name: 'Room', role: 'return' },
  { type: 'insert.add', stripId: 'room', id: 'duck', effect: 'compressor', index: 0, values: {} },
  { type: 'insert.input', id: 'duck', slot: 'key', from: { stripId: 'bell', tap: 'beforeFader' } },
];

function cast(heard: { overs?: number; monoLoss?: number; playing?: boolean } = {}) {
  const at = { overs: 0, monoLoss: 0, playing: false, ...heard };
  const chosen: string[] = [];
  const test = testStudio(BUILT, {
    selection: {
      selectStrip: (id: string) => {
        chosen.push(id);
        test.studio.set({ stripId: id });
      },
    },
    engine: {
      level: () => ({ left: 0.5, right: 0.25 }),
      overs: (id: string) => (id === 'harp' ? at.overs : 0),
      monoLoss: (id: string) => (id === 'bell' ? at.monoLoss : 0),
      get playing() {
        return at.playing;
      },
    },
  });
  Element.prototype.scrollIntoView = () => {};
  test.studio.set({ view: 'routing', stripId: 'voice' });
  renderIn(test.studio, <TrackList />);
  return { ...test, at, chosen, session: () => test.store.getState().document.session };
}

// Heights of the list and of its rows, which this browser does not lay out.
const LAID_OUT = { clientHeight: 400, offsetHeight: 40, scrollHeight: 4120 } as const;
beforeAll(() => {
  for (const [name, value] of Object.entries(LAID_OUT))
    Object.defineProperty(HTMLElement.prototype, name, { value, configurable: true });
});
afterAll(() => {
  for (const name of Object.keys(LAID_OUT)) Reflect.deleteProperty(HTMLElement.prototype, name);
});

const member = (name: string) => screen.getByRole('button', { name });
const names = (list: string) =>
  [...within(screen.getByRole('list', { name: list })).getAllByRole('listitem')].map(
    (row) => row.querySelector('.member-name')!.textContent,
  );

describe('the cast', () => {
  it('lists tracks, returns and the output, and marks what steers an effect', () => {
    cast();
    expect(names('Tracks')).toEqual(['Voice', 'Harp', 'Bell']);
    expect(names('Returns')).toEqual(['Room']);
    expect(names('Output')).toHaveLength(1);
    const keys = screen.getAllByTitle('Steers an effect as its key');
    expect(keys.map((mark) => mark.parentElement!.textContent)).toEqual([expect.stringContaining('Bell')]);
  });

  it('selects by a press, and removes what is selected, never the output', () => {
    const { chosen, store, performed } = cast();
    fireEvent.click(member('Harp'));
    expect(chosen).toEqual(['harp']);
    expect(member('Harp').getAttribute('aria-pressed')).toBe('true');
    fireEvent.click(screen.getByRole('button', { name: 'Remove Harp' }));
    expect(performed).toEqual(['Remove Harp']);
    expect(store.getState().document.tracks.harp).toBeUndefined();
    fireEvent.click(member(store.getState().document.main.name));
    expect(screen.queryByRole('button', { name: /^Remove/ })).toBeNull();
    expect(screen.queryByRole('button', { name: `Solo ${store.getState().document.main.name}` })).toBeNull();
  });

  it('mutes and solos, each as a step that tells which', () => {
    const { performed, store } = cast();
    fireEvent.click(screen.getByRole('button', { name: 'Mute Harp' }));
    fireEvent.click(screen.getByRole('button', { name: 'Mute Harp' }));
    fireEvent.click(screen.getByRole('button', { name: 'Solo Room' }));
    expect(performed).toEqual(['Begin mute of Harp', 'End mute of Harp', 'Begin solo of Room']);
    expect(store.getState().document.returns.room).toMatchObject({ solo: true });
    expect(screen.getByRole('button', { name: 'Solo Room' }).getAttribute('aria-pressed')).toBe('true');
  });

  it('renames by F2 and keeps the old name on Escape', () => {
    const { performed, store } = cast();
    const rename = (key: string, text: string) => {
      fireEvent.keyDown(member('Harp'), { key: 'F2' });
      const input = screen.getByRole('textbox', { name: 'New name of Harp' });
      fireEvent.change(input, { target: { value: text } });
      fireEvent.keyDown(input, { key });
    };
    rename('Escape', 'Nothing');
    expect(performed).toEqual([]);
    rename('Enter', 'Nylon harp');
    expect(performed).toEqual(['Rename Harp']);
    expect(store.getState().document.tracks.harp!.name).toBe('Nylon harp');
    expect(names('Tracks')).toEqual(['Voice', 'Nylon harp', 'Bell']);
  });

  it('moves by Alt and arrows within its kind, and no further than its ends', () => {
    const { session, performed } = cast();
    fireEvent.keyDown(member('Harp'), { key: 'ArrowUp', altKey: true });
    expect(session().trackIds).toEqual(['harp', 'voice', 'bell']);
    fireEvent.keyDown(member('Harp'), { key: 'ArrowUp', altKey: true });
    fireEvent.keyDown(member('Bell'), { key: 'ArrowDown', altKey: true });
    fireEvent.keyDown(member('Bell'), { key: 'ArrowUp' });
    fireEvent.keyDown(member('Room'), { key: 'ArrowUp', altKey: true });
    expect(session().trackIds).toEqual(['harp', 'voice', 'bell']);
    expect(performed).toEqual(['Move Harp']);
  });

  it('says how many samples went over full scale until it is pressed', async () => {
    const { at } = cast({ overs: 12 });
    await nextFrame();
    const mark = screen.getByRole('button', { name: 'Harp: 12 samples over full scale. Clear' });
    fireEvent.click(mark);
    await nextFrame();
    expect(screen.queryByText('over')).toBeNull();
    at.overs = 15;
    await nextFrame();
    expect(screen.getByRole('button', { name: 'Harp: 3 samples over full scale. Clear' })).toBeTruthy();
  });

  it('marks what mono takes more of than it may, without a flicker, and leads to where', async () => {
    const { at, chosen, store } = cast({ monoLoss: 5.4, playing: true });
    const limit = store.getState().document.tracks.bell!.monoLimitDb;
    expect(limit).toBeLessThan(5);
    await nextFrame();
    expect(screen.getByRole('button', { name: 'Bell loses 5 dB in mono. Look closer' })).toBeTruthy();
    at.monoLoss = limit - 0.3;
    await nextFrame();
    const mark = screen.getByRole('button', { name: /^Bell loses/ });
    act(() => mark.click());
    expect([chosen, store.getState().view]).toEqual([['bell'], 'compare']);
    at.monoLoss = limit - 0.6;
    await nextFrame();
    expect(screen.queryByRole('button', { name: /^Bell loses/ })).toBeNull();
  });

  it('shows levels along the scale of the meters', async () => {
    cast();
    await nextFrame();
    const bars = [...document.querySelectorAll<HTMLElement>('[data-strip]')];
    expect(bars).toHaveLength(5);
    const shares = bars.map((bar) => Number(/scaleX\(([\d.]+)\)/.exec(bar.style.transform)![1]));
    expect(shares.every((share) => share > 0.5 && share < 1)).toBe(true);
  });

  it('says what to do where there is nothing yet', () => {
    const { studio } = testStudio([], { engine: { level: () => ({ left: 0, right: 0 }), overs: () => 0 } });
    studio.set({ view: 'routing' });
    renderIn(studio, <TrackList />);
    expect(screen.getByText(/^No tracks yet\. Drop a sound onto the timeline/)).toBeTruthy();
    expect(screen.getByText(/^None yet\. A return is one effect for many tracks/)).toBeTruthy();
  });

  it('draws no more tracks than are in sight and some around them, says how many there are, and goes to a chosen one', () => {
    const { studio } = cast();
    const commands = Array.from({ length: 100 }, (_, n): Command => ({
      type: 'track.add',
      id: `more${n}`,
      name: `More ${n}`,
    }));
    act(() => void studio.editor.perform({ type: 'all', commands }, 'Many'));
    const rows = () => within(screen.getByRole('list', { name: 'Tracks' })).getAllByRole('listitem');
    expect(rows().length).toBeLessThan(20);
    expect(rows()[1]!.getAttribute('aria-posinset')).toBe('2');
    expect(rows()[1]!.getAttribute('aria-setsize')).toBe('103');
    const list = document.querySelector('.cast-list')!;
    studio.set({ stripId: 'more90' });
    // It is at the lower edge of the list, not above it.
    const [top, rowHeight] = [list.scrollTop, LAID_OUT.offsetHeight];
    expect(top).toBeGreaterThan(90 * rowHeight - LAID_OUT.clientHeight);
    expect(top).toBeLessThan(95 * rowHeight);
    fireEvent.scroll(list);
    expect(member('More 90').getAttribute('aria-pressed')).toBe('true');
  });
});
