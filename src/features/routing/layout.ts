import { allStrips, MAIN_ID, type SessionDocument } from '@/core/session/records';
import { connectionsOf, signalOrder } from '@/core/session/routing';

export const NODE_WIDTH = 148;
export const NODE_HEIGHT = 50;
const COLUMN = 300;
const ROW = 66;
/** Returns stand further apart than tracks, so that what passes them can be followed. */
const RETURN_ROW = 118;

/**
 * Places of all strips, left to right in the direction of the sound: tracks in the order of the cast, then returns and
 * groups by how many strips come before them, then the main output.
 */
export function placeStrips(document: SessionDocument): Map<string, { x: number; y: number }> {
  const connections = connectionsOf(document);
  const column = new Map<string, number>();
  for (const id of signalOrder(document, connections)) {
    const before = connections.filter((one) => one.toId === id).map((one) => (column.get(one.fromId) ?? 0) + 1);
    column.set(id, document.tracks[id] ? 0 : Math.max(1, ...before));
  }
  const last = Math.max(1, ...column.values());
  column.set(MAIN_ID, last + (column.get(MAIN_ID) === last ? 0 : 1));
  const columns = new Map<number, string[]>();
  for (const { id } of allStrips(document)) columns.set(column.get(id)!, [...(columns.get(column.get(id)!) ?? []), id]);
  const places = new Map<string, { x: number; y: number }>();
  for (const [at, ids] of columns) {
    const row = at === 0 ? ROW : RETURN_ROW;
    ids.forEach((id, index) => places.set(id, { x: at * COLUMN, y: (index - (ids.length - 1) / 2) * row }));
  }
  return places;
}
