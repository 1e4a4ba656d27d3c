import { current } from 'immer';
import { copiedSource } from './clipEdits';
import { channelIn, insertAt } from './commandHelpers';
import { freeName } from './freeName';
import type { SessionDocument } from './records/document';

/** Parts of records that are words of the user, in which no id is looked for. */
const WORDS: ReadonlySet<string> = new Set(['name', 'parameter', 'effect', 'values']);

/** The same data with other ids. */
function renamed<T>(value: T, ids: ReadonlyMap<string, string>): T {
  if (typeof value === 'string') return (ids.get(value) ?? value) as T;
  if (Array.isArray(value)) return value.map((one: unknown) => renamed(one, ids)) as T;
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, one]) => [key, WORDS.has(key) ? one : renamed(one as unknown, ids)]),
  ) as T;
}

/**
 * Duplicates a track, a return or a group with its clips, effects, notes, automation, sends and compared settings; what
 * modulators do to its effects they do to the copies too. Other strips go on listening to the original.
 * @param newId id of the copy, and prefix of all others
 */
export function duplicateStrip(draft: SessionDocument, { id, newId }: { id: string; newId: string }): void {
  channelIn(draft, id);
  // A draft would copy every record that is read; plain data does not.
  const document = current<object>(draft) as SessionDocument;
  const strip = channelIn(document, id);
  const { tracks, returns, sends, clips, inserts, lanes, notes, comparisons, prints } = document;
  const own = [...strip.insertIds, ...(strip.placeId === null ? [] : [strip.placeId])];
  const clipIds = Object.values(clips).flatMap((clip) => (clip.trackId === id ? clip.id : []));
  const sendIds = Object.values(sends).flatMap((send) => (send.fromId === id || send.toId === id ? send.id : []));
  const owners = new Set([id, ...own, ...clipIds, ...sendIds]);
  const compared = Object.values(comparisons).filter((one) => owners.has(one.id));
  const slots = compared.flatMap((one) => Object.values(one.slots).flatMap((slot) => slot ?? []));
  const laneIds = Object.values(lanes).flatMap((lane) => (owners.has(lane.ownerId) ? lane.id : []));
  const noteIds = Object.values(notes).flatMap((note) => (owners.has(note.ownerId) ? note.id : []));
  const others = [
    ...owners,
    ...laneIds,
    ...noteIds,
    ...(strip.frozen === null ? [] : [strip.frozen]),
    ...slots.flatMap((slot) => [...slot.inserts, ...slot.lanes].map((one) => one.id)),
  ].filter((one) => one !== id);
  const ids = new Map([[id, newId], ...[...new Set(others)].map((one, n) => [one, `${newId}-${n}`] as const)]);
  /** Copies of some records of a collection. */
  const copy = <T extends object>(
    from: Readonly<Record<string, T>>,
    into: Record<string, T>,
    which: readonly string[],
  ) => {
    for (const one of which) into[ids.get(one)!] = renamed(from[one]!, ids);
  };
  const [home, homes, order] = tracks[id]
    ? ([tracks, draft.tracks, draft.session.trackIds] as const)
    : ([returns, draft.returns, draft.session.returnIds] as const);
  copy<object>(home, homes, [id]);
  const taken = new Set([...Object.values(tracks), ...Object.values(returns)].map((one) => one.name));
  const name = freeName(taken, strip.name, (attempt) => ` ${attempt + 1}`);
  Object.assign(channelIn(draft, newId), { name, outputId: strip.outputId, oppositeOf: strip.oppositeOf });
  insertAt(order, order.indexOf(id) + 1, newId);
  copy(inserts, draft.inserts, own);
  copy(sends, draft.sends, sendIds);
  copy(lanes, draft.lanes, laneIds);
  copy(notes, draft.notes, noteIds);
  copy(
    comparisons,
    draft.comparisons,
    compared.map((one) => one.id),
  );
  if (strip.frozen !== null) copy(prints, draft.prints, [strip.frozen]);
  const pairs = clipIds.map((one) => ({ id: one, newId: ids.get(one)! }));
  for (const pair of pairs) {
    const clip = clips[pair.id]!;
    draft.clips[pair.newId] = {
      ...clip,
      id: pair.newId,
      trackId: newId,
      source: copiedSource(draft, clip, pairs, pair.newId),
    };
  }
  for (const modulator of Object.values(draft.modulators)) {
    for (const target of [...modulator.targets]) {
      const insertId = own.includes(target.insertId) ? ids.get(target.insertId)! : null;
      if (insertId !== null) modulator.targets.push({ ...target, insertId });
    }
  }
}
