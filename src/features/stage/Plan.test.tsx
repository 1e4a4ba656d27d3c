import { fireEvent, screen } from '@testing-library/react';
import { countIds, drag, renderIn, testStudio } from '../../../test/support/studio';
import { onPlan as at } from '../../../test/support/plan';
import { Plan } from './Plan';

// The test's browser draws no canvas.
jest.mock('./Traces', () => ({ Traces: () => null }));

function stage({ snap = false, drawing = false } = {}) {
  countIds();
  const drawn = jest.fn();
  const test = testStudio(
    ['voice', 'harp'].flatMap((id, n) => [
      { type: 'track.add' as const, id, name: id },
      { type: 'place.add' as const, stripId: id, id: `${id}-place`, values: { azimuth: 30 * n, distance: 2 } },
    ]),
    { engine: { level: () => ({ left: 0, right: 0 }), meterValue: () => null, playing: false } },
  );
  test.store.setState({ stripId: 'voice', view: 'stage' });
  renderIn(test.studio, <Plan snap={snap} drawing={drawing} onDrawn={drawn} empty={false} />);
  const thing = (id: string) => screen.getByRole('button', { name: new RegExp(`^${id},`) });
  const values = (id: string) => test.store.getState().document.inserts[`${id}-place`]!.values;
  const place = (id: string) => [Number(values(id).azimuth), Number(values(id).distance)].map(Math.round);
  const steps = () => test.store.getState().history.past.map(({ label }) => label);
  return { ...test, thing, values, place, steps, drawn, plan: screen.getByRole('group') };
}

describe('things on the stage under a pointer', () => {
  it('go with it in direction and distance, as one step', () => {
    const { thing, place, steps } = stage();
    drag(thing('voice'), [at(0, 2), at(45, 3), at(90, 4)]);
    expect([place('voice'), place('harp'), steps()]).toEqual([[90, 4], [30, 2], ['Move voice']]);
    drag(thing('voice'), [at(90, 4), at(170, 4), at(-170, 4)]);
    expect(place('voice')).toEqual([-170, 4]);
  });

  it('snap to fifteen degrees where that is on', () => {
    const { thing, place } = stage({ snap: true });
    drag(thing('voice'), [at(0, 2), at(40, 2)]);
    expect(place('voice')).toEqual([45, 2]);
  });

  it.each(['escape', 'cancel'] as const)('are where they were after %s', (end) => {
    const { thing, place, steps, studio } = stage();
    drag(thing('voice'), [at(0, 2), at(90, 4)], end);
    studio.editor.settle();
    expect([place('voice'), steps()]).toEqual([[0, 2], []]);
  });

  it('are chosen beside each other with Shift and go together', () => {
    const { thing, place, steps, store } = stage();
    drag(thing('harp'), [at(30, 2)], 'up', { shiftKey: true });
    expect(thing('harp').getAttribute('aria-pressed')).toBe('true');
    drag(thing('voice'), [at(0, 2), at(20, 4)]);
    expect([place('voice'), place('harp'), steps()]).toEqual([[20, 4], [50, 4], ['Move 2 things']]);
    expect(store.getState().stripId).toBe('voice');
  });

  it('are turned and sent away by keys, finer with Shift, and taken off', () => {
    const { thing, place, store, steps } = stage();
    fireEvent.keyDown(thing('voice'), { key: 'ArrowRight' });
    fireEvent.keyDown(thing('voice'), { key: 'ArrowRight', shiftKey: true });
    for (let press = 0; press < 4; press++) fireEvent.keyDown(thing('voice'), { key: 'ArrowUp' });
    expect([place('voice'), steps().length]).toEqual([[6, 4], 6]);
    fireEvent.keyDown(thing('harp'), { key: 'Enter' });
    expect(store.getState().stripId).toBe('harp');
    fireEvent.keyDown(thing('harp'), { key: 'Delete' });
    expect(store.getState().document.tracks.harp!.placeId).toBeNull();
  });
});

describe('a path drawn by hand', () => {
  const round = Array.from({ length: 24 }, (_, n) => at(15 * n, 3)) as [[number, number], ...[number, number][]];

  it('moves the chosen thing along it, as one step', () => {
    const { plan, values, steps, drawn } = stage({ drawing: true });
    drag(plan, round);
    expect([steps(), drawn.mock.calls.length]).toEqual([['Draw a path for voice'], 1]);
    expect(values('voice').motion).not.toBe('none');
  });

  it('is forgotten after Escape, and a press alone is none', () => {
    const { plan, steps, drawn } = stage({ drawing: true });
    drag(plan, round, 'escape');
    expect([steps(), drawn.mock.calls.length]).toEqual([[], 0]);
    expect(document.querySelector('.plan-way-drawn')).toBeNull();
    drag(plan, [at(0, 3)]);
    expect([steps(), drawn.mock.calls.length]).toEqual([[], 1]);
  });
});
