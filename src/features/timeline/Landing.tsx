'use client';

import { useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { landingBeat, soundPlace, type PlacedPrint } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import type { SwellRecipe } from '@/core/session/records/prints';
import { useStudio, useStudioState } from '../session/StudioContext';
import { drawnTo, landingCommand, wordBeats } from './geometry';

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

/** Where a swell lands: dragged, it is drawn to the beginnings of words (not with Alt); arrow keys move it by 1 ms, with Shift by 10. */
export function Landing({ print, clip, perSecond, onsets }: Props) {
  const studio = useStudio();
  const pixelsPerBeat = useStudioState((state) => state.pixelsPerBeat);
  /** Where a drag began, and what was there then: the print itself changes while it is dragged. */
  const drag = useRef<{ x: number; from: SessionDocument; print: PlacedPrint } | null>(null);
  const seconds = soundPlace(clip, (print.recipe as SwellRecipe).landSeconds);
  const label = `Landing of a swell in ${clip.name}`;
  const onPointerMove = (event: PointerEvent) => {
    const now = drag.current;
    if (!now) return;
    const wanted = landingBeat(now.from, now.print) + (event.clientX - now.x) / pixelsPerBeat;
    const beat = event.altKey ? wanted : drawnTo(wanted, wordBeats(now.from, clip, onsets), REACH / pixelsPerBeat);
    studio.editor.preview(landingCommand(now.from, now.print, beat), 'Move a landing');
  };
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
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        drag.current = { x: event.clientX, from: studio.state.document, print };
      }}
      onPointerMove={onPointerMove}
      onPointerUp={() => {
        if (drag.current) studio.editor.settle();
        drag.current = null;
      }}
      onPointerCancel={() => {
        drag.current = null;
        studio.editor.abandon();
      }}
      onKeyDown={onKeyDown}
    />
  );
}
