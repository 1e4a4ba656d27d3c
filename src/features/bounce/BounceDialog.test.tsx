import { act, fireEvent, screen, waitFor } from '@testing-library/react';
import { renderIn, testStudio, withEffect } from '../../../test/support/studio';
import { KinetikonError } from '@/core/errors';
import type { Done, JobInputs } from '@/core/jobs/kinds';
import * as api from '@/runtime/client/api';
import { BounceDialog } from './BounceDialog';

jest.mock('@/runtime/client/api');
const mocked = jest.mocked(api);

interface Run {
  readonly job: JobInputs['bounce'] & { readonly kind: 'bounce' };
  readonly options: { signal: AbortSignal; onProgress: (share: number) => void };
  readonly finish: (result: Done<'bounce', Blob>) => void;
  readonly fail: (error: unknown) => void;
}

const SOUND = { id: 'b'.repeat(64), name: 'words.wav', frames: 480000, sampleRateHz: 48000, channels: 1 } as const;
const CLIP = {
  id: 'words',
  name: 'words',
  trackId: 'voice',
  source: { kind: 'sound', assetId: SOUND.id },
  startBeat: 0,
  offsetSeconds: 0,
  lengthSeconds: 10,
  gainDb: 0,
  fadeInSeconds: 0,
  fadeOutSeconds: 0,
  fadeInShape: 'smooth',
  fadeOutShape: 'smooth',
  reversed: false,
  mute: false,
} as const;

const made = (more: Partial<Done<'bounce', Blob>['levels']> = {}, clipped = 0): Done<'bounce', Blob> => ({
  file: new Blob([new Uint8Array(3 << 20)]),
  seconds: 12.5,
  levels: {
    seconds: 12.5,
    sampleRateHz: 48000,
    channels: 2,
    peakDb: -4.2,
    truePeakDb: -4,
    loudnessLufs: -19.3,
    rmsDb: -20,
    overs: 0,
    correlation: 1,
    monoLossLu: 0,
    ...more,
  },
  clipped,
});

/** A dialog over a session of six seconds of a loop, and all that it had rendered. */
function dialog() {
  const runs: Run[] = [];
  const revoked: string[] = [];
  const delivered: string[] = [];
  URL.createObjectURL = () => `blob:${runs.length}`;
  URL.revokeObjectURL = (url) => revoked.push(url);
  const test = testStudio(
    [
      ...withEffect('reverb'),
      { type: 'session.set', values: { tempoBpm: 60, loopStartBeat: 2, loopEndBeat: 8 } },
      { type: 'session.set', values: { name: 'Low/Water: 1' } },
      { type: 'asset.add', asset: SOUND },
      { type: 'clip.add', clip: CLIP },
    ],
    {
      deliver: (name: string) => delivered.push(name),
      sounds: { playedOf: async () => [] },
      renderer: {
        run: (job: Run['job'], options: Run['options']) =>
          new Promise((finish, fail) => {
            runs.push({ job, options, finish, fail });
            options.signal.addEventListener('abort', () => fail(new KinetikonError('work.cancelled', 'Given up.')));
          }),
      },
    },
  );
  renderIn(test.studio, <BounceDialog />);
  return { ...test, runs, revoked, delivered };
}

const press = (name: RegExp | string) => fireEvent.click(screen.getByRole('button', { name }));
const field = (name: string) => screen.getByRole('dialog').querySelector(`select[name="${name}"]`)!;
const choose = (name: string, value: string) => fireEvent.change(field(name), { target: { value } });
const started = (runs: readonly Run[], count = 1) => waitFor(() => expect(runs).toHaveLength(count));

describe('the bounce dialog', () => {
  beforeEach(() => {
    jest.resetAllMocks();
    mocked.listRenders.mockResolvedValue({ renders: [], hasMachines: false });
  });

  it('bounces what was chosen: the loop, its format, a tail of so many seconds', async () => {
    const { runs } = dialog();
    choose('range', 'loop');
    expect(screen.getByText('0:06.0')).toBeTruthy();
    choose('format', 'flac');
    choose('tail', 'seconds');
    fireEvent.change(screen.getByLabelText('Tail in seconds'), { target: { value: '2,5' } });
    press('Bounce');
    await started(runs);
    expect(runs[0]!.job).toMatchObject({
      kind: 'bounce',
      format: 'flac',
      gainDb: 0,
      range: { fromFrame: 96000, toFrame: 384000, tailSeconds: 2.5 },
    });
    expect(runs[0]!.job.field).toBeUndefined();
  });

  it.each(['61', '-1', 'long', ''])('refuses a tail of “%s” with its range, and bounces nothing', async (value) => {
    const { runs } = dialog();
    choose('tail', 'seconds');
    fireEvent.change(screen.getByLabelText('Tail in seconds'), { target: { value } });
    expect((await screen.findByRole('alert')).textContent).toBe(`The tail takes 0 to 60 s, not “${value}”.`);
    const button = screen.getByRole<HTMLButtonElement>('button', { name: 'Bounce' });
    expect(button.disabled).toBe(true);
    fireEvent.click(button);
    expect(runs).toHaveLength(0);
    fireEvent.change(screen.getByLabelText('Tail in seconds'), { target: { value: '60' } });
    await waitFor(() => expect(button.disabled).toBe(false));
  });

  it('offers a sound field those formats alone that hold it', async () => {
    const { runs } = dialog();
    choose('format', 'flac');
    choose('delivery', 'field3');
    const formats = () => [...field('format').querySelectorAll('option')].map(({ value }) => value);
    await waitFor(() => expect(formats()).toEqual(['24', '32f']));
    press('Bounce');
    await started(runs);
    expect(runs[0]!.job).toMatchObject({ format: '24', field: 3 });
  });

  it('shows how far it is, can be cancelled, and then is as before', async () => {
    const { runs } = dialog();
    press('Bounce');
    await started(runs);
    act(() => runs[0]!.options.onProgress(0.4));
    expect(screen.getByRole<HTMLProgressElement>('progressbar', { name: 'Bouncing' }).value).toBe(0.4);
    expect(screen.getByText('40 %')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Bounce' })).toBeNull();
    press('Cancel');
    expect(await screen.findByRole('button', { name: 'Bounce' })).toBeTruthy();
    expect(screen.queryByRole('alert')).toBeNull();
    expect(screen.queryByRole('link')).toBeNull();
  });

  it('saves what was made under the name of the session, and offers it at the level that fits', async () => {
    const { runs, delivered } = dialog();
    press('Bounce');
    await started(runs);
    await act(async () => runs[0]!.finish(made()));
    expect((await screen.findByRole('status')).textContent).toBe('Done and saved to your downloads: 0:12.5, 3.0 MB.');
    expect(delivered).toEqual(['LowWater 1.wav']);
    expect(screen.getByText('-4.0 dBTP')).toBeTruthy();
    expect(screen.getByText('-19.3 LUFS')).toBeTruthy();
    expect(screen.getByText('none')).toBeTruthy();
    expect((await screen.findByRole('link')).getAttribute('download')).toBe('LowWater 1.wav');
    press('Bounce at +3.0 dB, to -1 dBTP');
    await started(runs, 2);
    expect(runs[1]!.job.gainDb).toBe(3);
    await act(async () => runs[1]!.finish(made({ truePeakDb: -1 })));
    expect(screen.getByRole('status').textContent).toContain('raised by 3.0 dB');
    expect(screen.queryByRole('button', { name: /dBTP$/ })).toBeNull();
  });

  it('counts clipped samples, and calls silence silence', async () => {
    const { runs } = dialog();
    press('Bounce');
    await started(runs);
    await act(async () => runs[0]!.finish(made({ peakDb: 0, truePeakDb: 1.4 }, 1)));
    expect(screen.getByText('1 over full scale')).toBeTruthy();
    expect(screen.getByRole('button', { name: 'Bounce at -2.4 dB, to -1 dBTP' })).toBeTruthy();
    press('Bounce again');
    await started(runs, 2);
    await act(async () => runs[1]!.finish(made({ peakDb: null, truePeakDb: null, loudnessLufs: null })));
    expect(screen.getAllByText('silence')).toHaveLength(3);
    expect(screen.queryByRole('button', { name: /dBTP$/ })).toBeNull();
  });

  it('forgets what was made when a setting or the session changes', async () => {
    const { runs, studio, revoked } = dialog();
    press('Bounce');
    await started(runs);
    await act(async () => runs[0]!.finish(made()));
    await screen.findByRole('link');
    choose('tail', 'cut');
    await waitFor(() => expect(screen.queryByRole('link')).toBeNull());
    expect(revoked).toHaveLength(1);
    press('Bounce');
    await started(runs, 2);
    await act(async () => runs[1]!.finish(made()));
    await screen.findByRole('link');
    studio.editor.perform({ type: 'session.set', values: { tempoBpm: 90 } }, 'Tempo');
    await waitFor(() => expect(screen.queryByRole('link')).toBeNull());
    expect(revoked).toHaveLength(2);
  });

  it('says what went wrong and that nothing was lost', async () => {
    const { runs } = dialog();
    press('Bounce');
    await started(runs);
    await act(async () => runs[0]!.fail(new KinetikonError('file.missing', 'words.wav is not there.')));
    expect(screen.getByRole('alert').textContent).toBe('words.wav is not there. The session is untouched.');
    expect(screen.getByRole('button', { name: 'Bounce' })).toBeTruthy();
  });

  it('offers the studio’s machines where there are any, and sends them the session as it is', async () => {
    mocked.listRenders.mockResolvedValue({ renders: [], hasMachines: true });
    mocked.orderRender.mockResolvedValue({ id: 'r' } as never);
    const { studio, runs, store } = dialog();
    await screen.findByText('Where');
    choose('where', 'machines');
    choose('format', 'flac');
    press('Send');
    await waitFor(() => expect(store.getState()).toMatchObject({ bouncing: false, drawer: 'library' }));
    expect(runs).toHaveLength(0);
    expect(mocked.orderRender.mock.calls[0]![0]).toMatchObject({
      name: 'LowWater 1.flac',
      request: { kind: 'bounce', document: studio.state.document, format: 'flac', fromBeat: 0, toBeat: 10, gainDb: 0 },
    });
  });

  it('does not speak of machines where there are none', async () => {
    dialog();
    await waitFor(() => expect(mocked.listRenders).toHaveBeenCalled());
    expect(screen.queryByText('Where')).toBeNull();
  });

  it('waits for swells and prints that are still being made, and leaves its work to the Library', async () => {
    const { runs, studio, store } = dialog();
    const button = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Bounce' });
    studio.set({ printing: ['one'], bouncing: true });
    expect(button().disabled).toBe(true);
    expect(button().title).toBe('Swells and renders are still being made');
    studio.set({ printing: [] });
    press('Bounce');
    await started(runs);
    press('Go on working');
    expect(runs[0]!.options.signal.aborted).toBe(false);
    expect(store.getState()).toMatchObject({ bouncing: false, drawer: 'library' });
    await act(async () => runs[0]!.finish(made()));
    expect(store.getState().bounces).toMatchObject([{ state: 'done', fileName: 'LowWater 1.wav', bytes: 3 << 20 }]);
  });
});
