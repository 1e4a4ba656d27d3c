import { dbToGain } from '../../math/elementary';
import type { Timing } from '../../effects/noteValues';
import { Memo } from '../memo';
import { allStrips, timingOf } from '../records/queries';
import type { Clip } from '../records/clips';
import type { Lane, Note } from '../records/lanes';
import type { SessionDocument } from '../records/document';

/** Linear gain of a level in dB; -100 dB and below is silence. */
export const gainFactor = (db: number) => (db <= -100 ? 0 : dbToGain(db));

export function framesPerBeat(document: SessionDocument): number {
  return (document.session.sampleRateHz * 60) / document.session.tempoBpm;
}

export interface CompileOptions {
  /** Prints and measurements hear everything, whatever is soloed. */
  readonly ignoreSolo?: boolean;
  /** Decibels added after an effect or after the effects of a strip, by their id: what a comparison evens out. */
  readonly trims?: Readonly<Record<string, number>>;
  /** The effect of which only the difference is heard that it makes. */
  readonly differenceId?: string | null;
}

/** Data that all parts of one compilation share. */
export interface CompileContext {
  readonly document: SessionDocument;
  readonly memo: Memo;
  readonly timing: Timing;
  /** Frames per beat. */
  readonly perBeat: number;
  readonly lanes: ReadonlyMap<string, readonly Lane[]>;
  readonly clips: ReadonlyMap<string, readonly Clip[]>;
  /** Notes by the strip or effect that owns them. */
  readonly notes: ReadonlyMap<string, readonly Note[]>;
  /** Strip id by insert id. */
  readonly strips: ReadonlyMap<string, string>;
}

export function newContext(document: SessionDocument, memo: Memo): CompileContext {
  const { session } = document;
  return {
    document,
    memo,
    timing: memo.keep('timing', [session.tempoBpm, session.metreBeats, session.metreUnit], () => timingOf(document)),
    perBeat: framesPerBeat(document),
    lanes: memo.keep('lanes', [document.lanes], () => groupBy(Object.values(document.lanes), ({ ownerId }) => ownerId)),
    notes: memo.keep('notes', [document.notes], () => groupBy(Object.values(document.notes), ({ ownerId }) => ownerId)),
    strips: memo.keep(
      'strips',
      [document.main, document.tracks, document.returns],
      () => new Map(allStrips(document).flatMap(({ id, insertIds }) => insertIds.map((one) => [one, id] as const))),
    ),
    clips: memo.keep('clips', [document.clips], () => groupBy(Object.values(document.clips), ({ trackId }) => trackId)),
  };
}

function groupBy<T>(all: readonly T[], keyOf: (one: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const one of all) {
    const key = keyOf(one);
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return groups;
}

/** `{ [name]: value }`, or nothing when there is no value. */
export function optional<K extends string, T>(name: K, value: T | undefined): { [key in K]?: T } {
  return value === undefined ? {} : ({ [name]: value } as { [key in K]: T });
}
