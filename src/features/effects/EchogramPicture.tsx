'use client';

import { useState } from 'react';
import type { Echogram } from '@/core/analysis/echogram';
import { noteValueName, noteValueSeconds, NOTE_VALUES, type Timing } from '@/core/effects/noteValues';
import { barsOf, FLOOR_DB, heightOf, usefulSeconds, type Bar } from './echogramScale';

interface Props {
  readonly echogram: Echogram | null;
  readonly timing: Timing;
  /** Beats of the metre in quarter notes. */
  readonly beatQuarters: number;
}

const WIDTH = 748;
const HEIGHT = 250;
const MIDDLE = HEIGHT / 2;
const START = 40;
const REACH = MIDDLE - 24;

/** A note value within 1 ms of a time, in words. */
function noteAt(seconds: number, timing: Timing): string | null {
  const note = NOTE_VALUES.find((one) => Math.abs(noteValueSeconds(one, timing)! - seconds) < 0.0015);
  return note ? noteValueName(note) : null;
}

/** Level against time on the beat grid, left above the line and right below: the dry sound solid, repeats in the wet colour. */
export function EchogramPicture({ echogram, timing, beatQuarters }: Props) {
  const [near, setNear] = useState<{ side: string; bar: Bar } | null>(null);
  if (!echogram) {
    return (
      <div className="echogram echogram-waiting" role="status">
        Listening to the effect…
      </div>
    );
  }
  const secondsPerBeat = (beatQuarters * 60) / timing.tempoBpm;
  const secondsPerBar = (timing.beatsPerBar * 60) / timing.tempoBpm;
  const seconds = usefulSeconds(echogram, secondsPerBar);
  const x = (at: number) => START + (at / seconds) * (WIDTH - START - 8);
  const beats = Array.from({ length: Math.floor(seconds / secondsPerBeat + 1e-6) + 1 }, (_, i) => i);
  const perBar = Math.round(secondsPerBar / secondsPerBeat);
  const left = barsOf(echogram.left, echogram.leftSeconds, 300).filter((bar) => bar.at <= seconds);
  const right = barsOf(echogram.right, echogram.rightSeconds, 300).filter((bar) => bar.at <= seconds);
  const dry = (level: number) => (level > 0 ? heightOf(20 * Math.log10(level)) * REACH : 0);
  const first = left[0] ?? right[0];
  const nearestTo = (clientX: number, clientY: number, box: DOMRect) => {
    const side = clientY - box.top < box.height / 2 ? 'left' : 'right';
    const at = (((clientX - box.left) / box.width) * WIDTH - START) * (seconds / (WIDTH - START - 8));
    const bars = side === 'left' ? left : right;
    if (bars.length === 0) return setNear(null);
    setNear({ side, bar: bars.reduce((best, bar) => (Math.abs(bar.at - at) < Math.abs(best.at - at) ? bar : best)) });
  };
  const describe = (bar: Bar) => {
    const note = noteAt(bar.at, timing);
    return `${(bar.at * 1000).toFixed(0)} ms${note ? `, ${note}` : ''}, ${bar.db.toFixed(1)} dB`;
  };
  return (
    <figure className="echogram">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`Echogram from the engine: ${left.length} arrivals left, ${right.length} right${first ? `, the first after ${describe(first)}` : ''}`}
        onPointerMove={(event) => nearestTo(event.clientX, event.clientY, event.currentTarget.getBoundingClientRect())}
        onPointerLeave={() => setNear(null)}
      >
        {beats.map((beat) => (
          <line
            key={beat}
            className={beat % perBar === 0 ? 'grid-bar' : 'grid-beat'}
            x1={x(beat * secondsPerBeat)}
            x2={x(beat * secondsPerBeat)}
            y1="0"
            y2={HEIGHT}
          />
        ))}
        {beats
          .filter((beat) => beat % perBar === 0 && x(beat * secondsPerBeat) < WIDTH - 40)
          .map((beat) => (
            <text key={beat} x={x(beat * secondsPerBeat) + 4} y={HEIGHT - 6}>
              {beat === 0 ? 'impulse' : `${beat / perBar} ${beat === perBar ? 'bar' : 'bars'}`}
            </text>
          ))}
        {[-20, -40].map((db) => (
          <g key={db} className="grid-level">
            <line x1={START} x2={WIDTH} y1={MIDDLE - heightOf(db) * REACH} y2={MIDDLE - heightOf(db) * REACH} />
            <line x1={START} x2={WIDTH} y1={MIDDLE + heightOf(db) * REACH} y2={MIDDLE + heightOf(db) * REACH} />
            <text x={WIDTH - 6} y={MIDDLE - heightOf(db) * REACH - 3} textAnchor="end">{`${db} dB`}</text>
          </g>
        ))}
        <line className="grid-zero" x1="0" x2={WIDTH} y1={MIDDLE} y2={MIDDLE} />
        <line
          className="bar-dry"
          x1={x(0)}
          x2={x(0)}
          y1={MIDDLE - dry(echogram.dryLeft)}
          y2={MIDDLE + dry(echogram.dryRight)}
        />
        {left.map((bar) => (
          <line
            key={`l${bar.at}`}
            className="bar-wet"
            x1={x(bar.at)}
            x2={x(bar.at)}
            y1={MIDDLE}
            y2={MIDDLE - heightOf(bar.db) * REACH}
          />
        ))}
        {right.map((bar) => (
          <line
            key={`r${bar.at}`}
            className="bar-wet"
            x1={x(bar.at)}
            x2={x(bar.at)}
            y1={MIDDLE}
            y2={MIDDLE + heightOf(bar.db) * REACH}
          />
        ))}
        <text x={4} y={14}>
          left
        </text>
        <text x={4} y={HEIGHT - 20}>
          right
        </text>
        {near && (
          <circle
            className="bar-near"
            cx={x(near.bar.at)}
            cy={near.side === 'left' ? MIDDLE - heightOf(near.bar.db) * REACH : MIDDLE + heightOf(near.bar.db) * REACH}
            r="4"
          />
        )}
      </svg>
      <figcaption>
        {near
          ? `${near.side}: ${describe(near.bar)}`
          : first
            ? `Echogram from the engine, ${seconds.toFixed(1)} s, down to ${FLOOR_DB} dB`
            : 'Echogram from the engine: nothing follows the dry sound'}
      </figcaption>
    </figure>
  );
}

/** The same, small, for the chain. */
export function EchogramMini({ echogram, timing }: { echogram: Echogram | null; timing: Timing }) {
  const seconds = echogram ? usefulSeconds(echogram, (timing.beatsPerBar * 60) / timing.tempoBpm) : 1;
  const bars = (sign: number) =>
    echogram
      ? barsOf(sign > 0 ? echogram.left : echogram.right, sign > 0 ? echogram.leftSeconds : echogram.rightSeconds, 80)
          .filter((bar) => bar.at <= seconds)
          .map((bar) => (
            <line
              key={`${sign}${bar.at}`}
              x1={4 + (bar.at / seconds) * 264}
              x2={4 + (bar.at / seconds) * 264}
              y1="20"
              y2={20 - sign * heightOf(bar.db) * 18}
            />
          ))
      : null;
  return (
    <svg className="echogram-mini" viewBox="0 0 272 40" preserveAspectRatio="none" aria-hidden="true">
      <line className="grid-zero" x1="0" x2="272" y1="20" y2="20" />
      {bars(1)}
      {bars(-1)}
    </svg>
  );
}
