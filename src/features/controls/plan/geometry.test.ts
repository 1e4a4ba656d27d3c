import fc from 'fast-check';
import {
  distanceOf,
  fromPlan,
  labelPlaces,
  placeWords,
  PLAN,
  radiusOf,
  toPlan,
  VIEW,
  widthPath,
  wrapped,
} from './geometry';

describe('the plan of the stage', () => {
  it('is read as it is drawn', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -179.9, max: 180, noNaN: true }),
        fc.double({ min: 0.3, max: 50, noNaN: true }),
        (azimuth, distance) => {
          const angle = (azimuth * Math.PI) / 180;
          const read = fromPlan(toPlan({ x: distance * Math.sin(angle), y: distance * Math.cos(angle) }));
          expect(wrapped(read.azimuth - azimuth)).toBeCloseTo(0, 6);
          expect(read.distance / distance).toBeCloseTo(1, 6);
        },
      ),
    );
    expect([radiusOf(50), radiusOf(0), distanceOf(1e9)].map((one) => Number(one.toFixed(9)))).toEqual([PLAN, 0, 50]);
  });

  it('has ahead above, the right on the right, and says where a thing is', () => {
    expect(toPlan({ x: 0, y: 1 }).y).toBeLessThan(0);
    expect(toPlan({ x: 1, y: 0 }).x).toBeGreaterThan(0);
    expect(placeWords({ x: 0, y: 2, z: 0 })).toBe('ahead, 2.0 m');
    expect(placeWords({ x: -3, y: 0, z: 1 })).toBe('90° left, 3.0 m, 1.0 m up');
    expect(placeWords({ x: 0, y: -20, z: -2 })).toBe('behind, 20 m, 2.0 m down');
  });

  it('puts names where they cover no mark and no other name', () => {
    const named = (x: number, y: number, width: number, more = {}) => ({
      x,
      y,
      width,
      stem: 0,
      chosen: false,
      ...more,
    });
    const near = [0, 14, 28, 42].map((y) => named(40, y * 2, 80));
    const places = labelPlaces([named(0, 0, 90), ...near, named(350, 0, 90)]);
    const box = (n: number, x: number, y: number, width: number) => {
      const { dx, dy, anchor } = places[n]!;
      const left = x + dx - (anchor === 'end' ? width : anchor === 'middle' ? width / 2 : 0);
      return { left, right: left + width, top: y + dy - 12, bottom: y + dy + 4 };
    };
    const boxes = near.map(({ x, y, width }, n) => box(n + 1, x, y, width));
    boxes.forEach((one, n) =>
      boxes.slice(n + 1).forEach((other) => {
        expect(one.bottom < other.top || one.right < other.left || one.left > other.right).toBe(true);
      }),
    );
    expect(box(5, 350, 0, 90).right).toBeLessThan(VIEW.left + VIEW.width);
  });

  it('keeps a name where it was while there is room, leaves out one without, and names what is chosen first', () => {
    const named = (x: number, y: number, chosen = false) => ({ x, y, width: 60, stem: 0, chosen });
    const [alone] = labelPlaces([named(40, 100)]);
    const above = { dx: 0, dy: -18, anchor: 'middle' as const };
    expect(labelPlaces([named(40, 100)], 1, [above])).toEqual([above]);
    expect(labelPlaces([named(40, 100), named(40, 84)], 1, [above])[0]).not.toEqual(above);
    const crowd = Array.from({ length: 40 }, () => named(40, 100));
    const places = labelPlaces(crowd);
    expect(places.filter((one) => one === null).length).toBeGreaterThan(20);
    expect(labelPlaces([...crowd, named(40, 100, true)]).at(-1)).toEqual(alone);
    // The height above a thing is as much in the way as its mark.
    const lifted = { ...named(40, 120), stem: 20, width: 0 };
    expect(labelPlaces([named(40, 100), lifted])[0]).not.toEqual(alone);
  });

  it('shows how wide a thing is from one of its ends to the other, around the listener', () => {
    const [from, to] = widthPath({ x: 0, y: 3, z: 4 }, 10)
      .match(/^M(\S+) (\S+)A.* (\S+) (\S+)$/)!
      .slice(1)
      .reduce<number[][]>(
        (pairs, one, n) => (n % 2 ? [...pairs.slice(0, -1), [...pairs.at(-1)!, +one]] : [...pairs, [+one]]),
        [],
      );
    // 5 m to either side, 5 m away: 45 degrees.
    expect(fromPlan({ x: from![0]!, y: from![1]! }).azimuth).toBeCloseTo(-45, 0);
    expect(fromPlan({ x: to![0]!, y: to![1]! })).toEqual({
      azimuth: expect.closeTo(45, 0) as number,
      distance: expect.closeTo(3, 1) as number,
    });
  });
});
