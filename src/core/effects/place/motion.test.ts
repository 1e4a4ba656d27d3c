import fc from 'fast-check';
import { MOTIONS, spotAt, type Course } from './motion';

const course = (values: Partial<Course>): Course => ({
  ...{ azimuth: 0, distance: 4, height: 0, motion: 'none', size: 1, phase: 0, backwards: false, ease: 0 },
  ...{ mirror: 'none', path: { x: [0, 1, 0, -1], y: [1, 0, -1, 0] } },
  ...values,
});
const angle = ({ x, y }: { x: number; y: number }) => (Math.atan2(x, y) * 180) / Math.PI;
const far = ({ x, y }: { x: number; y: number }) => Math.hypot(x, y);

const anyCourse = fc.record({
  azimuth: fc.double({ min: -180, max: 180, noNaN: true }),
  distance: fc.double({ min: 0.3, max: 50, noNaN: true }),
  height: fc.double({ min: -10, max: 10, noNaN: true }),
  motion: fc.constantFrom(...MOTIONS),
  size: fc.double({ min: 0.1, max: 20, noNaN: true }),
  phase: fc.double({ min: 0, max: 360, noNaN: true }),
  backwards: fc.boolean(),
  ease: fc.double({ min: 0, max: 1, noNaN: true }),
});
const rounds = fc.double({ min: 0, max: 500, noNaN: true });

describe('motion on the stage', () => {
  it('comes round to where it was, but for a walk, and leaves no step on its way', () => {
    fc.assert(
      fc.property(anyCourse, rounds, (values, at) => {
        const one = course(values);
        const here = spotAt(one, at);
        if (one.motion !== 'walk') {
          const again = spotAt(one, at + 1);
          expect(far({ x: again.x - here.x, y: again.y - here.y })).toBeLessThan(1e-6 * (1 + one.distance + one.size));
        }
        const next = spotAt(one, at + 1e-4);
        expect(far({ x: next.x - here.x, y: next.y - here.y })).toBeLessThan(3e-3 * (one.distance + one.size));
        expect(here.z).toBe(one.height);
      }),
    );
  });

  it('mirrors to the opposite angle and to the other side, whatever it does', () => {
    fc.assert(
      fc.property(anyCourse, rounds, (values, at) => {
        const { x, y } = spotAt(course(values), at);
        const across = spotAt(course({ ...values, mirror: 'angle' }), at);
        const beside = spotAt(course({ ...values, mirror: 'side' }), at);
        expect([across.x, across.y, beside.x, beside.y]).toEqual([-x, -y, -x, y]);
      }),
    );
  });

  it('a circle stays at its distance, clockwise from where it stands', () => {
    for (const at of [0, 0.1, 0.25, 0.6]) {
      const spot = spotAt(course({ motion: 'circle', azimuth: 30 }), at);
      expect(far(spot)).toBeCloseTo(4, 12);
      const turned = angle(spot) - 30 - 360 * at;
      expect(turned - 360 * Math.round(turned / 360)).toBeCloseTo(0, 9);
    }
    expect(angle(spotAt(course({ motion: 'circle', backwards: true }), 0.25))).toBeCloseTo(-90, 9);
    expect(angle(spotAt(course({ motion: 'circle', phase: 90 }), 0))).toBeCloseTo(90, 9);
  });

  it('an ellipse has the distance and the reach as its half axes', () => {
    const at = (round: number) => spotAt(course({ motion: 'ellipse', size: 2 }), round);
    expect([at(0).y, at(0.25).x, at(0.5).y, at(0.75).x].map((one) => Number(one.toFixed(9)))).toEqual([4, 2, -4, -2]);
  });

  it('a line goes evenly from end to end, a pendulum along its arc', () => {
    const places = [0, 0.125, 0.25, 0.5, 0.75].map((at) => spotAt(course({ motion: 'line', size: 3 }), at));
    expect(places.map(({ x, y }) => [Number(x.toFixed(9)), Number(y.toFixed(9))])).toEqual([
      [3, 4],
      [1.5, 4],
      [0, 4],
      [-3, 4],
      [0, 4],
    ]);
    const swing = (at: number) => spotAt(course({ motion: 'pendulum', size: 2 }), at);
    expect([far(swing(0)), far(swing(0.3))].map((one) => Number(one.toFixed(9)))).toEqual([4, 4]);
    expect(angle(swing(0))).toBeCloseTo((0.5 * 180) / Math.PI, 9);
    expect(angle(swing(0.5))).toBeCloseTo((-0.5 * 180) / Math.PI, 9);
  });

  it('lingers with ease where it begins, and at both ends of a line', () => {
    const way = (motion: Course['motion'], ease: number, at: number) => {
      const [a, b] = [spotAt(course({ motion, ease }), at), spotAt(course({ motion, ease }), at + 0.01)];
      return far({ x: b.x - a.x, y: b.y - a.y });
    };
    expect(way('circle', 1, 0) / way('circle', 0, 0)).toBeLessThan(0.01);
    expect(way('circle', 1, 0.5) / way('circle', 0, 0.5)).toBeGreaterThan(1.9);
    for (const at of [0, 0.5]) expect(way('line', 1, at) / way('line', 0, at)).toBeLessThan(0.01);
  });

  it('a drawn path goes through its points in turn, around where it stands', () => {
    const points = [0, 0.25, 0.5, 0.75].map((at) => spotAt(course({ motion: 'path', size: 2 }), at));
    expect(points.map(({ x, y }) => [Number(x.toFixed(9)), Number(y.toFixed(9))])).toEqual([
      [0, 6],
      [2, 4],
      [0, 2],
      [-2, 4],
    ]);
  });

  it('a walk stays within its reach and is the same every time', () => {
    fc.assert(
      fc.property(rounds, (at) => {
        const { x, y } = spotAt(course({ motion: 'walk', size: 1.5 }), at);
        expect(Math.max(Math.abs(x), Math.abs(y - 4))).toBeLessThanOrEqual(1.5);
        expect(spotAt(course({ motion: 'walk', size: 1.5 }), at)).toEqual({ x, y, z: 0 });
      }),
    );
  });
});
