'use client';

import { beatsPerBar } from '@/core/session/records/queries';
import { useStudio, useStudioState } from '../session/StudioContext';
import { snapTo } from '../ui/music';
import { gridOf } from './geometry';
import { usePointerDrag, type DragPoint } from '../ui/usePointerDrag';

/** Pixels after which a press marks a loop. */
const LOOP_AFTER = 5;
/** Beats that a loop takes at least where nothing snaps. */
const SHORTEST_LOOP = 0.25;

/** Bars and beats: click puts the playhead there, drag marks the loop. */
export function BeatRuler({ beats }: { beats: number }) {
  const studio = useStudio();
  const { document, pixelsPerBeat } = useStudioState(({ document, pixelsPerBeat }) => ({ document, pixelsPerBeat }));
  const { session } = document;
  const perBar = beatsPerBar(session);
  const unit = 4 / session.metreUnit;
  const bars = Math.ceil(beats / perBar);
  const every = [1, 2, 4, 8, 16].find((count) => count * perBar * pixelsPerBeat > 34) ?? 32;
  const showBeats = unit * pixelsPerBeat > 7;
  const beatAt = ({ clientX, currentTarget }: DragPoint) =>
    Math.max(0, (clientX - currentTarget.getBoundingClientRect().left) / pixelsPerBeat);
  const [begin] = usePointerDrag<{ x: number; beat: number; looping: boolean }>({
    begin: (event) => ({ x: event.clientX, beat: beatAt(event), looping: false }),
    move: (drag, point) => {
      if (!drag.looping && Math.abs(point.clientX - drag.x) < LOOP_AFTER) return;
      drag.looping = true;
      const grid = gridOf(studio.state.snap, document);
      const [from, to] = [snapTo(drag.beat, grid), snapTo(beatAt(point), grid)].sort((a, b) => a - b) as [
        number,
        number,
      ];
      const loopEndBeat = Math.max(to, from + (grid || SHORTEST_LOOP));
      studio.editor.preview(
        { type: 'session.set', values: { loopOn: true, loopStartBeat: from, loopEndBeat } },
        'Mark the loop',
      );
    },
    end: (drag, { altKey }) => {
      if (drag.looping) studio.editor.settle();
      else studio.transport.seekBeat(altKey ? drag.beat : snapTo(drag.beat, gridOf(studio.state.snap, document)));
    },
    cancel: () => studio.editor.abandon(),
  });

  return (
    <div
      className="beat-ruler"
      style={{ width: beats * pixelsPerBeat }}
      title="Click puts the playhead here; drag marks the loop"
      onPointerDown={begin}
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
