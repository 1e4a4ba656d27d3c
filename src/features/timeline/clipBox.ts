import { useState, type PointerEvent } from 'react';
import type { Clip } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import type { Row } from '../session/state';
import { useStudio } from '../session/StudioContext';
import { usePointerDrag, type DragPoint } from '../ui/usePointerDrag';

/** A rectangle of the sheet: beats across, and pixels below the upper edge of the first row. */
export interface ClipBox {
  readonly beats: readonly [number, number];
  readonly heights: readonly [number, number];
}

/** Pixels under which a press is no drag. */
const STILL = 4;

/** Clips that a box touches, in the order in which they stand: by row, then by time. */
export function clipsWithin(document: SessionDocument, rows: readonly Row[], { beats, heights }: ClipBox): string[] {
  const beatsPerSecond = document.session.tempoBpm / 60;
  const touched: string[] = [];
  let top = 0;
  for (const { height, whole, stripId } of rows) {
    if (top < heights[1] && top + height > heights[0]) touched.push(stripId);
    top += whole;
  }
  const place = new Map(touched.map((id, n) => [id, n]));
  const isWithin = ({ trackId, startBeat, lengthSeconds }: Clip) =>
    place.has(trackId) && startBeat < beats[1] && startBeat + lengthSeconds * beatsPerSecond > beats[0];
  return Object.values(document.clips)
    .filter(isWithin)
    .sort((a, b) => place.get(a.trackId)! - place.get(b.trackId)! || a.startBeat - b.startBeat)
    .map(({ id }) => id);
}

interface BoxDrag {
  /** In pixels of the sheet, which may be scrolled meanwhile. */
  readonly x: number;
  readonly y: number;
  /** What stays chosen: with Shift what was chosen before. */
  readonly kept: readonly string[];
  readonly before: readonly string[];
}

/**
 * A press on a row, which chooses its strip, and the box that is drawn from there: it chooses the clips that it touches,
 * with Shift beside those that were chosen.
 * A finger scrolls the sheet instead.
 * @param head pixels of the sheet above its first row
 * @returns the sheet's handler of pointerdown, and the box that is drawn
 */
export function useClipBox(
  rows: readonly Row[],
  head: number,
): [(event: PointerEvent<Element>) => void, ClipBox | null] {
  const studio = useStudio();
  const [box, setBox] = useState<ClipBox | null>(null);
  const placeOf = ({ clientX, clientY, currentTarget }: Pick<DragPoint, 'clientX' | 'clientY' | 'currentTarget'>) => {
    const { left, top } = currentTarget.getBoundingClientRect();
    return { x: clientX - left, y: clientY - top - head };
  };
  const [begin] = usePointerDrag<BoxDrag>({
    begin: (event) => {
      const before = studio.state.clipIds;
      const kept = event.shiftKey ? before : [];
      const target = event.target as Element;
      const row = target.closest<HTMLElement>('[data-row]');
      // With Shift the clips of other strips stay chosen.
      if (row && !event.shiftKey) studio.selection.selectStrip(row.dataset.row!);
      studio.set({ clipIds: kept, laneId: null, pointIndices: [] });
      // Other things on the sheet, such as names of lanes, are pressed themselves.
      const isOnRow = target === event.currentTarget || target === row;
      return !isOnRow || event.pointerType === 'touch' ? null : { ...placeOf(event), kept, before };
    },
    move: ({ x, y, kept }, point) => {
      const to = placeOf(point);
      if (box === null && Math.abs(to.x - x) < STILL && Math.abs(to.y - y) < STILL) return;
      const { document, pixelsPerBeat } = studio.state;
      const drawn: ClipBox = {
        beats: [Math.min(x, to.x) / pixelsPerBeat, Math.max(x, to.x) / pixelsPerBeat],
        heights: [Math.min(y, to.y), Math.max(y, to.y)],
      };
      setBox(drawn);
      studio.selection.selectClips([...new Set([...kept, ...clipsWithin(document, rows, drawn)])]);
    },
    end: () => setBox(null),
    cancel: ({ before }) => {
      setBox(null);
      studio.selection.selectClips(before);
    },
  });
  return [begin, box];
}
