import { fireEvent, screen } from '@testing-library/react';
import { countIds, drag, renderIn, testStudio } from '../../../../test/support/studio';
import { onPlan as at } from '../../../../test/support/plan';
import { useStudioState } from '../../session/StudioContext';
import { PlacePlan } from './PlacePlan';

/** A place in the chain of a track, and one of a track on the stage that another stands opposite to. */
function plan(insertId: string) {
  countIds();
  const values = { azimuth: 0, distance: 2 };
  const test = testStudio(
    [
      ...['voice', 'harp', 'oboe'].map((id) => ({ type: 'track.add' as const, id, name: id })),
      { type: 'insert.add', stripId: 'voice', id: 'seat', effect: 'place', index: 0 },
      { type: 'insert.set', id: 'seat', values },
      { type: 'place.add', stripId: 'harp', id: 'leads', values },
      { type: 'place.add', stripId: 'oboe', id: 'follows', values: { ...values, mirror: 'side' } },
      { type: 'strip.set', id: 'oboe', values: { oppositeOf: 'harp' } },
    ],
    { engine: { level: () => ({ left: 0, right: 0 }), meterValue: () => null, playing: false } },
  );
  function View() {
    const insert = useStudioState(({ document }) => document.inserts[insertId]!);
    return <PlacePlan insert={insert} />;
  }
  renderIn(test.studio, <View />);
  const place = (id: string) => {
    const { azimuth, distance } = test.store.getState().document.inserts[id]!.values;
    return [Math.round(Number(azimuth)), Math.round(Number(distance))];
  };
  const steps = () => test.store.getState().history.past.map(({ label }) => label);
  return { ...test, thing: screen.getByRole('button'), place, steps };
}

describe('the plan of a place', () => {
  it('lets an effect of a chain be dragged to where it is heard, as one step, and Escape takes it back', () => {
    const { thing, place, steps, studio } = plan('seat');
    drag(thing, [at(0, 2), at(45, 3), at(90, 4)]);
    expect([place('seat'), steps()]).toEqual([[90, 4], ['Move voice']]);
    drag(thing, [at(90, 4), at(10, 1)], 'escape');
    studio.editor.settle();
    expect([place('seat'), steps().length]).toEqual([[90, 4], 1]);
  });

  it('is moved by keys, and leaves other keys alone', () => {
    const { thing, place, store } = plan('seat');
    for (const key of ['ArrowLeft', 'ArrowUp', 'ArrowUp', 'ArrowUp', 'ArrowUp', 'PageUp', 'x']) {
      fireEvent.keyDown(thing, { key });
    }
    expect([place('seat'), store.getState().document.inserts.seat!.values.height]).toEqual([[-5, 4], 0.5]);
  });

  it('of a thing that stands opposite to another moves that one the other way round', () => {
    const { thing, place } = plan('follows');
    drag(thing, [at(0, 2), at(30, 2)]);
    expect(place('leads')).toEqual([-30, 2]);
  });
});
