'use client';

import { type KeyboardEvent } from 'react';
import { landingBeat, soundPlace, type PlacedPrint } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import type { SwellRecipe } from '@/core/session/records/prints';
import { useStudio, useStudioState } from '../session/StudioContext';
import { drawnTo, landingCommand, wordBeats } from './geometry';
import { usePointerDrag } from '../ui/usePointerDrag';

interface Props {
  readonly print: PlacedPrint;
  /** The clip that it lands in. */
  readonly clip: Clip;
  readonly perSecond: number;
  readonly onsets: readonly number[];
}

/** Pixels within which a landing is drawn to the beginning of a word. */
const REACH = 7;
const STEP_SECONDS = 0.001;

/** Landing of a swell: a drag snaps to the beginnings of words (not with Alt); arrow keys move it by 1 ms, with Shift by 10. */
export function Landing({ print, clip, perSecond, onsets }: Props) {
  const studio = useStudio();
  const pixelsPerBeat = useStudioState((state) => state.pixelsPerBeat);
  const seconds = soundPlace(clip, (print.recipe as SwellRecipe).landSeconds);
  const label = `Landing of a swell in ${clip.name}`;
  // The document and print of when the drag began: the print itself changes while it is dragged.
  const [begin] = usePointerDrag<{ x: number; from: SessionDocument; print: PlacedPrint }>({
    begin: (event) => {
      event.stopPropagation();
      return { x: event.clientX, from: studio.state.document, print };
    },
    move: (drag, { clientX, altKey }) => {
      const wanted = landingBeat(drag.from, drag.print) + (clientX - drag.x) / pixelsPerBeat;
      const beat = altKey ? wanted : drawnTo(wanted, wordBeats(drag.from, clip, onsets), REACH / pixelsPerBeat);
      studio.editor.preview(landingCommand(drag.from, drag.print, beat), 'Move a landing');
    },
    end: () => studio.editor.settle(),
    cancel: () => studio.editor.abandon(),
  });
  const onKeyDown = (event: KeyboardEvent) => {
    const way = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
    if (way === 0) return;
    event.preventDefault();
    event.stopPropagation();
    const { document } = studio.state;
    const beats = (way * STEP_SECONDS * (event.shiftKey ? 10 : 1) * document.session.tempoBpm) / 60;
    studio.editor.perform(landingCommand(document, print, landingBeat(document, print) + beats), 'Move a landing');
  };
  return (
    <span
      className="clip-landing"
      style={{ left: seconds * perSecond }}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={clip.lengthSeconds}
      aria-valuenow={seconds}
      aria-valuetext={`${seconds.toFixed(3)} s into the clip`}
      title="Where the swell lands: drag it, or move it with the arrow keys"
      onPointerDown={begin}
      onKeyDown={onKeyDown}
    />
  );
}
