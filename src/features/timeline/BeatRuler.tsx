'use client';

import { useStudio, useStudioState } from '../session/StudioContext';
import { snapTo } from '../ui/music';
import { gridOf } from '../session/snap';
import { usePointerDrag, type DragPoint } from '../ui/usePointerDrag';
import { rulerMarks } from './rulerMarks';

/** Pixels after which a press marks a loop. */
const LOOP_AFTER = 5;
/** Beats that a loop takes at least where nothing snaps. */
const SHORTEST_LOOP = 0.25;

interface Props {
  readonly beats: number;
  /** Part of it that is drawn, in pixels. */
  readonly span: readonly [number, number];
}

/** Bars and beats: click puts the playhead there, drag marks the loop. */
export function BeatRuler({ beats, span }: Props) {
  const studio = useStudio();
  const { document, pixelsPerBeat } = useStudioState(({ document, pixelsPerBeat }) => ({ document, pixelsPerBeat }));
  const { session } = document;
  const [left, right] = [Math.max(0, span[0]), Math.min(beats * pixelsPerBeat, span[1])];
  const marks = rulerMarks(session, pixelsPerBeat, span, beats);
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
      <svg style={{ left }} width={right - left} height={26} aria-hidden="true">
        {marks.map(({ beat, kind, text }) => {
          const x = beat * pixelsPerBeat - left;
          return (
            <g key={`${kind} ${beat}`}>
              <line x1={x + 0.5} x2={x + 0.5} y1={kind === 'bar' ? 4 : 19} y2="26" />
              {text !== '' && (
                <text x={x + 4} y={kind === 'bar' ? 14 : 22}>
                  {text}
                </text>
              )}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
