import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { MOTIONS } from '../effects/place/motion';
import { applyCommand, type Command } from './commands';
import { newDocument } from './records/factories';
import type { SessionDocument } from './records/document';
import { lanesToPath, motionToLanes, spotAtBeat } from './stageMotion';

const does = (document: SessionDocument, ...commands: Command[]) =>
  applyCommand(document, { type: 'all', commands }, '').document;
const stage = (values = {}) =>
  does(
    newDocument('Stage'),
    { type: 'track.add', id: 'pad', name: 'Pad' },
    { type: 'place.add', stripId: 'pad', id: 'place', values },
  );
const pad = (document: SessionDocument) => document.tracks.pad!;
let ids = 0;
const newId = () => `lane-${ids++}`;
const range = { from: 4, to: 20 };

/** The farthest that two documents have the thing apart, in metres near by, beside how far off it is beyond 1 m. */
function apart(a: SessionDocument, b: SessionDocument): number {
  let most = 0;
  for (let beat = range.from; beat < range.to; beat += 0.13) {
    const [one, other] = [spotAtBeat(a, pad(a), beat), spotAtBeat(b, pad(b), beat)];
    most = Math.max(most, Math.hypot(one.x - other.x, one.y - other.y) / Math.max(1, Math.hypot(one.x, one.y)));
  }
  return most;
}

describe('motion on the stage', () => {
  it('is written into lanes that move the thing along the same way', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...MOTIONS.filter((one) => one !== 'none')),
        fc.double({ min: -180, max: 180, noNaN: true }),
        fc.double({ min: 2.5, max: 20, noNaN: true }),
        fc.double({ min: 0.5, max: 2, noNaN: true }),
        fc.constantFrom('none', 'angle', 'side'),
        (motion, azimuth, distance, motionSize, mirror) => {
          const before = stage({ motion, azimuth, distance, motionSize, mirror, motionRate: 0.2 });
          const after = does(before, motionToLanes(before, pad(before), range, newId));
          expect(after.inserts.place!.values.motion).toBe('none');
          expect(apart(before, after)).toBeLessThan(0.05);
        },
      ),
      { numRuns: thinned(25) },
    );
  });

  it('is drawn again from lanes, as a path that takes as long', () => {
    const before = stage({ motion: 'ellipse', azimuth: 30, distance: 4, motionSize: 3, motionRate: '4bar' });
    const written = does(before, motionToLanes(before, pad(before), range, newId));
    const drawn = does(written, lanesToPath(written, pad(written), range));
    expect(drawn.inserts.place!.values.motion).toBe('path');
    expect(Object.values(drawn.lanes).map(({ on }) => on)).toEqual([false, false]);
    expect(apart(before, drawn)).toBeLessThan(0.05);
  });

  it('replaces what lay in the stretch and leaves the rest of a lane', () => {
    const before = does(stage({ motion: 'circle', motionRate: 0.1 }), {
      type: 'lane.add',
      lane: {
        ...{ id: 'own', ownerId: 'place', parameter: 'azimuth', on: true, mirrorOf: null, mirrorAmount: 100 },
        points: [0, 6, 40].map((beat) => ({ beat, value: beat, shape: 'straight' as const, bend: 0 })),
      },
    });
    const { points } = does(before, motionToLanes(before, pad(before), range, newId)).lanes.own!;
    expect([points[0]!.beat, points.at(-1)!.beat, points.some(({ beat }) => beat === 6)]).toEqual([0, 40, false]);
  });

  it('refuses what cannot be written or drawn, and says what to do', () => {
    const fast = stage({ motion: 'circle', motionRate: 5 });
    expect(() => motionToLanes(fast, pad(fast), { from: 0, to: 400 }, newId)).toThrow('at most 62 are written');
    const still = stage();
    expect(() => lanesToPath(still, pad(still), range)).toThrow('The lanes of Pad do not move it there.');
  });
});
