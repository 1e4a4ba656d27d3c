import { foldOf, heardByItself, heardName, heardOf, ownOrder, readHeard, sidesHeard, takeOf } from './speakers';

const SIGNALS = Array.from({ length: 8 }, (_, n) => Float32Array.from([2 ** -n, 0, -(2 ** -n)]));
const fold = (mask: number, channels: number) =>
  heardOf(SIGNALS.slice(0, channels), foldOf(mask)).map((side) => side[0]!);

/** Left, right, centre, low, back or side left and right, and so on as they fold by BS.775. */
const K = Math.SQRT1_2;
const [L, R, C, , BL, BR, SL, SR] = SIGNALS.map((signal) => signal[0]!) as [
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number,
];

describe('folded to two', () => {
  it.each([
    ['3.0', 3, [L + K * C, R + K * C]],
    ['quad', 4, [L + K * C, R + K * SIGNALS[3]![0]!]],
    ['5.0', 5, [L + K * C + K * SIGNALS[3]![0]!, R + K * C + K * BL]],
    ['5.1', 6, [L + K * C + K * BL, R + K * C + K * BR]],
    ['7.1', 8, [L + K * C + K * BL + K * SL, R + K * C + K * BR + K * SR]],
  ])('%s in its own order', (name, channels, sides) => {
    const mask = ownOrder(channels)!;
    fold(mask, channels).forEach((side, n) => expect(side).toBeCloseTo(sides[n]!, 6));
    expect(heardName(foldOf(mask), channels)).toBe(`${name}, folded to two`);
  });

  it('leaves the low frequencies out, wherever they stand', () => {
    const only = (place: number) =>
      SIGNALS.slice(0, 6).map((signal, n) => (n === place ? signal : new Float32Array(3)));
    for (const side of heardOf(only(3), foldOf(0x3f))) expect(Math.max(...side.map(Math.abs))).toBe(0);
    // In front left, low, back left and right it is the second.
    const [left, right] = heardOf(only(1).slice(0, 4), foldOf(0x39));
    expect([...left!, ...right!]).toEqual([0, 0, 0, 0, 0, 0]);
  });

  it('no place is louder than at a front speaker, and both sides mirror each other', () => {
    const mirrored: readonly (readonly [number, number])[] = [
      [0, 1],
      [4, 5],
      [6, 7],
      [9, 10],
      [12, 14],
      [15, 17],
    ];
    const of = (bit: number) => heardOf([SIGNALS[0]!], foldOf(2 ** bit)).map((side) => side[0]!);
    for (let bit = 0; bit < 18; bit++) {
      const [left, right] = of(bit) as [number, number];
      expect(left ** 2 + right ** 2).toBeLessThanOrEqual(1 + 1e-6);
    }
    for (const [a, b] of mirrored) expect(of(a)).toEqual([...of(b)].reverse());
  });
});

it('takes one or two channels as they are', () => {
  expect(heardOf(SIGNALS, takeOf(3, 4))).toEqual([SIGNALS[2], SIGNALS[3]]);
  expect(heardOf(SIGNALS, takeOf(5, 5))).toEqual([SIGNALS[4]]);
  expect(heardOf(SIGNALS, undefined)).toBe(SIGNALS);
});

it('asks where nothing tells the places', () => {
  expect(heardByItself(1, null)).toBeUndefined();
  expect(heardByItself(2, null)).toBeUndefined();
  expect(heardByItself(4, null)).toBeNull();
  expect(heardByItself(4, 0)).toBeNull();
  expect(heardByItself(6, 0x33)).toBeNull();
  expect(heardByItself(4, 0x33)).toBe('fold-51');
});

it('refuses what is no choice', () => {
  for (const heard of [
    '',
    'fold-',
    'fold-0',
    'fold-51x',
    'fold-524288',
    'take-0',
    'take-5',
    'take-1-5',
    'take-1-2-3',
    'Fold-51',
  ])
    expect(readHeard(heard, 4)).toBeNull();
  expect(readHeard('fold-51', 4)).toEqual({ mask: 51 });
  expect(readHeard('fold-3', 4)).toBeNull();
});

it('tells how many sides are heard', () => {
  expect([
    sidesHeard(undefined, 1),
    sidesHeard(undefined, 6),
    sidesHeard('take-2', 6),
    sidesHeard('take-2-3', 6),
  ]).toEqual([1, 2, 1, 2]);
  expect(sidesHeard('fold-63', 6)).toBe(2);
});
