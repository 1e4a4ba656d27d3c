import { stripIdOfOwner } from '@/core/session/lanes';
import { allStrips, stripOf, stripOfInsert } from '@/core/session/records/queries';
import { MAIN_ID } from '@/core/session/records/strips';
import type { SessionDocument } from '@/core/session/records/document';
import type { StudioState, StudioStore } from './state';

/** The selection. It follows the document: records that are removed are deselected. */
export class Selection {
  constructor(private readonly store: StudioStore) {
    store.subscribe((state, before) => {
      if (state.document === before.document) return;
      const repaired = repair(state);
      if (repaired) store.setState(repaired);
    });
  }

  private get state(): StudioState {
    return this.store.getState();
  }

  /** @param how alone, beside those that are chosen (or no longer), or all from the one that is shown up to it */
  selectStrip(stripId: string, how: 'alone' | 'beside' | 'upTo' = 'alone'): void {
    const strip = stripOf(this.state.document, stripId);
    if (!strip) return;
    if (how !== 'alone') return this.selectMore(stripId, how);
    this.store.setState({ besideIds: [] });
    const { laneId, document, notesFor, clipIds } = this.state;
    const clipsStay = clipIds.some((id) => document.clips[id]?.trackId === stripId);
    const lane = laneId === null ? undefined : document.lanes[laneId];
    const laneStays = lane && stripIdOfOwner(document, lane.ownerId) === stripId;
    this.store.setState({
      stripId,
      insertId: strip.insertIds[0] ?? null,
      ...(laneStays ? {} : { laneId: null, pointIndices: [] }),
      // The bars below the timeline show the selected strip only.
      ...(clipsStay ? {} : { clipIds: [], word: null }),
      ...(notesFor === null || stripId === notesFor
        ? {}
        : { notesFor: stripId === MAIN_ID ? null : stripId, noteIds: [] }),
    });
  }

  private selectMore(stripId: string, how: 'beside' | 'upTo'): void {
    const { stripId: shown, besideIds, document } = this.state;
    if (how === 'upTo') {
      const ids = allStrips(document).map(({ id }) => id);
      const [from, to] = [ids.indexOf(shown), ids.indexOf(stripId)].sort((a, b) => a - b) as [number, number];
      this.store.setState({ besideIds: ids.slice(from, to + 1).filter((id) => id !== shown) });
    } else if (stripId !== shown) {
      const others = besideIds.filter((id) => id !== stripId);
      this.store.setState({ besideIds: besideIds.includes(stripId) ? others : [...others, stripId] });
    } else if (besideIds.length > 0) {
      const [next, ...others] = besideIds as [string, ...string[]];
      this.selectStrip(next);
      this.store.setState({ besideIds: others });
    }
  }

  selectInsert(insertId: string): void {
    const strip = stripOfInsert(this.state.document, insertId);
    if (!strip) return;
    if (!chosenStrips(this.state).includes(strip.id)) this.store.setState({ besideIds: [] });
    const besideIds = this.state.besideIds.filter((id) => id !== strip.id);
    this.store.setState({ stripId: strip.id, besideIds, insertId });
  }

  /** @param more adds the clip to those selected, or takes it out */
  selectClip(clipId: string, more: boolean): void {
    const { clipIds, document, word } = this.state;
    if (word?.clipId !== clipId) this.store.setState({ word: null });
    const others = more ? clipIds.filter((id) => id !== clipId) : [];
    const next = more && clipIds.includes(clipId) ? others : [...others, clipId];
    this.store.setState({ clipIds: next, laneId: null, pointIndices: [] });
    const clip = document.clips[clipId];
    if (clip && clip.trackId !== this.state.stripId) this.selectStrip(clip.trackId);
  }

  /** Selects these clips alone, and the strip of the first unless that of another one is shown. */
  selectClips(clipIds: readonly string[]): void {
    const { document, stripId, word } = this.state;
    if (word && !clipIds.includes(word.clipId)) this.store.setState({ word: null });
    this.store.setState({ clipIds, laneId: null, pointIndices: [] });
    const strips = clipIds.map((id) => document.clips[id]!.trackId);
    if (strips.length > 0 && !strips.includes(stripId)) this.selectStrip(strips[0]!);
  }

  /**
   * Shows a lane in the timeline.
   * @param more beside the lane that is open, or no longer: what is done to one of them as a whole is done to all
   */
  openLane(id: string, more = false): void {
    const { document, laneId } = this.state;
    const lane = document.lanes[id];
    const stripId = lane && stripIdOfOwner(document, lane.ownerId);
    if (!stripId) return;
    if (more && laneId !== null) return this.selectMoreLanes(id, laneId);
    if (stripId !== this.state.stripId) this.selectStrip(stripId);
    this.store.setState({ view: 'timeline', laneId: id, laneMates: NO_MATES, pointIndices: [] });
  }

  /** Opens a lane and moves the focus into it. */
  goToLane(id: string): void {
    this.openLane(id);
    this.store.setState({ arrivingLaneId: id });
  }

  private selectMoreLanes(id: string, openId: string): void {
    const [, ...mates] = chosenLanes(this.state);
    if (id !== openId) {
      const ids = mates.includes(id) ? mates.filter((one) => one !== id) : [...mates, id];
      this.store.setState({ laneMates: { of: openId, ids } });
    } else if (mates.length > 0) {
      const [next, ...ids] = mates as [string, ...string[]];
      this.openLane(next);
      this.store.setState({ laneMates: { of: next, ids } });
    }
  }
}

/** All strips that are chosen, the one that is shown first. */
export const chosenStrips = ({ stripId, besideIds }: Pick<StudioState, 'stripId' | 'besideIds'>): string[] => [
  stripId,
  ...besideIds,
];

/** Lanes that are chosen beside none. */
const NO_MATES: StudioState['laneMates'] = { of: null, ids: [] };

/** All lanes that are chosen, the open one first. */
export function chosenLanes(state: Pick<StudioState, 'document' | 'laneId' | 'laneMates'>): string[] {
  const { document, laneId, laneMates } = state;
  if (laneId === null) return [];
  return [laneId, ...(laneMates.of === laneId ? laneMates.ids.filter((id) => document.lanes[id]) : [])];
}

/** Changes of the selection that follow from a change of the document; null for none. */
function repair(state: StudioState): Partial<StudioState> | null {
  const { document, laneId, pointIndices, clipIds, notesFor, noteIds, besideIds } = state;
  const repaired: { -readonly [K in keyof StudioState]?: StudioState[K] } = {};
  const strip = stripOf(document, state.stripId) ?? firstStrip(document);
  if (strip.id !== state.stripId) repaired.stripId = strip.id;
  if (besideIds.some((id) => id === strip.id || !stripOf(document, id)))
    repaired.besideIds = besideIds.filter((id) => id !== strip.id && stripOf(document, id));
  const insertStays = state.insertId !== null && stripOfInsert(document, state.insertId)?.id === strip.id;
  const insertId = insertStays ? state.insertId : (strip.insertIds[0] ?? null);
  if (insertId !== state.insertId) repaired.insertId = insertId;
  if (laneId !== null && !document.lanes[laneId]) repaired.laneId = null;
  const points = laneId === null ? 0 : (document.lanes[laneId]?.points.length ?? 0);
  if (pointIndices.some((index) => index >= points)) repaired.pointIndices = pointIndices.filter((at) => at < points);
  if (clipIds.some((id) => !document.clips[id])) repaired.clipIds = clipIds.filter((id) => document.clips[id]);
  if (notesFor !== null && !stripOf(document, notesFor) && !document.inserts[notesFor]) repaired.notesFor = null;
  if (noteIds.some((id) => !document.notes[id])) repaired.noteIds = noteIds.filter((id) => document.notes[id]);
  return Object.keys(repaired).length > 0 ? repaired : null;
}

function firstStrip(document: SessionDocument) {
  return document.tracks[document.session.trackIds[0] ?? ''] ?? document.main;
}
