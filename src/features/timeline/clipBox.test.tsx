import { fireEvent, screen } from '@testing-library/react';
import { drag, renderIn, testStudio } from '../../../test/support/studio';
import { newClip } from '@/core/session/records/factories';
import type { Row } from '../session/state';
import { useStudioState } from '../session/StudioContext';
import { clipsWithin, useClipBox } from './clipBox';

const SOUND = 'a'.repeat(64);
/** Rows of 60 pixels; the harp has a lane of 40 more under it. */
const ROWS: Row[] = [
  { stripId: 'voice', height: 60, whole: 60, lanes: 0 },
  { stripId: 'harp', height: 60, whole: 100, lanes: 1 },
  { stripId: 'bell', height: 60, whole: 60, lanes: 0 },
];
/** Pixels above the rows. */
const HEAD = 30;

function Sheet() {
  const [begin, box] = useClipBox(ROWS, HEAD);
  const chosen = useStudioState(({ clipIds }) => clipIds);
  return (
    <div data-testid="sheet" onPointerDown={begin}>
      {chosen.join()}
      {box && <i data-testid="box" />}
      <button>Name of a lane</button>
      {ROWS.map(({ stripId }) => (
        <p key={stripId} data-row={stripId} data-testid={stripId} />
      ))}
    </div>
  );
}

/** Three tracks at 120 BPM, ten pixels a beat; each has clips of two beats at beats 0, 4 and 8: `voice0`, `voice4` ... */
function sheet() {
  const test = testStudio([
    { type: 'session.set', values: { tempoBpm: 120 } },
    { type: 'asset.add', asset: { id: SOUND, name: 'a.wav', frames: 480000, sampleRateHz: 48000, channels: 1 } },
    ...ROWS.map(({ stripId: id }) => ({ type: 'track.add' as const, id, name: id })),
    ...ROWS.flatMap(({ stripId: trackId }) =>
      [8, 0, 4].map((startBeat) => ({
        type: 'clip.add' as const,
        clip: newClip({
          id: `${trackId}${startBeat}`,
          trackId,
          source: { kind: 'sound', assetId: SOUND },
          name: trackId,
          startBeat,
          lengthSeconds: 1,
        }),
      })),
    ),
  ]);
  test.store.setState({ pixelsPerBeat: 10, stripId: 'bell' });
  renderIn(test.studio, <Sheet />);
  return { ...test, element: screen.getByTestId('sheet'), chosen: () => test.store.getState().clipIds };
}

describe('a box over clips', () => {
  it('takes what it touches, row by row, and nothing of a lane', () => {
    const { document } = sheet().store.getState();
    const within = (beats: [number, number], heights: [number, number]) =>
      clipsWithin(document, ROWS, { beats, heights });
    expect(within([1, 5], [10, 70])).toEqual(['voice0', 'voice4', 'harp0', 'harp4']);
    expect(within([2, 4], [0, 300])).toEqual([]);
    expect(within([0, 20], [121, 159])).toEqual([]);
    expect(within([8.5, 8.6], [150, 161])).toEqual(['bell8']);
    expect(within([9, 9], [170, 170])).toEqual(['bell8']);
  });

  it('chooses while it is drawn, any way round, and its strip unless one of them is shown', () => {
    const { element, chosen, store } = sheet();
    drag(
      element,
      [
        [100, HEAD + 90],
        [25, HEAD + 20],
      ],
      'hold',
    );
    expect(chosen()).toEqual(['voice4', 'voice8', 'harp4', 'harp8']);
    expect([store.getState().stripId, screen.queryAllByTestId('box').length]).toEqual(['voice', 1]);
    fireEvent.pointerUp(window, { clientX: 25, clientY: HEAD + 20 });
    expect([chosen().length, screen.queryByTestId('box')]).toEqual([4, null]);
  });

  it('adds with Shift, goes back with Escape, and a press alone chooses nothing', () => {
    const { element, chosen } = sheet();
    drag(element, [
      [1, HEAD + 5],
      [15, HEAD + 20],
    ]);
    expect(chosen()).toEqual(['voice0']);
    drag(
      element,
      [
        [1, HEAD + 170],
        [15, HEAD + 180],
      ],
      'up',
      { shiftKey: true },
    );
    expect(chosen()).toEqual(['voice0', 'bell0']);
    drag(
      element,
      [
        [1, HEAD + 5],
        [300, HEAD + 200],
      ],
      'escape',
    );
    expect(chosen()).toEqual(['voice0', 'bell0']);
    drag(element, [
      [1, HEAD + 5],
      [2, HEAD + 6],
    ]);
    expect(chosen()).toEqual([]);
  });

  it('begins on a row, whose strip it chooses; with Shift the clips of other strips stay', () => {
    const { chosen, store } = sheet();
    const from = (id: string, y: number, shiftKey = false) =>
      drag(
        screen.getByTestId(id),
        [
          [1, HEAD + y],
          [15, HEAD + y + 10],
        ],
        'up',
        { shiftKey },
      );
    from('voice', 5);
    expect([store.getState().stripId, chosen()]).toEqual(['voice', ['voice0']]);
    from('bell', 170, true);
    expect([store.getState().stripId, chosen()]).toEqual(['voice', ['voice0', 'bell0']]);
    from('harp', 70);
    expect([store.getState().stripId, chosen()]).toEqual(['harp', ['harp0']]);
  });

  it('does not begin on what can be pressed', () => {
    const { chosen } = sheet();
    drag(screen.getByRole('button'), [
      [1, HEAD + 5],
      [300, HEAD + 200],
    ]);
    expect([chosen(), screen.queryByTestId('box')]).toEqual([[], null]);
  });

  it('is not drawn by a finger, which scrolls', () => {
    const { element, chosen } = sheet();
    fireEvent(
      element,
      Object.assign(new PointerEvent('pointerdown', { bubbles: true, button: 0 }), { pointerType: 'touch' }),
    );
    fireEvent.pointerMove(window, { clientX: 300, clientY: 300 });
    expect([chosen(), screen.queryByTestId('box')]).toEqual([[], null]);
  });
});
