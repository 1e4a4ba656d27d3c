import { fireEvent, screen } from '@testing-library/react';
import { renderIn, testStudio, withEffect } from '../../../test/support/studio';
import { useStudioState } from '../session/StudioContext';
import { chosenLanes } from '../session/selection';
import { LaneBar } from './LaneBar';
import { LaneView } from './LaneView';

function Lanes() {
  const lanes = useStudioState(({ document }) => Object.values(document.lanes));
  const open = useStudioState(({ document, laneId }) => document.lanes[laneId ?? '']);
  return (
    <>
      {lanes.map((lane) => (
        <LaneView key={lane.id} lane={lane} width={400} />
      ))}
      {open && <LaneBar lane={open} />}
    </>
  );
}

/** A delay with lanes of its mix, of the pan of its strip, and of its mute, a switch. */
function lanes() {
  const lane = (id: string, ownerId: string, parameter: string, value: number | boolean) => ({
    type: 'lane.add' as const,
    lane: {
      id,
      ownerId,
      parameter,
      on: true,
      points: [{ beat: 0, value, shape: 'straight' as const, bend: 0 }],
      mirrorOf: null,
      mirrorAmount: 100,
    },
  });
  const test = testStudio([
    ...withEffect('delay'),
    lane('mix', 'one', 'mix', 20),
    lane('pan', 'voice', 'pan', 0),
    lane('mute', 'voice', 'mute', false),
  ]);
  test.store.setState({ pixelsPerBeat: 20, stripId: 'voice', laneId: 'mix' });
  renderIn(test.studio, <Lanes />);
  return {
    ...test,
    name: (text: RegExp) => screen.getByRole('button', { name: text }),
    chosen: () => chosenLanes(test.store.getState()),
    held: () => test.store.getState().document.lanes,
  };
}

describe('lanes that are chosen together', () => {
  it('are added and taken out with Ctrl or Shift, and a press alone leaves one', () => {
    const { name, chosen, store } = lanes();
    fireEvent.click(name(/Pan$/), { ctrlKey: true });
    fireEvent.click(name(/Mute$/), { shiftKey: true });
    expect(chosen()).toEqual(['mix', 'pan', 'mute']);
    expect(name(/Mute$/).getAttribute('aria-pressed')).toBe('true');
    fireEvent.click(name(/Pan$/), { ctrlKey: true });
    expect(chosen()).toEqual(['mix', 'mute']);
    fireEvent.click(name(/Mix$/), { ctrlKey: true });
    expect(chosen()).toEqual(['mute']);
    fireEvent.click(name(/Mix$/), { ctrlKey: true });
    fireEvent.click(name(/Pan$/));
    expect(chosen()).toEqual(['pan']);
    store.setState({ laneId: 'mix' });
    expect(chosen()).toEqual(['mix']);
  });

  it('are suspended, filled with a shape and removed together, each as one step', () => {
    const { name, held, performed, studio } = lanes();
    fireEvent.click(name(/Pan$/), { ctrlKey: true });
    fireEvent.click(name(/Mute$/), { ctrlKey: true });
    fireEvent.click(name(/^Suspend lanes/));
    expect(Object.values(held()).map(({ on }) => on)).toEqual([false, false, false]);
    expect(performed.at(-1)).toBe('Suspend the lane of Delay: Mix, and of 2 more');
    studio.editor.undo();
    expect(Object.values(held()).map(({ on }) => on)).toEqual([true, true, true]);
    fireEvent.click(name(/^Shapes/));
    fireEvent.click(name(/^Triangle/));
    // A switch takes no shape.
    expect(Object.values(held()).map(({ points }) => points.length > 1)).toEqual([true, true, false]);
    expect(performed.at(-1)).toBe('Triangle for 2 lanes');
    fireEvent.click(name(/^Remove$/));
    expect(held()).toEqual({});
    studio.editor.undo();
    studio.editor.undo();
    expect(Object.values(held()).map(({ points }) => points.length)).toEqual([1, 1, 1]);
  });

  it('leave nothing as it was not: a value that does not fit one of them fills none', () => {
    const { name, held } = lanes();
    fireEvent.click(name(/Pan$/), { ctrlKey: true });
    fireEvent.click(name(/^Shapes/));
    fireEvent.change(screen.getByLabelText('Lowest value'), { target: { value: 'loud' } });
    fireEvent.click(name(/^Sine/));
    expect(screen.getByRole('alert').textContent).toMatch(/loud/);
    expect(Object.values(held()).map(({ points }) => points.length)).toEqual([1, 1, 1]);
  });
});

describe('a lane that is gone to', () => {
  it('takes the focus, once', () => {
    const { studio, store } = lanes();
    studio.selection.goToLane('pan');
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Lane of Pan on Voice, one point');
    expect(store.getState().arrivingLaneId).toBeNull();
  });
});
