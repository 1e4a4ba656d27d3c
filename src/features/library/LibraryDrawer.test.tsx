import { fireEvent, screen, waitFor } from '@testing-library/react';
import { renderIn, testStudio, withEffect } from '../../../test/support/studio';
import { TEST_SIGNALS } from '@/core/analysis/testSignals';
import { readWav } from '@/core/formats/wav';
import type { Render } from '@/core/protocol/renders';
import type { LocalBounce } from '../session/bounceStore';
import { PrintQueue } from '../session/printQueue';
import * as api from '@/runtime/client/api';
import { LibraryDrawer } from './LibraryDrawer';

jest.mock('@/runtime/client/api', () => ({
  ...jest.requireActual<typeof api>('@/runtime/client/api'),
  listRenders: jest.fn(),
  cancelRender: jest.fn(),
}));
const mocked = jest.mocked(api);

const render = (more: Partial<Render>): Render => ({
  id: 'r',
  kind: 'bounce',
  name: 'Mix.wav',
  sessionId: 's1',
  state: 'waiting',
  progress: 0,
  machine: null,
  waitsFor: null,
  result: null,
  resultBytes: null,
  error: null,
  createdAt: '2026-01-01T00:00:00.000Z',
  startedAt: null,
  endedAt: null,
  ...more,
});

describe('the library', () => {
  beforeEach(() => {
    jest.resetAllMocks();
    mocked.listRenders.mockResolvedValue({ renders: [], hasMachines: false });
  });

  it('says nothing of machines at a single desk', async () => {
    renderIn(testStudio(withEffect('utility')).studio, <LibraryDrawer />);
    await waitFor(() => expect(mocked.listRenders).toHaveBeenCalled());
    expect(screen.queryByText(/machines/)).toBeNull();
    expect(screen.queryByText('Bounces')).toBeNull();
  });

  it('lists bounces of this browser with those of the machines, by the time they were asked for', async () => {
    mocked.listRenders.mockResolvedValue({ hasMachines: true, renders: [render({ name: 'There.wav' })] });
    const { studio } = testStudio(withEffect('utility'));
    const fields = {
      sessionId: 's1',
      request: {} as never,
      isElsewhere: false,
      secondsLeft: 12,
      facts: null,
      bytes: null,
      error: null,
      tookSeconds: null,
    };
    const before = Date.parse('2025-12-31T23:00:00.000Z');
    const bounce = (id: string, more: Partial<LocalBounce>): LocalBounce => ({
      ...fields,
      id,
      fileName: `${id}.wav`,
      askedAt: before,
      state: 'waiting',
      progress: 0,
      ...more,
    });
    studio.set({
      bounces: [
        bounce('Runs', { state: 'running', progress: 0.25, askedAt: Date.parse('2026-01-01T01:00:00.000Z') }),
        bounce('Done', { state: 'done', tookSeconds: 12.5 }),
        bounce('Failed', { state: 'failed', error: 'A sound is not there.' }),
      ],
    });
    const removed: string[] = [];
    Object.assign(studio, { prints: new PrintQueue(studio) });
    studio.bounces.remove = async (id) => void removed.push(id);
    renderIn(studio, <LibraryDrawer />);
    await screen.findByText('There.wav');
    const items = screen.getByRole('list', { name: 'Bounces' });
    expect([...items.querySelectorAll('b')].map(({ textContent }) => textContent)).toEqual([
      'Runs.wav',
      'There.wav',
      'Done.wav',
      'Failed.wav',
    ]);
    const words = [
      '25 %, about 12 s left, here',
      'waits for a machine',
      'done here in 0:12.5',
      'failed: A sound is not there.',
    ];
    expect([...items.querySelectorAll('small')].map(({ textContent }) => textContent)).toEqual(words);
    fireEvent.click(screen.getByRole('button', { name: 'Cancel Runs.wav' }));
    fireEvent.click(screen.getByRole('button', { name: 'Remove Done.wav' }));
    expect(removed).toEqual(['Runs', 'Done']);
    fireEvent.click(screen.getByLabelText('Freeze on the studio’s machines'));
    expect(studio.state.freezesOnMachines).toBe(true);
    expect(localStorage.getItem('kinetikon.freezesOnMachines')).toBe('on');
    localStorage.clear();
  });

  it('lists what the studio’s machines render, how far it is and where, and ends or removes it', async () => {
    const started = { machine: 'quay', startedAt: '2026-01-01T00:00:01.000Z' };
    mocked.listRenders.mockResolvedValue({
      hasMachines: true,
      renders: [
        render({ id: 'a', name: 'Waits.wav', waitsFor: 'a worker of engine 8 and document 10' }),
        render({ id: 'b', name: 'Runs.wav', state: 'running', progress: 0.42, ...started }),
        render({
          id: 'c',
          name: 'Done.wav',
          state: 'done',
          resultBytes: 9,
          ...started,
          endedAt: '2026-01-01T00:00:13.500Z',
        }),
        render({
          id: 'd',
          name: 'Failed.wav',
          state: 'failed',
          error: { code: 'x', message: 'A sound is not there.' },
        }),
      ],
    });
    renderIn(testStudio(withEffect('utility')).studio, <LibraryDrawer />);
    const items = await screen.findByRole('list', { name: 'Bounces' });
    const texts = [...items.querySelectorAll('small')].map(({ textContent }) => textContent);
    expect(texts[0]).toBe('waits for a worker of engine 8 and document 10');
    expect(texts[1]).toMatch(/^42 % on quay, /);
    expect(texts.slice(2)).toEqual(['done on quay in 0:12.5', 'failed: A sound is not there.']);
    expect(screen.getByRole('link', { name: 'Download' }).getAttribute('href')).toBe('/api/renders/c/result');
    mocked.cancelRender.mockResolvedValue();
    fireEvent.click(screen.getByRole('button', { name: 'Cancel Runs.wav' }));
    fireEvent.click(screen.getByRole('button', { name: 'Remove Failed.wav' }));
    expect(mocked.cancelRender.mock.calls).toEqual([['b'], ['d']]);
  });

  it('puts test signals at the playhead of the selected track, as sounds of full precision', async () => {
    const brought: { file: File; beat: number; trackId: string | null }[] = [];
    const { studio } = testStudio(withEffect('utility'), {
      transport: { heardBeat: 3 },
      imports: {
        importFiles: async ([file]: File[], beat: number, trackId: string | null) => {
          brought.push({ file: file!, beat, trackId });
        },
      },
    });
    studio.set({ stripId: 'voice' });
    renderIn(studio, <LibraryDrawer />);
    expect(screen.getByText('A press puts a sound at the playhead, on Voice.')).toBeTruthy();
    for (const { name } of TEST_SIGNALS) fireEvent.click(screen.getByRole('button', { name: new RegExp(`^${name}`) }));
    await waitFor(() => expect(brought).toHaveLength(TEST_SIGNALS.length));
    expect(brought.every(({ beat, trackId }) => beat === 3 && trackId === 'voice')).toBe(true);
    const bytes = await new Promise<ArrayBuffer>((resolve) => {
      const reader = new FileReader();
      reader.onload = () => resolve(reader.result as ArrayBuffer);
      reader.readAsArrayBuffer(brought[0]!.file);
    });
    const click = readWav(new Uint8Array(bytes), 'click').channels[0]!;
    expect([...click.keys()].filter((frame) => click[frame] !== 0)).toEqual([0]);
  });

  it('puts a sound of the session once more, on a new track when none is selected', () => {
    const placed: unknown[] = [];
    const { studio } = testStudio(
      [
        ...withEffect('utility'),
        {
          type: 'asset.add',
          asset: { id: 'a'.repeat(64), name: 'words.wav', frames: 72000, sampleRateHz: 48000, channels: 1 },
        },
      ],
      { imports: { placeSound: (...what: unknown[]) => placed.push(what) } },
    );
    studio.set({ stripId: 'main' });
    renderIn(studio, <LibraryDrawer />);
    expect(screen.getByText('A press puts a sound at the playhead, on a new track.')).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: /words.wav/ }));
    expect(placed).toEqual([[expect.objectContaining({ name: 'words.wav' }), 0, null]]);
    const cells = screen.getByRole('row', { name: /words.wav/ }).querySelectorAll('th, td');
    expect([...cells].map(({ textContent }) => textContent)).toEqual(['words.wav', '1.5', '1', '48']);
  });
});
