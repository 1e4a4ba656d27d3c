import { monotoneCurveAt } from './monotoneCurve';

it('a monotone curve goes through its points without a swing beyond them, and is level at its ends', () => {
  const curve = { x: [100, 400, 1000, 5000], y: [0.5, 2, 2, 0.2] };
  curve.x.forEach((x, n) => expect(monotoneCurveAt(curve, x)).toBeCloseTo(curve.y[n]!, 12));
  for (let at = 20; at < 20000; at *= 1.1) {
    expect(monotoneCurveAt(curve, at)).toBeLessThan(2 + 1e-9);
    expect(monotoneCurveAt(curve, at)).toBeGreaterThan(0.2 - 1e-9);
  }
  expect([monotoneCurveAt(curve, 10), monotoneCurveAt(curve, 1e5)]).toEqual([0.5, 0.2]);
});
