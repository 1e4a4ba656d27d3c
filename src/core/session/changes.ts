import { applyPatches, enablePatches, type Patch } from 'immer';
import { KinetikonError } from '../errors';
import { quoted } from '../text';
import { need } from './commandHelpers';
import { COLLECTIONS, type CollectionName, type SessionDocument } from './records/document';
import { validateRecord } from './records/validation';
import type { Lane, Point } from './records/lanes';
import { validateReferences } from './references';

enablePatches();

/** Points of a lane that give way to others: moving one of two thousand is a change of one. */
export interface PointsChange {
  readonly op: 'points';
  readonly laneId: string;
  readonly at: number;
  readonly remove: number;
  readonly insert: readonly Point[];
}

export type Change = Patch | PointsChange;

/** The lane whose points a patch changes, when both documents have it. */
function laneOfPoints(from: SessionDocument, to: SessionDocument, { path }: Patch): string | null {
  const [collection, id, field] = path;
  const known = typeof id === 'string' && from.lanes[id] !== undefined && to.lanes[id] !== undefined;
  return collection === 'lanes' && field === 'points' && known ? id : null;
}

/** Patches with all that change points of one lane put together as the stretch of points that differs. */
export function byPoints(from: SessionDocument, to: SessionDocument, patches: readonly Patch[]): Change[] {
  const lanes = new Set<string>();
  const others = patches.filter((patch) => {
    const lane = laneOfPoints(from, to, patch);
    if (lane !== null) lanes.add(lane);
    return lane === null;
  });
  return [...others, ...[...lanes].map((id) => pointsChange(id, from.lanes[id]!.points, to.lanes[id]!.points))];
}

function samePoint(a: Point, b: Point): boolean {
  return a === b || (a.beat === b.beat && a.value === b.value && a.shape === b.shape && a.bend === b.bend);
}

function pointsChange(laneId: string, from: readonly Point[], to: readonly Point[]): PointsChange {
  const shortest = Math.min(from.length, to.length);
  let at = 0;
  while (at < shortest && samePoint(from[at]!, to[at]!)) at++;
  let same = 0;
  while (same < shortest - at && samePoint(from[from.length - 1 - same]!, to[to.length - 1 - same]!)) same++;
  return { op: 'points', laneId, at, remove: from.length - same - at, insert: to.slice(at, to.length - same) };
}

type Fields = Readonly<Record<string, unknown>>;

/** Fields of a record that are other values or other objects now. */
function fieldChanges(path: readonly string[], before: Fields, after: Fields): Change[] {
  const changed = Object.keys(after).filter((field) => after[field] !== before[field]);
  const gone = Object.keys(before).filter((field) => !(field in after));
  return [
    ...changed.map((field) => ({
      op: field in before ? ('replace' as const) : ('add' as const),
      path: [...path, field],
      value: after[field],
    })),
    ...gone.map((field) => ({ op: 'remove' as const, path: [...path, field] })),
  ];
}

function laneChanges(before: Lane, after: Lane): Change[] {
  const path = ['lanes', after.id];
  const others = fieldChanges(path, { ...before, points: null }, { ...after, points: null });
  return before.points === after.points ? others : [...others, pointsChange(after.id, before.points, after.points)];
}

/**
 * The changes that lead from one document to another that was made from it: records and fields that are the very same
 * object are taken as unchanged, so the cost is that of a look at each record.
 */
export function documentChanges(before: SessionDocument, after: SessionDocument): Change[] {
  if (before === after) return [];
  const changes = [
    ...(before.session === after.session ? [] : fieldChanges(['session'], before.session, after.session)),
    ...(before.main === after.main ? [] : fieldChanges(['main'], before.main, after.main)),
  ];
  for (const collection of COLLECTIONS) {
    const old: Readonly<Record<string, Fields>> = before[collection];
    const now: Readonly<Record<string, Fields>> = after[collection];
    if (old === now) continue;
    for (const id of Object.keys(old)) if (!now[id]) changes.push({ op: 'remove', path: [collection, id] });
    for (const [id, record] of Object.entries(now)) {
      const known = old[id];
      if (known === record) continue;
      if (!known) changes.push({ op: 'add', path: [collection, id], value: record });
      else if (collection === 'lanes') changes.push(...laneChanges(before.lanes[id]!, after.lanes[id]!));
      else changes.push(...fieldChanges([collection, id], known, record));
    }
  }
  return changes;
}

/**
 * The document with changes made to it, unchecked but for their fitting in.
 * @throws KinetikonError session.invalid when they do not
 */
export function applyChanges(document: SessionDocument, changes: readonly Change[]): SessionDocument {
  try {
    const patched = applyPatches(
      document,
      changes.filter((change): change is Patch => change.op !== 'points'),
    );
    return changes.reduce((next, change) => (change.op === 'points' ? withPoints(next, change) : next), patched);
  } catch (error) {
    throw new KinetikonError('session.invalid', 'A step does not fit this session.', {
      kept: 'Nothing was changed.',
      cause: error,
    });
  }
}

function withPoints(document: SessionDocument, { laneId, at, remove, insert }: PointsChange): SessionDocument {
  const lane = need(document.lanes[laneId], `lane ${laneId}`);
  if (at + remove > lane.points.length) throw new Error(`lane ${laneId} has ${lane.points.length} points`);
  const points = [...lane.points.slice(0, at), ...insert, ...lane.points.slice(at + remove)];
  return { ...document, lanes: { ...document.lanes, [laneId]: { ...lane, points } } };
}

const refusal = (message: string) => new KinetikonError('session.invalid', message, { kept: 'Nothing was changed.' });

/**
 * Checks the records of one collection, or those with the given ids that are there.
 * @throws KinetikonError session.invalid and those of `validateRecord`
 */
export function validateCollection(
  document: SessionDocument,
  collection: CollectionName,
  ids?: ReadonlySet<string>,
): void {
  const records: unknown = document[collection];
  if (typeof records !== 'object' || records === null || Array.isArray(records)) {
    throw refusal(`A session needs ${collection}.`);
  }
  for (const id of ids ?? Object.keys(records)) {
    if (!Object.hasOwn(records, id)) continue;
    const record = (records as Record<string, { id: string }>)[id]!;
    validateRecord(collection, record);
    if (record.id !== id) {
      throw refusal(`In ${collection}: ${quoted(id)} holds a record with the id ${quoted(record.id)}.`);
    }
  }
}

/**
 * Checks the records that changes touch, and how all records refer to one another.
 * @throws KinetikonError session.invalid and those of `validateRecord` and `validateReferences`
 */
export function validateTouched(document: SessionDocument, changes: readonly Change[]): void {
  const touched = new Map<string, Set<string> | null>();
  for (const change of changes) {
    const [part, id] = change.op === 'points' ? ['lanes', change.laneId] : change.path.map(String);
    const ids = touched.get(part!);
    if (id === undefined) touched.set(part!, null);
    else if (ids) ids.add(id);
    else if (ids === undefined) touched.set(part!, new Set([id]));
  }
  for (const [part, ids] of touched) {
    if (part === 'session' || part === 'main') validateRecord(part, document[part]);
    else validateCollection(document, part as CollectionName, ids ?? undefined);
  }
  validateReferences(document);
}
