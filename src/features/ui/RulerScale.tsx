'use client';

import { useEffect, useRef, type KeyboardEvent, type ReactNode, type RefObject } from 'react';
import { formatValue } from '@/core/effects/parameterText';
import { resolveValue } from '@/core/effects/resolve';
import { positionOf, ticksOf, valueAt } from '@/core/effects/scale';
import type { ParameterValue } from '@/core/effects/spec';
import { endValue, rulerPosition, steppedValue, valueNear, type RulerValue } from './rulerMoves';
import { useFrame } from './useFrame';
import { writeAttribute, writeStyle } from './drawn';
import { usePointerDrag } from './usePointerDrag';

const COARSE = 0.01;
const FINE = 0.001;
const PAGE = 0.1;
/** Keys and the wheel make one step of what they do within this time. */
const SETTLE_MS = 400;
/** Pixels around the hand within which it is taken hold of; elsewhere the value jumps to the pointer. */
const GRASP = 10;

/** Automation of a parameter, as its ruler shows it. */
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

/** Modulation of a parameter, as its ruler shows it. */
export interface RulerModulation {
  /** Reach below and above the value, as parts of the ruler; null without modulation. */
  readonly reach: readonly [number, number] | null;
  /** The value they have it at now, from the engine. */
  readonly now: () => number | null;
  readonly button: ReactNode;
}

interface Props {
  readonly ruler: RulerValue;
  readonly label: string;
  readonly errorId: string | undefined;
  readonly automation: RulerAutomation | undefined;
  readonly modulation: RulerModulation | undefined;
  readonly scale: RefObject<HTMLDivElement | null>;
  /** Shows the value now, which a lane may move, at every frame. */
  readonly onShow: (text: string) => void;
  readonly onPreview: (value: ParameterValue) => void;
  readonly onSettle: () => void;
  /** Takes a drag back that began with a value. */
  readonly onCancel: (value: ParameterValue) => void;
  /** A figure begins to be typed. */
  readonly onType: (first: string) => void;
}

/** The scale of a ruler as a slider: drag, arrow keys (Shift finer), wheel when focused, double-click for the default. */
export function RulerScale(props: Props) {
  const { ruler, label, errorId, automation, modulation, scale } = props;
  const { onPreview, onSettle, onCancel, onShow, onType } = props;
  const { parameter, value, timing } = ruler;
  const settleTimer = useRef<ReturnType<typeof setTimeout> | null>(null);

  const settleSoon = () => {
    if (settleTimer.current) clearTimeout(settleTimer.current);
    settleTimer.current = setTimeout(onSettle, SETTLE_MS);
  };
  const step = (direction: 1 | -1, size: number) => {
    onPreview(steppedValue(ruler, direction, size));
    settleSoon();
  };
  const toEnd = (end: 'low' | 'high') => {
    onPreview(endValue(ruler, end));
    settleSoon();
  };

  const onKeyDown = (event: KeyboardEvent) => {
    const size = event.shiftKey ? FINE : COARSE;
    const actions: Record<string, () => void> = {
      ArrowRight: () => step(1, size),
      ArrowUp: () => step(1, size),
      ArrowLeft: () => step(-1, size),
      ArrowDown: () => step(-1, size),
      PageUp: () => step(1, PAGE),
      PageDown: () => step(-1, PAGE),
      Home: () => toEnd('low'),
      End: () => toEnd('high'),
      Enter: () => onType(''),
    };
    const isFigure = /^[-\d.]$/.test(event.key) && !event.ctrlKey && !event.metaKey;
    const action = actions[event.key] ?? (isFigure ? () => onType(event.key) : null);
    if (!action) return;
    action();
    event.preventDefault();
    event.stopPropagation();
  };

  const [begin, drag] = usePointerDrag<{ x: number; position: number; moved: boolean; value: ParameterValue }>({
    begin: (event) => {
      const box = scale.current!.getBoundingClientRect();
      const pressed = (event.clientX - box.left) / box.width;
      const position = rulerPosition(ruler);
      const isNear = Math.abs(pressed - position) * box.width < GRASP;
      if (!isNear) onPreview(valueNear(ruler, pressed));
      return { x: event.clientX, position: isNear ? position : pressed, moved: !isNear, value };
    },
    move: (drag, event) => {
      const travel = (event.clientX - drag.x) / scale.current!.getBoundingClientRect().width;
      if (travel === 0) return;
      drag.moved = true;
      const to = drag.position + travel * (event.shiftKey ? 0.1 : 1);
      onPreview(valueNear(ruler, Math.max(0, Math.min(1, to))));
    },
    end: (drag) => drag.moved && onSettle(),
    cancel: (drag) => drag.moved && onCancel(drag.value),
  });

  const hand = useRef<SVGSVGElement>(null);
  const band = useRef<SVGRectElement>(null);
  const moved = useRef<SVGLineElement>(null);
  const showModulation = (base: number) => {
    if (!modulation?.reach || !band.current || !moved.current) return;
    const [low, high] = modulation.reach.map((away) => Math.min(1, Math.max(0, base + away))) as [number, number];
    writeAttribute(band.current, 'x', `${(low * 100).toFixed(2)}%`);
    writeAttribute(band.current, 'width', `${Math.max(0.6, (high - low) * 100).toFixed(2)}%`);
    const now = modulation.now();
    writeStyle(moved.current, 'visibility', now === null ? 'hidden' : 'visible');
    if (now === null) return;
    const at = `${(positionOf(parameter, now) * 100).toFixed(2)}%`;
    writeAttribute(moved.current, 'x1', at);
    writeAttribute(moved.current, 'x2', at);
  };
  const text = formatValue(parameter, value, timing);
  useFrame(() => {
    const automated = automation?.state === 'on' && drag.current === null ? automation.now() : null;
    const position = automated ?? rulerPosition(ruler);
    showModulation(position);
    // Hand and figure are set at every frame, also where they are React's own: what a lane left there must go.
    const at = `${(position * 100).toFixed(2)}%`;
    writeAttribute(hand.current, 'x', at);
    onShow(automated === null ? text : formatValue(parameter, valueAt(parameter, automated), timing));
  });

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
  }, [scale]);

  return (
    <div
      ref={scale}
      className="ruler-scale"
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={parameter.min}
      aria-valuemax={parameter.max}
      aria-valuenow={resolveValue(parameter, value, timing)}
      aria-valuetext={text}
      aria-describedby={errorId}
      onKeyDown={onKeyDown}
      onPointerDown={begin}
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
        <Ticks parameter={parameter} timing={timing} />
        <svg ref={hand} x={`${(rulerPosition(ruler) * 100).toFixed(2)}%`} overflow="visible">
          <path className="ruler-hand" d="M0 15.5 L-5 4 H5 Z" />
        </svg>
      </svg>
    </div>
  );
}

/** Ticks, and the notch of the default. */
function Ticks({ parameter, timing }: Omit<RulerValue, 'value'>) {
  const notch = positionOf(parameter, resolveValue(parameter, parameter.default, timing));
  return (
    <>
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
    </>
  );
}
