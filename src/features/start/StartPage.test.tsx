import { act, cleanup, fireEvent, render, screen, waitFor, within } from '@testing-library/react';
import type { SessionListPage, SessionSummary } from '@/core/protocol/http';
import * as api from '@/runtime/client/api';
import { StartPage } from './StartPage';

jest.mock('@/runtime/client/api');
jest.mock('../ui/ThemeButton', () => ({ ThemeButton: () => null }));
jest.mock('next/navigation', () => ({ useRouter: () => ({ push: jest.fn() }) }));
const mocked = jest.mocked(api);

const session = (name: string): SessionSummary => ({
  id: name,
  name,
  revision: 1,
  tracks: 1,
  seconds: 10,
  picture: [[0, 0, 1, '5a5']],
  updatedAt: '2026-01-01T00:00:00.000Z',
  fromDemo: false,
  binnedAt: null,
});
const page = (names: readonly string[], more: Partial<SessionListPage> = {}): SessionListPage => ({
  sessions: names.map(session),
  next: null,
  kept: 60,
  binned: 0,
  ...more,
});

async function show(initial: SessionListPage, demo = false) {
  render(<StartPage initial={initial} demo={demo} />);
  // It loads the first page again at once.
  await waitFor(() => expect(mocked.listSessions).toHaveBeenCalled());
  await act(async () => {});
}

const shown = () =>
  screen.getAllByRole('listitem').flatMap((item) => item.querySelector('a')?.getAttribute('aria-label') ?? []);

describe('the start page', () => {
  beforeEach(() => {
    jest.resetAllMocks();
    Object.defineProperty(window, 'isSecureContext', { value: true, configurable: true });
    mocked.listUnused.mockResolvedValue([]);
    mocked.listSessions.mockResolvedValue(page(['One', 'Two'], { next: 'after two' }));
  });

  it('shows further sessions when they are asked for, after those that are there', async () => {
    await show(page(['One', 'Two'], { next: 'after two' }));
    mocked.listSessions.mockImplementation(async ({ after } = {}) =>
      after === 'after two' ? page(['Three']) : page(['One', 'Two'], { next: 'after two' }),
    );
    fireEvent.click(screen.getByRole('button', { name: 'Show more' }));
    await waitFor(() => expect(shown()).toEqual(['One', 'Two', 'Three']));
    expect(screen.queryByRole('button', { name: 'Show more' })).toBeNull();
  });

  it('searches and sorts on the server, and an answer that comes late changes nothing', async () => {
    await show(page(['One', 'Two']));
    let answerFirst: (page: SessionListPage) => void = () => {};
    mocked.listSessions.mockImplementationOnce(() => new Promise((resolve) => (answerFirst = resolve)));
    mocked.listSessions.mockResolvedValueOnce(page(['Tide']));
    fireEvent.change(screen.getByLabelText('Search sessions'), { target: { value: 'ti' } });
    await waitFor(() =>
      expect(mocked.listSessions).toHaveBeenLastCalledWith({ search: 'ti', order: 'changed', after: null }),
    );
    fireEvent.change(screen.getByLabelText('Order of sessions'), { target: { value: 'name' } });
    await waitFor(() =>
      expect(mocked.listSessions).toHaveBeenLastCalledWith({ search: 'ti', order: 'name', after: null }),
    );
    await waitFor(() => expect(shown()).toEqual(['Tide']));
    await act(async () => answerFirst(page(['Late'])));
    expect(shown()).toEqual(['Tide']);
  });

  it('puts the demo first for a newcomer, and its copies under it, but for a search', async () => {
    const copies = ['Tide', 'Tide 2', 'Tide 3'].map((name) => ({ ...page([name]).sessions[0]!, fromDemo: true }));
    const names = (list: HTMLElement | null) =>
      list &&
      within(list)
        .getAllByRole('link')
        .flatMap((one) => one.getAttribute('aria-label') ?? []);
    const headings = () => screen.getAllByRole('heading', { level: 2 }).map(({ textContent }) => textContent);
    mocked.listSessions.mockResolvedValue({ ...page([]), sessions: copies, kept: 3 });
    await show({ ...page([]), sessions: copies, kept: 3 }, true);
    expect(screen.getByText(/^None yet/)).toBeTruthy();
    expect(headings().indexOf('Demo')).toBeLessThan(headings().indexOf('Sessions'));
    const list = () => screen.queryByRole('list', { name: 'Copies of the demo' });
    expect(names(list())).toEqual(['Tide', 'Tide 2']);
    fireEvent.click(screen.getByRole('button', { name: 'Show all 3 copies' }));
    expect(names(list())).toEqual(['Tide', 'Tide 2', 'Tide 3']);
    cleanup();
    const both = { ...page([]), sessions: [...page(['Own']).sessions, ...copies], kept: 12 };
    mocked.listSessions.mockResolvedValue(both);
    await show(both, true);
    expect(headings().indexOf('Demo')).toBeGreaterThan(headings().indexOf('Sessions'));
    mocked.listSessions.mockResolvedValue({ ...page([]), sessions: copies, kept: 12 });
    fireEvent.change(screen.getByLabelText('Search sessions'), { target: { value: 'ti' } });
    await waitFor(() => expect(list()).toBeNull());
    await waitFor(() => expect(shown()).toEqual(['Tide', 'Tide 2', 'Tide 3']));
  });

  it('lists the bin when it is opened', async () => {
    mocked.listSessions.mockResolvedValue(page(['One'], { binned: 1 }));
    await show(page(['One'], { binned: 1 }));
    mocked.listSessions.mockResolvedValue(page(['Old'], { binned: 1 }));
    fireEvent.click(screen.getByRole('button', { name: 'Bin (1)' }));
    expect(await screen.findByRole('button', { name: 'Take Old out of the bin' })).toBeTruthy();
    expect(mocked.listSessions).toHaveBeenLastCalledWith({ binned: true, limit: 200 });
  });

  it('says at the door that a page without HTTPS makes no sound', async () => {
    await show(page(['One']));
    expect(screen.queryByText(/did not come over HTTPS/)).toBeNull();
    cleanup();
    Object.defineProperty(window, 'isSecureContext', { value: false, configurable: true });
    await show(page(['One']));
    expect(screen.getByRole('alert').textContent).toContain('did not come over HTTPS');
  });
});
