'use client';

import { useRef, type PointerEvent } from 'react';
import { beatsPerBar } from '@/core/session/records/queries';
import { useStudio, useStudioState } from '../session/StudioContext';
import { snapTo } from '../ui/music';
import { gridOf } from './geometry';

/** Bars and beats: click puts the playhead there, drag marks the loop. */
export function BeatRuler({ beats }: { beats: number }) {
  const studio = useStudio();
  const { document, pixelsPerBeat } = useStudioState(({ document, pixelsPerBeat }) => ({ document, pixelsPerBeat }));
  const press = useRef<{ x: number; beat: number; looping: boolean } | null>(null);
  const { session } = document;
  const perBar = beatsPerBar(session);
  const unit = 4 / session.metreUnit;
  const bars = Math.ceil(beats / perBar);
  const every = [1, 2, 4, 8, 16].find((count) => count * perBar * pixelsPerBeat > 34) ?? 32;
  const showBeats = unit * pixelsPerBeat > 7;
  const beatAt = (event: PointerEvent<HTMLElement>) =>
    (event.clientX - event.currentTarget.getBoundingClientRect().left) / pixelsPerBeat;

  return (
    <div
      className="beat-ruler"
      style={{ width: beats * pixelsPerBeat }}
      title="Click puts the playhead here; drag marks the loop"
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        press.current = { x: event.clientX, beat: Math.max(0, beatAt(event)), looping: false };
      }}
      onPointerMove={(event) => {
        const from = press.current;
        if (!from || (!from.looping && Math.abs(event.clientX - from.x) < 5)) return;
        from.looping = true;
        const grid = gridOf(studio.state.snap, document);
        const ends = [snapTo(from.beat, grid), snapTo(Math.max(0, beatAt(event)), grid)].sort((a, b) => a - b) as [
          number,
          number,
        ];
        const loopEndBeat = Math.max(ends[1], ends[0] + (grid || 0.25));
        studio.editor.preview(
          { type: 'session.set', values: { loopOn: true, loopStartBeat: ends[0], loopEndBeat } },
          'Mark the loop',
        );
      }}
      onPointerUp={(event) => {
        const from = press.current;
        press.current = null;
        if (!from) return;
        if (from.looping) studio.editor.settle();
        else
          studio.transport.seekBeat(event.altKey ? from.beat : snapTo(from.beat, gridOf(studio.state.snap, document)));
      }}
      onPointerCancel={() => studio.editor.abandon()}
    >
      {session.loopOn && (
        <div
          className="loop-range"
          style={{
            left: session.loopStartBeat * pixelsPerBeat,
            width: (session.loopEndBeat - session.loopStartBeat) * pixelsPerBeat,
          }}
        />
      )}
      <svg width={beats * pixelsPerBeat} height={26} aria-hidden="true">
        {Array.from({ length: bars }, (_, bar) => (
          <g key={bar}>
            <line x1={bar * perBar * pixelsPerBeat + 0.5} x2={bar * perBar * pixelsPerBeat + 0.5} y1="4" y2="26" />
            {bar % every === 0 && (
              <text x={bar * perBar * pixelsPerBeat + 4} y="14">
                {bar + 1}
              </text>
            )}
            {showBeats &&
              Array.from({ length: session.metreBeats - 1 }, (_, beat) => {
                const x = (bar * perBar + (beat + 1) * unit) * pixelsPerBeat + 0.5;
                return <line key={beat} x1={x} x2={x} y1="19" y2="26" />;
              })}
          </g>
        ))}
      </svg>
    </div>
  );
}
