import { fireEvent, screen, waitFor } from '@testing-library/react';
import { renderIn, testStudio, withEffect } from '../../../test/support/studio';
import { TEST_SIGNALS } from '@/core/analysis/testSignals';
import { readWav } from '@/core/formats/wav';
import { LibraryDrawer } from './LibraryDrawer';

describe('the library', () => {
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
