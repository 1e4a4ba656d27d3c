import { thinned } from '../../../../test/support/sweep';
import fc from 'fast-check';
import { editAt, editPlaces, type EditHandle, type ImpulseEdits } from './impulseEdits';

const plain: ImpulseEdits = { start: 0, end: 100, fadeIn: 0, fadeOut: 0, stretch: 100, reverse: false };

describe('edits of an impulse on its picture', () => {
  it('stand where they are heard: fades within what is left, at the other end when it is turned round', () => {
    const edits = { ...plain, start: 200, end: 75, fadeIn: 100, fadeOut: 400 };
    const places = editPlaces(edits, 2);
    expect([places.start, places.end, places.reversed]).toEqual([0.2, 1.5, false]);
    expect([places.fadeIn, places.fadeOut]).toEqual([expect.closeTo(0.3, 9), expect.closeTo(1.1, 9)]);
    const turned = editPlaces({ ...edits, reverse: true }, 2);
    expect(turned.fadeIn).toBeCloseTo(1.4, 9);
    expect(turned.fadeOut).toBeCloseTo(0.6, 9);
    const drawnOut = editPlaces({ ...edits, stretch: 200 }, 2);
    expect([drawnOut.fadeIn, drawnOut.fadeOut]).toEqual([0.25, 1.3]);
  });

  it('are read as they are drawn, and keep to what the parameter takes', () => {
    const handles = fc.constantFrom<EditHandle>('start', 'end', 'fadeIn', 'fadeOut');
    const edits = fc.record({
      start: fc.double({ min: 0, max: 500, noNaN: true }),
      end: fc.double({ min: 40, max: 100, noNaN: true }),
      fadeIn: fc.double({ min: 0, max: 300, noNaN: true }),
      fadeOut: fc.double({ min: 0, max: 300, noNaN: true }),
      stretch: fc.double({ min: 50, max: 200, noNaN: true }),
      reverse: fc.boolean(),
    });
    fc.assert(
      fc.property(handles, edits, fc.double({ min: 1.5, max: 20, noNaN: true }), (handle, some, seconds) => {
        const at = editPlaces(some, seconds)[handle];
        const read = { ...some, [handle]: editAt(handle, at, some, seconds) };
        expect(editPlaces(read, seconds)[handle]).toBeCloseTo(at, 2);
      }),
      { numRuns: thinned(300) },
    );
    expect(editAt('start', -1, plain, 3)).toBe(0);
    expect(editAt('start', 2.9, plain, 3)).toBe(2000);
    expect(editAt('end', 9, plain, 3)).toBe(100);
    expect(editAt('fadeIn', 1.2, { ...plain, end: 20 }, 3)).toBe(600);
  });
});
