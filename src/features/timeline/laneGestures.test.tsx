import { fireEvent, screen } from '@testing-library/react';
import { drag, renderIn, testStudio, withEffect } from '../../../test/support/studio';
import type { Lane, Point } from '@/core/session/records/lanes';
import { useStudioState } from '../session/StudioContext';
import { LaneView } from './LaneView';

const point = (beat: number, value: number): Point => ({ beat, value, shape: 'straight', bend: 0 });
/** A mix of 0 to 100 % goes from the foot to the top of 36 pixels, 20 below the lane's upper edge. */
const yOf = (percent: number) => 20 + 36 * (1 - percent / 100);

function View() {
  const lane = useStudioState(({ document }) => document.lanes.mix!);
  return <LaneView lane={lane} width={400} />;
}

function lane(more: Partial<Lane> = {}) {
  const made: Lane = {
    id: 'mix',
    ownerId: 'one',
    parameter: 'mix',
    on: true,
    points: [point(0, 0), point(4, 50), point(8, 100)],
    mirrorOf: null,
    mirrorAmount: 100,
    ...more,
  };
  const test = testStudio([...withEffect('delay'), { type: 'lane.add', lane: made }], { transport: { heardBeat: 6 } });
  test.store.setState({ pixelsPerBeat: 20, snap: 1, laneId: 'mix' });
  renderIn(test.studio, <View />);
  const sheet = screen.getByRole('group');
  const points = () => test.store.getState().document.lanes.mix!.points.map(({ beat, value }) => [beat, value]);
  const chosen = () => test.store.getState().pointIndices;
  const steps = () => test.store.getState().history.past.map(({ label }) => label);
  const key = (name: string, keys: object = {}) => fireEvent.keyDown(sheet, { key: name, ...keys });
  return { ...test, sheet, points, chosen, steps, key };
}

describe('points of a lane under a pointer', () => {
  it('are moved on the grid with their value, as one step', () => {
    const { sheet, points, chosen, steps } = lane();
    drag(sheet, [
      [80, yOf(50)],
      [95, yOf(60)],
      [118, yOf(75)],
    ]);
    expect([points()[1], chosen(), steps()]).toEqual([[6, 75], [1], ['Move points of Delay: Mix']]);
  });

  it('move together where several are chosen by a box, and free of the grid with Alt', () => {
    const { sheet, points, chosen, steps } = lane();
    drag(sheet, [
      [60, yOf(20)],
      [170, yOf(101)],
    ]);
    expect([chosen(), steps()]).toEqual([[1, 2], []]);
    drag(
      sheet,
      [
        [80, yOf(50)],
        [85, yOf(50)],
      ],
      'up',
      { altKey: true },
    );
    expect(points()).toEqual([
      [0, 0],
      [4.25, 50],
      [8.25, 100],
    ]);
  });

  it.each(['escape', 'cancel'] as const)('are as they were after %s', (end) => {
    const { sheet, points, chosen, steps, studio } = lane();
    drag(
      sheet,
      [
        [80, yOf(50)],
        [200, yOf(90)],
      ],
      end,
    );
    studio.editor.settle();
    expect([points()[1], steps()]).toEqual([[4, 50], []]);
    expect(chosen()).toEqual([1]);
    drag(
      sheet,
      [
        [150, yOf(10)],
        [170, yOf(105)],
      ],
      end,
    );
    expect(chosen()).toEqual([1]);
  });

  it('are bent with Alt between two of them, and drawn freehand', () => {
    const { sheet, studio, store, points } = lane();
    drag(
      sheet,
      [
        [120, yOf(0)],
        [120, yOf(50)],
      ],
      'up',
      { altKey: true },
    );
    expect(store.getState().document.lanes.mix!.points[1]).toMatchObject({ beat: 4, shape: 'curved', bend: 0.5 });
    studio.set({ laneTool: 'draw' });
    drag(sheet, [
      [80, yOf(10)],
      [90, yOf(20)],
      [100, yOf(30)],
    ]);
    expect(points()).toEqual([
      [0, 0],
      [4, 10],
      [4.5, 20],
      [5, 30],
      [8, 100],
    ]);
  });

  it('of a lane that mirrors another are not taken hold of', () => {
    const { sheet, steps, studio } = lane();
    const mirrored = { ...studio.state.document.lanes.mix!, id: 'pan', ownerId: 'voice', parameter: 'pan', points: [] };
    studio.editor.perform({ type: 'lane.add', lane: mirrored }, 'Add');
    studio.editor.perform({ type: 'lane.set', id: 'mix', values: { mirrorOf: 'pan' } }, 'Mirror');
    expect(studio.state.document.lanes.mix!.mirrorOf).toBe('pan');
    const before = steps();
    drag(sheet, [
      [80, yOf(50)],
      [200, yOf(90)],
    ]);
    expect(steps()).toEqual(before);
  });
});

describe('keys of a lane', () => {
  it('choose, move and delete points', () => {
    const { key, points, chosen } = lane();
    key(']');
    key(']');
    expect(chosen()).toEqual([1]);
    key('ArrowRight');
    key('ArrowUp');
    expect(points()[1]).toEqual([5, 51]);
    key('ArrowDown', { shiftKey: true });
    expect(points()[1]![1]).toBeCloseTo(50.8, 6);
    key('Delete');
    expect(points()).toEqual([
      [0, 0],
      [8, 100],
    ]);
  });

  it('copy, cut and put in again at the playhead; a point is added there by Enter', () => {
    const { key, points, store } = lane();
    key('a', { ctrlKey: true });
    key('x', { ctrlKey: true });
    expect([points(), store.getState().pointClipboard.length]).toEqual([[], 3]);
    key('v', { ctrlKey: true });
    expect(points()).toEqual([
      [6, 0],
      [10, 50],
      [14, 100],
    ]);
    key('Enter');
    expect(points()).toHaveLength(3);
    key('Escape');
    key('Delete');
    expect(points()).toHaveLength(3);
  });
});
