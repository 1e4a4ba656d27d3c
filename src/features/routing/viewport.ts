import { NODE_HEIGHT, NODE_WIDTH, type Place } from './layout';

/** Room around the drawing, in pixels. */
const MARGIN = 24;
/** As first shown the drawing is never smaller than it is drawn, so that it can be read, and hardly larger. */
export const LARGEST_ZOOM = 1.15;

export interface Viewport {
  readonly x: number;
  readonly y: number;
  readonly zoom: number;
}

/**
 * The part of a drawing that is shown first: all of it in the middle where it has room, else from its left and top on, so far
 * along that the chosen strip is in sight.
 * @param room of the sheet, in pixels
 */
export function firstViewport(
  strips: ReadonlyMap<string, Place>,
  chosenId: string,
  room: { readonly width: number; readonly height: number },
): Viewport {
  const places = [...strips.values()];
  if (places.length === 0) return { x: 0, y: 0, zoom: 1 };
  const left = Math.min(...places.map(({ x }) => x));
  const top = Math.min(...places.map(({ y }) => y));
  const width = Math.max(...places.map(({ x }) => x)) + NODE_WIDTH - left;
  const height = Math.max(...places.map(({ y }) => y)) + NODE_HEIGHT - top;
  const wide = room.width - 2 * MARGIN;
  const high = room.height - 2 * MARGIN;
  const zoom = Math.min(LARGEST_ZOOM, Math.max(1, Math.min(wide / width, high / height)));
  const chosen = strips.get(chosenId) ?? { x: left, y: top };
  /** Offset of the drawing along one axis, in pixels; negative if it begins out of sight. */
  const begin = (size: number, inRoom: number, at: number, length: number) => {
    if (size * zoom <= inRoom) return (inRoom - size * zoom) / 2;
    return Math.max(inRoom - size * zoom, Math.min(0, inRoom - (at + length) * zoom));
  };
  return {
    x: MARGIN + begin(width, wide, chosen.x - left, NODE_WIDTH) - left * zoom,
    y: MARGIN + begin(height, high, chosen.y - top, NODE_HEIGHT) - top * zoom,
    zoom,
  };
}

type Edges = Pick<DOMRect, 'left' | 'right' | 'top' | 'bottom'>;

/** Pixels by which the drawing moves so that the middle of something is in the middle of what is seen; null if it is seen. */
export function shiftInto(seen: Edges, thing: Edges): { readonly x: number; readonly y: number } | null {
  const middle = (one: Edges) => ({ x: (one.left + one.right) / 2, y: (one.top + one.bottom) / 2 });
  const { x, y } = middle(thing);
  if (x >= seen.left && x <= seen.right && y >= seen.top && y <= seen.bottom) return null;
  const centre = middle(seen);
  return { x: centre.x - x, y: centre.y - y };
}
