import { KinetikonError } from '../errors';
import type { Command } from './commands';
import { assetOf } from './prints';
import type { Asset, Clip } from './records/clips';
import { DOCUMENT_VERSION, type SessionDocument } from './records/document';
import type { Lane } from './records/lanes';
import { endBeatOf } from './records/queries';
import { validateRecord } from './records/validation';

/** Clips as they are copied, to be put into any session. */
export interface CopiedClips {
  readonly version: typeof DOCUMENT_VERSION;
  /** From the beginning of the first; each plays a sound. */
  readonly clips: readonly Clip[];
  /** Tracks below that of the topmost, clip by clip. */
  readonly rows: readonly number[];
  /** Names of their tracks, by row. */
  readonly trackNames: readonly string[];
  readonly assets: readonly Asset[];
  readonly lanes: readonly Lane[];
}

/**
 * Copies clips with their lanes and sounds. What is made from another clip becomes a sound of its own.
 * @throws KinetikonError session.command where a sound has not been made yet
 */
export function copyClips(document: SessionDocument, ids: readonly string[]): CopiedClips {
  const clips = ids.flatMap((id) => document.clips[id] ?? []).sort((a, b) => a.startBeat - b.startBeat);
  const start = clips[0]?.startBeat ?? 0;
  const { trackIds } = document.session;
  const places = clips.map(({ trackId }) => trackIds.indexOf(trackId));
  const top = Math.min(...places);
  const assets = new Map<string, Asset>();
  const copies = clips.map((clip) => {
    const asset = soundFor(document, clip);
    assets.set(asset.id, asset);
    return {
      ...clip,
      startBeat: clip.startBeat - start,
      source: { kind: 'sound' as const, assetId: asset.id },
    };
  });
  const chosen = new Set(clips.map(({ id }) => id));
  const lanes = Object.values(document.lanes).filter(({ ownerId }) => chosen.has(ownerId));
  return {
    version: DOCUMENT_VERSION,
    clips: copies,
    rows: places.map((place) => place - top),
    trackNames: trackIds.slice(top, Math.max(...places) + 1).map((id) => document.tracks[id]!.name),
    assets: [...assets.values()],
    // A lane that mirrors another goes by its own points elsewhere.
    lanes: lanes.map((lane) => ({ ...lane, mirrorOf: null })),
  };
}

function soundFor(document: SessionDocument, clip: Clip): Asset {
  const asset = assetOf(document, clip);
  if (asset) return asset;
  throw new KinetikonError('session.command', `${clip.name} has not been made yet.`, {
    kept: 'Nothing was copied.',
    next: 'Wait until it is there.',
  });
}

/** Beats from the beginning of the first of copied clips to the end of the last. */
export const copiedBeats = (document: SessionDocument, { clips }: CopiedClips): number =>
  Math.max(0, ...clips.map((clip) => endBeatOf(document, clip)));

/**
 * Puts copied clips in at a beat, from a track on downwards; tracks are added where there are not enough of them.
 * @param trackId no track for new ones
 * @param newId prefix of new ids
 */
export function pastedClips(
  document: SessionDocument,
  { clips, rows, trackNames, assets, lanes }: CopiedClips,
  { atBeat, trackId, newId }: { readonly atBeat: number; readonly trackId: string; readonly newId: string },
): { readonly command: Command; readonly clipIds: readonly string[] } {
  const { trackIds } = document.session;
  const first = document.tracks[trackId] ? trackIds.indexOf(trackId) : trackIds.length;
  const trackAt = (row: number) => trackIds[first + row] ?? `${newId}-track-${row}`;
  const idOf = new Map(clips.map(({ id }, n) => [id, `${newId}-${n}`]));
  const command: Command = {
    type: 'all',
    commands: [
      ...assets.map((asset): Command => ({ type: 'asset.add', asset })),
      ...trackNames.flatMap((name, row): Command[] =>
        first + row < trackIds.length ? [] : [{ type: 'track.add', id: trackAt(row), name }],
      ),
      ...clips.map((clip, n): Command => {
        const copy = {
          ...clip,
          id: idOf.get(clip.id)!,
          trackId: trackAt(rows[n]!),
          startBeat: atBeat + clip.startBeat,
        };
        return { type: 'clip.add', clip: copy };
      }),
      ...lanes.map((lane): Command => {
        const ownerId = idOf.get(lane.ownerId)!;
        return { type: 'lane.add', lane: { ...lane, id: `${ownerId}-${lane.parameter}`, ownerId } };
      }),
    ],
  };
  return { command, clipIds: [...idOf.values()] };
}

/**
 * Clips that were copied in this browser, maybe by another version or by something else.
 * @returns null for what is none
 */
export function readCopiedClips(value: unknown): CopiedClips | null {
  const copied = value as Partial<CopiedClips> | null | undefined;
  if (copied?.version !== DOCUMENT_VERSION) return null;
  try {
    for (const clip of copied.clips!) validateRecord('clips', clip);
    for (const asset of copied.assets!) validateRecord('assets', asset);
    for (const lane of copied.lanes!) validateRecord('lanes', lane);
    const isWhole = copied.rows!.length === copied.clips!.length && copied.clips!.length > 0;
    const known = new Set(copied.clips!.map(({ id }) => id));
    const isOwn = copied.lanes!.every(({ ownerId }) => known.has(ownerId));
    const isNamed = copied.rows!.every((row) => typeof copied.trackNames![row] === 'string');
    return isWhole && isOwn && isNamed ? (copied as CopiedClips) : null;
  } catch {
    return null;
  }
}
