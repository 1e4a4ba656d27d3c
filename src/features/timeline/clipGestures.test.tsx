import { fireEvent, screen } from '@testing-library/react';
import { drag, renderIn, testStudio } from '../../../test/support/studio';
import { newClip } from '@/core/session/records/factories';
import { useStudioState } from '../session/StudioContext';
import { ClipView } from './ClipView';

// The test's browser draws no canvas.
jest.mock('./Waveform', () => ({ Waveform: () => null, GrowingWave: () => null, WIDEST: 8000 }));

const SOUND = 'a'.repeat(64);
const LANE = 40;
const clip = (id: string, startBeat: number) =>
  newClip({
    id,
    trackId: 'voice',
    source: { kind: 'sound', assetId: SOUND },
    name: id,
    startBeat,
    lengthSeconds: 4,
  });

/** Rows as the timeline has them: a clip that changes rows is drawn anew in the other. */
function Rows() {
  const { document } = useStudioState(({ document }) => ({ document }));
  return document.session.trackIds.map((id) => (
    <div key={id} data-testid={id}>
      {Object.values(document.clips)
        .filter(({ trackId }) => trackId === id)
        .map((one) => (
          <ClipView landings={[]} key={one.id} clip={one} lane={LANE} frozen={false} span={[0, 0]} />
        ))}
    </div>
  ));
}

/** At 60 beats a minute a beat is a second and 20 pixels. */
function rows() {
  const test = testStudio(
    [
      { type: 'session.set', values: { tempoBpm: 60 } },
      { type: 'track.add', id: 'voice', name: 'Voice' },
      { type: 'track.add', id: 'harp', name: 'Harp' },
      { type: 'asset.add', asset: { id: SOUND, name: 'a.wav', frames: 480000, sampleRateHz: 48000, channels: 1 } },
      { type: 'clip.add', clip: clip('tide', 4) },
      { type: 'clip.add', clip: clip('lamp', 12) },
    ],
    { sounds: { findOnsets: async () => {} } },
  );
  test.store.setState({ pixelsPerBeat: 20, snap: 1 });
  renderIn(test.studio, <Rows />);
  const one = (id = 'tide') => test.store.getState().document.clips[id]!;
  const mark = (id = 'tide') => screen.getByRole('button', { name: new RegExp(`^Clip ${id}`) });
  const part = (name: string) => mark().querySelector(`.clip-${name}`)!;
  const steps = () => test.store.getState().history.past.map(({ label }) => label);
  return { ...test, one, mark, part, steps };
}

describe('a clip under a pointer', () => {
  it('is moved on the grid, as one step, and chosen by that', () => {
    const { one, mark, steps, store } = rows();
    drag(mark(), [
      [100, 0],
      [110, 0],
      [133, 0],
    ]);
    expect([one().startBeat, steps(), store.getState().clipIds]).toEqual([6, ['Move tide'], ['tide']]);
    drag(
      mark(),
      [
        [100, 0],
        [113, 0],
      ],
      'up',
      { altKey: true },
    );
    expect(one().startBeat).toBeCloseTo(6.65, 6);
  });

  it('goes on over another row, in which it is drawn anew, and is settled there', () => {
    const { one, mark, steps } = rows();
    drag(mark(), [
      [100, 0],
      [100, LANE],
      [140, LANE],
    ]);
    expect(screen.getByTestId('harp').contains(mark())).toBe(true);
    expect([one().trackId, one().startBeat, steps()]).toEqual(['harp', 6, ['Move tide']]);
  });

  it.each(['escape', 'cancel'] as const)('is where it was after %s, and nothing can be undone', (end) => {
    const { one, mark, steps, studio } = rows();
    drag(
      mark(),
      [
        [100, 0],
        [180, LANE],
      ],
      'hold',
    );
    expect(one().trackId).toBe('harp');
    if (end === 'escape') fireEvent.keyDown(window, { key: 'Escape' });
    else fireEvent.pointerCancel(window);
    fireEvent.pointerMove(window, { clientX: 300 });
    fireEvent.pointerUp(window, { clientX: 300 });
    studio.editor.settle();
    expect([one().trackId, one().startBeat, steps()]).toEqual(['voice', 4, []]);
  });

  it('is not moved by a press that trembles, only chosen', () => {
    const { one, mark, steps, store } = rows();
    drag(mark(), [
      [100, 0],
      [102, 7],
    ]);
    expect([one().startBeat, steps(), store.getState().clipIds]).toEqual([4, [], ['tide']]);
  });

  it('moves with all that are chosen; Shift adds to them', () => {
    const { one, mark } = rows();
    drag(mark('lamp'), [[0, 0]]);
    drag(
      mark('tide'),
      [
        [100, 0],
        [120, 0],
      ],
      'up',
      { shiftKey: true },
    );
    expect([one('tide').startBeat, one('lamp').startBeat]).toEqual([5, 13]);
  });

  it('is trimmed at its edges and faded at its corners', () => {
    const { one, part } = rows();
    drag(part('end'), [
      [160, 0],
      [120, 0],
    ]);
    expect([one().startBeat, one().lengthSeconds]).toEqual([4, 2]);
    drag(part('start'), [
      [80, 0],
      [100, 0],
    ]);
    expect([one().startBeat, one().offsetSeconds, one().lengthSeconds]).toEqual([5, 1, 1]);
    drag(part('end'), [
      [120, 0],
      [160, 0],
    ]);
    drag(
      part('fadeIn'),
      [
        [100, 0],
        [110, 0],
      ],
      'up',
      { altKey: true },
    );
    expect([one().lengthSeconds, one().fadeInSeconds]).toEqual([3, 0.5]);
  });

  it('is moved by arrow keys along the grid and to other rows', () => {
    const { one, mark, steps } = rows();
    fireEvent.keyDown(mark(), { key: 'ArrowRight' });
    fireEvent.keyDown(mark(), { key: 'ArrowDown' });
    expect([one().startBeat, one().trackId, steps()]).toEqual([5, 'harp', ['Move tide', 'Move tide']]);
    fireEvent.keyDown(mark(), { key: 'ArrowRight', ctrlKey: true });
    expect(one().startBeat).toBe(5);
  });
});
