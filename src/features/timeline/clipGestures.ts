import type { KeyboardEvent, PointerEvent } from 'react';
import { nudged, slipped } from '@/core/session/clipCuts';
import type { Clip } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import { useStudio, useStudioState } from '../session/StudioContext';
import { usePointerDrag } from '../ui/usePointerDrag';
import { dragCommand, edgesBeside, LEVEL_DB, type Handle } from './geometry';
import { gridOf } from '../session/snap';

const DRAG_WORDS = {
  body: 'Move',
  slip: 'Slip',
  level: 'Set the level of',
  start: 'Trim',
  end: 'Trim',
  fadeIn: 'Fade',
  fadeOut: 'Fade',
} as const;
/** Pixels after which a press is a drag. */
const DRAG_ACROSS = 3;
const DRAG_DOWN = 8;
/** Pixels from which on an edge draws. */
const EDGE_REACH = 8;
/** Beats that an arrow key moves a clip by where nothing snaps. */
const FREE_STEP = 0.05;
/** Seconds that an arrow key with Alt moves a clip, or the sound in it. */
const FINE_SECONDS = 0.001;

interface ClipDrag {
  readonly handle: Handle;
  readonly x: number;
  readonly y: number;
  readonly from: SessionDocument;
  hasMoved: boolean;
  /** Beats that it is drawn to, once they are wanted. */
  edges?: readonly number[];
}

/** Drags of a clip, its edges and its fades; Alt leaves the grid, Ctrl moves the sound within the clip. */
export function useClipDrag(clip: Clip, lane: number): (event: PointerEvent<Element>, handle: Handle) => void {
  const studio = useStudio();
  const { pixelsPerBeat, selected } = useStudioState(({ pixelsPerBeat, clipIds }) => ({
    pixelsPerBeat,
    selected: clipIds.includes(clip.id),
  }));
  const [begin] = usePointerDrag<ClipDrag, [handle: Handle]>({
    begin: (event, handle) => {
      event.stopPropagation();
      if (!selected || event.shiftKey) studio.selection.selectClip(clip.id, event.shiftKey);
      const isSlip = handle === 'body' && (event.ctrlKey || event.metaKey);
      return {
        handle: isSlip ? 'slip' : handle,
        x: event.clientX,
        y: event.clientY,
        hasMoved: false,
        from: studio.state.document,
      };
    },
    move: (drag, { clientX, clientY, altKey }) => {
      const [dx, dy] = [clientX - drag.x, clientY - drag.y];
      const across = drag.handle === 'level' ? dy : dx;
      if (!drag.hasMoved && Math.abs(across) < DRAG_ACROSS && Math.abs(dy) < DRAG_DOWN) return;
      drag.hasMoved = true;
      const { clipIds, snap } = studio.state;
      const ids = clipIds.includes(clip.id) ? clipIds : [clip.id];
      const hasEdges = snap === 'edges' && !altKey;
      if (hasEdges) drag.edges ??= edgesBeside(drag.from, new Set(ids), (one) => studio.sounds.onsetsOf(one));
      const command = dragCommand(drag.from, {
        handle: drag.handle,
        clip: drag.from.clips[clip.id]!,
        moving: ids.map((id) => drag.from.clips[id]!),
        deltaBeats: dx / pixelsPerBeat,
        deltaLanes: Math.round(dy / lane),
        deltaDb: (-dy / lane) * (LEVEL_DB.to - LEVEL_DB.from),
        grid: altKey ? 0 : gridOf(snap, drag.from),
        ...(hasEdges ? { edges: { beats: drag.edges!, reach: EDGE_REACH / pixelsPerBeat } } : {}),
      });
      studio.editor.preview(command, `${DRAG_WORDS[drag.handle]} ${clip.name}`);
    },
    end: (drag) => drag.hasMoved && studio.editor.settle(),
    cancel: () => studio.editor.abandon(),
  });
  return begin;
}

/** Enter chooses a clip; arrow keys move it and what is chosen beside it, with Alt by 1 ms, with Shift too the sound within. */
export function useClipKeys(clip: Clip): (event: KeyboardEvent) => void {
  const studio = useStudio();
  return (event) => {
    if (event.ctrlKey || event.metaKey) return;
    const { document, snap, clipIds } = studio.state;
    const isSelected = clipIds.includes(clip.id);
    const side = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
    if (event.altKey) {
      if (side === 0) return;
      if (!isSelected) studio.selection.selectClip(clip.id, false);
      const ids = isSelected ? clipIds : [clip.id];
      const edit = event.shiftKey ? slipped : nudged;
      const label = event.shiftKey ? `Slip ${clip.name}` : `Nudge ${clip.name}`;
      studio.editor.perform(edit(document, ids, side * FINE_SECONDS), label);
    } else if (event.key === 'Enter') {
      studio.selection.selectClip(clip.id, event.shiftKey);
    } else if (event.key.startsWith('Arrow')) {
      if (!isSelected) studio.selection.selectClip(clip.id, false);
      const grid = gridOf(snap, document) || FREE_STEP;
      const down = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
      const moving = isSelected ? clipIds.map((id) => document.clips[id]!) : [clip];
      const command = dragCommand(document, {
        handle: 'body',
        clip,
        moving,
        deltaBeats: side * grid,
        deltaLanes: down,
        grid: 0,
      });
      studio.editor.perform(command, `Move ${clip.name}`);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
}
