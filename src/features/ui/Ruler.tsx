'use client';

import { useEffect, useId, useRef, useState, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import { Spline } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { messageOf, type KinetikonError } from '@/core/errors';
import { NOTE_VALUES, type Timing } from '@/core/effects/noteValues';
import { formatValue, parseValue } from '@/core/effects/parameterText';
import { resolveValue } from '@/core/effects/resolve';
import { positionOf, ticksOf, valueAt } from '@/core/effects/scale';
import type { NumberParameter, ParameterValue } from '@/core/effects/spec';
import { useFrame } from './useFrame';

export type Signal = 'dry' | 'wet' | 'key';

/** What a lane does with a parameter, as its ruler shows it. */
export interface RulerAutomation {
  /** `off` while the control is held by hand. */
  readonly state: 'none' | 'on' | 'off';
  /** Lowest and highest place on the ruler. */
  readonly range: readonly [number, number] | null;
  /** Place on the ruler now. */
  readonly now: () => number | null;
  /** Makes a lane, opens it, or gives the control back to it. */
  readonly press: () => void;
}

/** What modulators do with a parameter, as its ruler shows it. */
export interface RulerModulation {
  /** How far they reach down and up from the value, as parts of the ruler; null while none does. */
  readonly reach: readonly [number, number] | null;
  /** The value they have it at now, from the engine. */
  readonly now: () => number | null;
  readonly button: ReactNode;
}

export const LANE_WORDS = {
  none: 'automate it with a lane',
  on: 'open its lane',
  off: 'held by hand: give it back to its lane',
} as const;

interface RulerProps {
  readonly parameter: NumberParameter;
  readonly value: ParameterValue;
  readonly timing: Timing;
  readonly signal: Signal;
  /** Said by screen readers before the parameter's name when several rulers share it. */
  readonly context?: string;
  readonly automation?: RulerAutomation;
  readonly modulation?: RulerModulation;
  /** While dragging, wheeling or holding an arrow key. Returns why the value was refused, if it was. */
  readonly onPreview: (value: ParameterValue) => KinetikonError | null | void;
  /** The movement is over. */
  readonly onSettle: () => void;
}

/** What was wrong, with the name of the control in place of its id. */
function inWords(error: unknown, parameter: NumberParameter): string {
  return messageOf(error).replace(parameter.id, parameter.name);
}

const COARSE = 0.01;
const FINE = 0.001;
const SETTLE_MS = 400;

/** Note values inside a parameter's range at this tempo, in the order of its ruler, with their places. */
function notesOn(parameter: NumberParameter, timing: Timing): { note: string; position: number }[] {
  return NOTE_VALUES.map((note) => ({ note, figure: resolveValue(parameter, note, timing) }))
    .filter(({ figure }) => figure >= parameter.min && figure <= parameter.max)
    .map(({ note, figure }) => ({ note, position: positionOf(parameter, figure) }))
    .sort((a, b) => a.position - b.position);
}

/**
 * A horizontal scale with real ticks: drag, arrow keys (Shift finer), wheel when focused, double-click for the default,
 * or type a value into its figure. A note value moves from note to note.
 */
export function Ruler(props: RulerProps) {
  const { parameter, value, timing, signal, context, automation, modulation, onPreview, onSettle } = props;
  const [typing, setTyping] = useState<string | null>(null);
  const [error, setError] = useState<string | null>(null);
  const scale = useRef<HTMLDivElement>(null);
  const drag = useRef<{ x: number; position: number; moved: boolean } | null>(null);
  const settleTimer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const errorId = useId();
  const figure = resolveValue(parameter, value, timing);
  const position = positionOf(parameter, figure);
  const notch = positionOf(parameter, resolveValue(parameter, parameter.default, timing));
  const text = formatValue(parameter, value, timing);
  const label = context ? `${context} ${parameter.name}` : parameter.name;

  const hand = useRef<SVGSVGElement>(null);
  const shown = useRef<HTMLButtonElement>(null);
  const band = useRef<SVGRectElement>(null);
  const moved = useRef<SVGLineElement>(null);
  const showMoved = (base: number) => {
    if (!modulation?.reach || !band.current || !moved.current) return;
    const [low, high] = modulation.reach.map((away) => Math.min(1, Math.max(0, base + away))) as [number, number];
    band.current.setAttribute('x', `${(low * 100).toFixed(2)}%`);
    band.current.setAttribute('width', `${Math.max(0.6, (high - low) * 100).toFixed(2)}%`);
    const now = modulation.now();
    moved.current.style.visibility = now === null ? 'hidden' : 'visible';
    if (now === null) return;
    const at = `${(positionOf(parameter, now) * 100).toFixed(2)}%`;
    moved.current.setAttribute('x1', at);
    moved.current.setAttribute('x2', at);
  };
  useFrame(() => {
    const place = automation?.state === 'on' && drag.current === null ? automation.now() : null;
    showMoved(place ?? position);
    // Hand and figure are set at every frame, also where they are React's own: what a lane left there must go.
    const at = `${((place ?? position) * 100).toFixed(2)}%`;
    if (hand.current && hand.current.getAttribute('x') !== at) hand.current.setAttribute('x', at);
    const words = place === null ? text : formatValue(parameter, valueAt(parameter, place), timing);
    if (shown.current && shown.current.textContent !== words) shown.current.textContent = words;
  });

  const settleSoon = () => {
    if (settleTimer.current) clearTimeout(settleTimer.current);
    settleTimer.current = setTimeout(onSettle, SETTLE_MS);
  };

  const moveTo = (target: number) => {
    if (typeof value === 'string') {
      const nearest = notesOn(parameter, timing).reduce((best, one) =>
        Math.abs(one.position - target) < Math.abs(best.position - target) ? one : best,
      );
      onPreview(nearest.note);
    } else {
      onPreview(valueAt(parameter, target));
    }
  };

  const step = (direction: number, size: number) => {
    if (typeof value === 'string') {
      const notes = notesOn(parameter, timing);
      const at = notes.findIndex((one) => one.note === value);
      onPreview(notes[Math.max(0, Math.min(notes.length - 1, at + direction))]!.note);
    } else {
      let next = valueAt(parameter, position + direction * size);
      // A step too small for the figures shown goes one figure on.
      for (let more = 2; next === figure && more < 50; more++)
        next = valueAt(parameter, position + direction * size * more);
      onPreview(next);
    }
    settleSoon();
  };

  /** The first or the last place: of notes, while it stands on one. */
  const toEnd = (place: 0 | -1) => {
    const end = place === 0 ? parameter.min : parameter.max;
    onPreview(typeof value === 'string' ? (notesOn(parameter, timing).at(place)?.note ?? end) : end);
    settleSoon();
  };

  const onKeyDown = (event: KeyboardEvent) => {
    const size = event.shiftKey ? FINE : COARSE;
    switch (event.key) {
      case 'ArrowRight':
      case 'ArrowUp':
        step(1, size);
        break;
      case 'ArrowLeft':
      case 'ArrowDown':
        step(-1, size);
        break;
      case 'PageUp':
        step(1, 0.1);
        break;
      case 'PageDown':
        step(-1, 0.1);
        break;
      case 'Home':
        toEnd(0);
        break;
      case 'End':
        toEnd(-1);
        break;
      case 'Enter':
        setTyping('');
        break;
      default:
        if (!/^[-\d.]$/.test(event.key) || event.ctrlKey || event.metaKey) return;
        setTyping(event.key);
    }
    event.preventDefault();
    event.stopPropagation();
  };

  const onPointerDown = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const box = scale.current!.getBoundingClientRect();
    const pressed = (event.clientX - box.left) / box.width;
    const near = Math.abs(pressed - position) * box.width < 10;
    drag.current = { x: event.clientX, position: near ? position : pressed, moved: false };
    if (!near) {
      drag.current.moved = true;
      moveTo(pressed);
    }
  };

  const onPointerMove = (event: PointerEvent<HTMLDivElement>) => {
    if (!drag.current) return;
    const width = scale.current!.getBoundingClientRect().width;
    const travel = (event.clientX - drag.current.x) / width;
    if (travel === 0) return;
    drag.current.moved = true;
    moveTo(Math.max(0, Math.min(1, drag.current.position + travel * (event.shiftKey ? 0.1 : 1))));
  };

  const onPointerUp = () => {
    if (drag.current?.moved) onSettle();
    drag.current = null;
  };

  const stepLatest = useRef(step);
  useEffect(() => {
    stepLatest.current = step;
  });
  useEffect(() => {
    const element = scale.current!;
    const onWheel = (event: WheelEvent) => {
      if (document.activeElement !== element) return;
      event.preventDefault();
      stepLatest.current(event.deltaY < 0 ? 1 : -1, event.shiftKey ? FINE : COARSE);
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, []);

  const finishTyping = (written: string) => {
    setTyping(null);
    if (written.trim() === '') return setError(null);
    try {
      const refusal = onPreview(parseValue(parameter, written, timing, value));
      onSettle();
      setError(refusal ? inWords(refusal, parameter) : null);
    } catch (caught) {
      setError(inWords(caught, parameter));
    }
  };

  return (
    <div className={`ruler ruler-${signal}`} data-help={parameter.help}>
      <div className="ruler-top">
        <span className="ruler-name">{parameter.name}</span>
        {automation && (
          <Button
            bsPrefix="bare"
            className={`ruler-lane ruler-lane-${automation.state}`}
            aria-label={`${label}: ${LANE_WORDS[automation.state]}`}
            title={LANE_WORDS[automation.state]}
            onClick={automation.press}
          >
            <Spline size={11} aria-hidden="true" />
          </Button>
        )}
        {modulation?.button}
        {typing === null ? (
          <Button ref={shown} bsPrefix="ruler-value" tabIndex={-1} onClick={() => setTyping('')}>
            {text}
          </Button>
        ) : (
          <Form.Control
            className="ruler-input"
            aria-label={`${label}, type a value`}
            autoFocus
            defaultValue={typing}
            placeholder={text}
            onBlur={(event) => finishTyping(event.target.value)}
            onKeyDown={(event) => {
              event.stopPropagation();
              if (event.key === 'Enter') event.currentTarget.blur();
              if (event.key === 'Escape') setTyping(null);
              if (event.key === 'Enter' || event.key === 'Escape') scale.current?.focus();
            }}
          />
        )}
        {parameter.sync && (
          <Button
            bsPrefix="ruler-mode"
            title={typeof value === 'string' ? 'Follow the clock instead of the tempo' : 'Follow the tempo'}
            aria-label={`${label}: ${typeof value === 'string' ? 'use free values' : 'use note values'}`}
            onClick={() => {
              if (typeof value === 'string') onPreview(Number(figure.toPrecision(5)));
              else {
                const nearest = notesOn(parameter, timing).reduce((best, one) =>
                  Math.abs(one.position - position) < Math.abs(best.position - position) ? one : best,
                );
                onPreview(nearest.note);
              }
              onSettle();
            }}
          >
            {typeof value === 'string' ? 'note' : parameter.unit}
          </Button>
        )}
      </div>
      <div
        ref={scale}
        className="ruler-scale"
        role="slider"
        tabIndex={0}
        aria-label={label}
        aria-valuemin={parameter.min}
        aria-valuemax={parameter.max}
        aria-valuenow={figure}
        aria-valuetext={text}
        aria-describedby={error ? errorId : undefined}
        onKeyDown={onKeyDown}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={onPointerUp}
        onDoubleClick={() => {
          onPreview(parameter.default);
          onSettle();
        }}
      >
        <svg aria-hidden="true">
          {automation?.range && (
            <rect
              className={`ruler-range ruler-range-${automation.state}`}
              x={`${automation.range[0] * 100}%`}
              width={`${Math.max(0.6, (automation.range[1] - automation.range[0]) * 100)}%`}
              y="9"
              height="7"
            />
          )}
          {modulation?.reach && (
            <>
              <rect ref={band} className="ruler-moved" y="1" height="7" data-testid="moved-band" />
              <line ref={moved} className="ruler-moved-now" y1="0" y2="10" />
            </>
          )}
          <line x1="0" x2="100%" y1="15.5" y2="15.5" />
          {ticksOf(parameter).map((tick) => (
            <line
              key={tick.position}
              x1={`${tick.position * 100}%`}
              x2={`${tick.position * 100}%`}
              y1={tick.long ? 7 : 11}
              y2="16"
            />
          ))}
          <svg x={`${notch * 100}%`} overflow="visible">
            <path className="ruler-notch" d="M-3 19.5h6l-3-4z" />
          </svg>
          <svg ref={hand} x={`${(position * 100).toFixed(2)}%`} overflow="visible">
            <path className="ruler-hand" d="M0 15.5 L-5 4 H5 Z" />
          </svg>
        </svg>
      </div>
      {error && (
        <div id={errorId} role="alert" className="ruler-error">
          {error}
        </div>
      )}
    </div>
  );
}
