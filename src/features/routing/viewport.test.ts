import { NODE_HEIGHT, NODE_WIDTH, type Place } from './layout';
import { firstViewport, shiftInto } from './viewport';

const ROOM = { width: 800, height: 700 };

/** Strips in columns and rows, so far apart. */
const strips = (columns: number, rows: number) =>
  new Map(
    Array.from({ length: columns * rows }, (_, n): [string, Place] => [
      `s${n}`,
      { x: 250 * Math.floor(n / rows) - 40, y: 66 * (n % rows) + 10 },
    ]),
  );

/** The box of a strip on the sheet. */
function boxOf(drawing: ReadonlyMap<string, Place>, id: string, chosen = id) {
  const { x, y, zoom } = firstViewport(drawing, chosen, ROOM);
  const at = drawing.get(id)!;
  const [left, top] = [x + at.x * zoom, y + at.y * zoom];
  return { left, top, right: left + NODE_WIDTH * zoom, bottom: top + NODE_HEIGHT * zoom, zoom };
}

describe('the part of the routing that is shown first', () => {
  it('is all of it, in the middle, where it has room', () => {
    const drawing = strips(2, 3);
    const [first, last] = [boxOf(drawing, 's0'), boxOf(drawing, 's5')];
    expect(first.zoom).toBe(1.15);
    expect(first.left).toBeCloseTo(ROOM.width - last.right, 6);
  });

  it('is never smaller than it is drawn, begins at the left and the top, and has the chosen strip in sight', () => {
    const drawing = strips(7, 30);
    const first = boxOf(drawing, 's0');
    expect([first.zoom, first.left, first.top]).toEqual([1, 24, 24]);
    for (const id of drawing.keys()) {
      const { left, top, right, bottom } = boxOf(drawing, id);
      expect([left >= 23.9, right <= ROOM.width - 23.9, top >= 23.9, bottom <= ROOM.height - 23.9]).toEqual([
        true,
        true,
        true,
        true,
      ]);
    }
  });

  it('has no strip to choose in an empty drawing, or one that is folded away', () => {
    expect(firstViewport(new Map(), 'gone', ROOM)).toEqual({ x: 0, y: 0, zoom: 1 });
    expect(boxOf(strips(7, 30), 's0', 'gone').left).toBe(24);
  });
});

describe('what takes the focus', () => {
  const box = (left: number, top: number, width: number, height: number) => ({
    left,
    top,
    right: left + width,
    bottom: top + height,
  });
  const seen = box(100, 50, 400, 300);

  it('is moved to the middle, unless its middle is in sight', () => {
    expect(shiftInto(seen, box(80, 40, 100, 100))).toBeNull();
    expect(shiftInto(seen, box(490, 100, 120, 40))).toEqual({ x: -250, y: 80 });
    expect(shiftInto(seen, box(-90, -1000, 100, 20))).toEqual({ x: 340, y: 1190 });
  });
});
