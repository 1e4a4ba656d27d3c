'use client';

import { Minus, Plus } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import Button from 'react-bootstrap/Button';
import type { Echogram } from '@/core/analysis/echogram';
import { noteValueName, noteValueSeconds, NOTE_VALUES, type Timing } from '@/core/effects/noteValues';
import { useWidth } from '../../ui/useWidth';
import { barsOf, FLOOR_DB, heightOf, loudSeconds, usefulSeconds, type Bar } from './echogramScale';

interface Props {
  /** One, or one for each line of a delay. */
  readonly echograms: readonly Echogram[] | null;
  /** Names of several echograms. */
  readonly names: readonly string[];
  readonly timing: Timing;
  /** Beats of the metre in quarter notes. */
  readonly beatQuarters: number;
  /** Seconds that are shown; null for all that sounds. */
  readonly span: number | null;
  readonly onSpan: (seconds: number | null) => void;
  readonly unit: 'bars' | 'ms';
  readonly onUnit: (unit: 'bars' | 'ms') => void;
}

/** Until its place is measured. */
const FIRST_WIDTH = 748;
const HEIGHT = 184;
const MIDDLE = HEIGHT / 2;
const START = 40;
const END = 8;
const REACH = MIDDLE - 24;
const ZOOM = 1.6;
const SHORTEST_SPAN = 0.004;
const MOST_BARS = 300;

interface Arrival extends Bar {
  readonly side: 'left' | 'right';
  /** Place of its echogram. */
  readonly line: number;
}

/** A note value within 1 ms of a time, in words. */
function noteAt(seconds: number, timing: Timing): string | null {
  const note = NOTE_VALUES.find((one) => Math.abs(noteValueSeconds(one, timing)! - seconds) < 0.0015);
  return note ? noteValueName(note) : null;
}

/** Round steps of milliseconds, about eight across. */
function msTicks(span: number): number[] {
  const step =
    [0.0005, 0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5].find((one) => span / one <= 9) ?? 5;
  return Array.from({ length: Math.floor(span / step + 1e-9) + 1 }, (_, n) => n * step);
}

const inMs = (seconds: number) => `${(seconds * 1000).toFixed(seconds < 0.02 ? 1 : 0)} ms`;

/**
 * Level against time on the beat grid or in milliseconds, left above the line and right below: the dry sound solid,
 * what follows in the wet colour, each line of a delay in a shade of its own. The wheel zooms, the pointer reads.
 */
export function EchogramPicture(props: Props) {
  const { echograms, names, timing, beatQuarters, span, onSpan, unit, onUnit } = props;
  const [near, setNear] = useState<Arrival | null>(null);
  const svg = useRef<SVGSVGElement>(null);
  const frame = useRef<HTMLElement>(null);
  const width = useWidth(frame, FIRST_WIDTH);
  const plot = width - START - END;
  const secondsPerBar = (timing.beatsPerBar * 60) / timing.tempoBpm;
  const secondsPerBeat = (beatQuarters * 60) / timing.tempoBpm;
  const whole = (echograms ?? []).reduce(
    (most, one) => Math.max(most, unit === 'bars' ? usefulSeconds(one, secondsPerBar) : loudSeconds(one)),
    SHORTEST_SPAN,
  );
  const seconds = span ?? whole;

  const zoom = (factor: number) => onSpan(Math.max(SHORTEST_SPAN, seconds * factor));
  const latest = useRef(zoom);
  useEffect(() => {
    latest.current = zoom;
  });
  const ready = echograms !== null;
  useEffect(() => {
    const element = svg.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      latest.current(event.deltaY < 0 ? 1 / ZOOM : ZOOM);
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [ready]);

  if (!echograms) {
    return (
      <figure ref={frame} className="echogram">
        <div className="echogram-waiting" role="status">
          Listening to the effect…
        </div>
      </figure>
    );
  }
  const x = (at: number) => START + (at / seconds) * plot;
  const arrivals = echograms.flatMap((echogram, line) =>
    (['left', 'right'] as const).flatMap((side): Arrival[] =>
      barsOf(echogram[side], echogram[`${side}Seconds`], MOST_BARS)
        .filter((bar) => bar.at <= seconds)
        .map((bar) => ({ ...bar, side, line })),
    ),
  );
  const count = (side: string) => arrivals.filter((one) => one.side === side).length;
  const dry = (level: number) => (level > 0 ? heightOf(20 * Math.log10(level)) * REACH : 0);
  const first = arrivals.reduce<Arrival | null>((best, one) => (best && best.at <= one.at ? best : one), null);
  const nearestTo = (clientX: number, clientY: number, box: DOMRect) => {
    const side = clientY - box.top < box.height / 2 ? 'left' : 'right';
    const at = (((clientX - box.left) / box.width) * width - START) * (seconds / plot);
    const here = arrivals.filter((one) => one.side === side);
    setNear(
      here.reduce<Arrival | null>(
        (best, one) => (best && Math.abs(best.at - at) <= Math.abs(one.at - at) ? best : one),
        null,
      ),
    );
  };
  const describe = (bar: Arrival) => {
    const note = noteAt(bar.at, timing);
    const line = echograms.length > 1 ? `${names[bar.line]!}, ` : '';
    return `${line}${inMs(bar.at)}${note ? `, ${note}` : ''}, ${bar.db.toFixed(1)} dB`;
  };
  const top = ({ side, db }: Arrival) =>
    side === 'left' ? MIDDLE - heightOf(db) * REACH : MIDDLE + heightOf(db) * REACH;
  return (
    <figure ref={frame} className="echogram">
      <svg
        ref={svg}
        viewBox={`0 0 ${width} ${HEIGHT}`}
        role="img"
        aria-label={`Echogram from the engine: ${count('left')} arrivals left, ${count('right')} right${first ? `, the first after ${describe(first)}` : ''}`}
        onPointerMove={(event) => nearestTo(event.clientX, event.clientY, event.currentTarget.getBoundingClientRect())}
        onPointerLeave={() => setNear(null)}
      >
        {unit === 'bars' ? (
          <BeatGrid seconds={seconds} perBeat={secondsPerBeat} perBar={secondsPerBar} x={x} end={width} />
        ) : (
          msTicks(seconds).map((at) => (
            <g key={at}>
              <line className="grid-beat" x1={x(at)} x2={x(at)} y1="0" y2={HEIGHT} />
              {x(at) < width - 40 && (
                <text x={x(at) + 4} y={HEIGHT - 6}>
                  {at === 0 ? 'impulse' : inMs(at)}
                </text>
              )}
            </g>
          ))
        )}
        {[-20, -40].map((db) => (
          <g key={db} className="grid-level">
            <line x1={START} x2={width} y1={MIDDLE - heightOf(db) * REACH} y2={MIDDLE - heightOf(db) * REACH} />
            <line x1={START} x2={width} y1={MIDDLE + heightOf(db) * REACH} y2={MIDDLE + heightOf(db) * REACH} />
            <text x={width - 6} y={MIDDLE - heightOf(db) * REACH - 3} textAnchor="end">{`${db} dB`}</text>
          </g>
        ))}
        <line className="grid-zero" x1="0" x2={width} y1={MIDDLE} y2={MIDDLE} />
        <line
          className="bar-dry"
          x1={x(0)}
          x2={x(0)}
          y1={MIDDLE - dry(echograms[0]!.dryLeft)}
          y2={MIDDLE + dry(echograms[0]!.dryRight)}
        />
        {arrivals.map((bar) => (
          <line
            key={`${bar.side}${bar.line} ${bar.at}`}
            className={`bar-wet bar-of-${bar.line + 1}`}
            x1={x(bar.at)}
            x2={x(bar.at)}
            y1={MIDDLE}
            y2={top(bar)}
          />
        ))}
        {echograms.length > 1 &&
          names.map((name, line) => {
            const loudest = arrivals.reduce<Arrival | null>(
              (best, one) => (one.line !== line || (best && best.db >= one.db) ? best : one),
              null,
            );
            return (
              loudest && (
                <text
                  key={name}
                  className="bar-name"
                  x={x(loudest.at) + 4}
                  y={top(loudest) + (loudest.side === 'left' ? 9 : -2)}
                >
                  {name.replace('line ', '')}
                </text>
              )
            );
          })}
        <text x={4} y={14}>
          left
        </text>
        <text x={4} y={HEIGHT - 20}>
          right
        </text>
        {near && <circle className="bar-near" cx={x(near.at)} cy={top(near)} r="4" />}
      </svg>
      <figcaption>
        <span className="echogram-reading">
          {near
            ? `${near.side}: ${describe(near)}`
            : first
              ? `${seconds >= 1 ? `${seconds.toFixed(1)} s` : inMs(seconds)} shown, ${echograms[0]!.endless ? 'never falls silent' : `down to ${FLOOR_DB} dB`}`
              : 'Nothing follows the dry sound'}
        </span>
        {echograms.length > 1 &&
          names.map((name, line) => (
            <span key={name} className={`legend legend-of-${line + 1}`}>
              {name}
            </span>
          ))}
        <span className="echogram-tools">
          <Button variant="icon" aria-label="Show less time" title="Zoom in: wheel up" onClick={() => zoom(1 / ZOOM)}>
            <Plus size={12} aria-hidden="true" />
          </Button>
          <Button variant="icon" aria-label="Show more time" title="Zoom out: wheel down" onClick={() => zoom(ZOOM)}>
            <Minus size={12} aria-hidden="true" />
          </Button>
          <Button variant="plain" onClick={() => onSpan(null)} disabled={span === null}>
            All
          </Button>
          <Button
            variant="plain"
            aria-label={unit === 'bars' ? 'Show milliseconds' : 'Show the beat grid'}
            onClick={() => onUnit(unit === 'bars' ? 'ms' : 'bars')}
          >
            {unit === 'bars' ? 'bars' : 'ms'}
          </Button>
        </span>
      </figcaption>
    </figure>
  );
}

function BeatGrid(props: { seconds: number; perBeat: number; perBar: number; x: (at: number) => number; end: number }) {
  const { seconds, perBeat, perBar, x, end } = props;
  const beats = Array.from({ length: Math.floor(seconds / perBeat + 1e-6) + 1 }, (_, beat) => beat);
  const each = Math.round(perBar / perBeat);
  return (
    <>
      {beats.map((beat) => (
        <line
          key={beat}
          className={beat % each === 0 ? 'grid-bar' : 'grid-beat'}
          x1={x(beat * perBeat)}
          x2={x(beat * perBeat)}
          y1="0"
          y2={HEIGHT}
        />
      ))}
      {beats
        .filter((beat) => beat % each === 0 && x(beat * perBeat) < end - 40)
        .map((beat) => (
          <text key={beat} x={x(beat * perBeat) + 4} y={HEIGHT - 6}>
            {beat === 0 ? 'impulse' : `${beat / each} ${beat === each ? 'bar' : 'bars'}`}
          </text>
        ))}
    </>
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
