'use client';

import {
  useEffect,
  useMemo,
  useRef,
  useState,
  type CSSProperties,
  type KeyboardEvent,
  type PointerEvent as Pointed,
} from 'react';
import { spotAt, type Spot } from '@/core/effects/place/motion';
import { placed, placeValues } from '@/core/session/stagePlacement';
import { placedStrip } from '@/core/session/compile/strips';
import { beatsPerBar } from '@/core/session/records/queries';
import type { Return, Track } from '@/core/session/records/strips';
import type { SessionDocument } from '@/core/session/records/document';
import { courseAt, pathThrough, spotAtBeat } from '@/core/session/stageMotion';
import { takeOffStage, thingsOf, turnsOf, type Move } from '../session/staging';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useFrame } from '../ui/useFrame';
import {
  fromPlan,
  labelPlaces,
  lineThrough,
  PLAN,
  placeWords,
  radiusOf,
  RINGS,
  toPlan,
  VIEW,
  widthPath,
  wrapped,
} from './geometry';
import { Traces } from './Traces';

const LOOKS = 180;
const DIRECTIONS = [
  [0, 'ahead'],
  [90, 'right'],
  [180, 'behind'],
  [-90, 'left'],
] as const;
const SNAP = 15;
/** A drawn path is laid out evenly through so many places. */
const PATH_POINTS = 40;
/** Height of a stem for a metre. */
const STEM = 9;
const LETTER = 6.4;
/** Peaks under this count as silence. */
const FAINT = 1e-4;

interface Props {
  readonly snap: boolean;
  readonly drawing: boolean;
  readonly onDrawn: () => void;
  /** Things that are chosen beside the strip that is. */
  readonly more: readonly string[];
  readonly onMore: (ids: readonly string[]) => void;
  readonly empty: boolean;
}

interface Drag {
  readonly ids: readonly string[];
  readonly from: { readonly azimuth: number; readonly distance: number };
}

const signalOf = (document: SessionDocument, { id }: Track | Return) =>
  document.returns[id]?.role === 'return' ? 'wet' : 'dry';

/** The way of a thing over a round, as it is set now. */
function wayOf(document: SessionDocument, strip: Track | Return): { d: string; closed: boolean } | null {
  const values = placeValues(document, strip);
  if (values.motion === 'none') return null;
  const course = courseAt(document, strip, 0);
  if (values.motion === 'walk') {
    const { x, y } = spotAt({ ...course, motion: 'none' }, 0);
    const reach = Array.from({ length: LOOKS }, (_, n) => {
      const turn = (2 * Math.PI * n) / LOOKS;
      return { x: x + course.size * Math.SQRT2 * Math.sin(turn), y: y + course.size * Math.SQRT2 * Math.cos(turn) };
    });
    return { d: lineThrough(reach, true), closed: true };
  }
  const spots = Array.from({ length: LOOKS + 1 }, (_, n) => spotAt(course, n / LOOKS));
  return { d: lineThrough(spots, false), closed: false };
}

/** The stage from above. Things are dragged and moved by keys; what moves is shown where it is heard. */
export function Plan({ snap, drawing, onDrawn, more, onMore, empty }: Props) {
  const studio = useStudio();
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const { things, base, sizes } = useMemo(() => {
    const things = placed(document);
    const base = things.map((strip) => spotAtBeat(document, strip, studio.transport.heardBeat));
    return { things, base, sizes: things.map((strip) => Number(placeValues(document, strip).size)) };
  }, [document, studio]);
  const chosen = things.some(({ id }) => id === stripId) ? [stripId, ...more.filter((id) => id !== stripId)] : more;
  const plan = useRef<SVGSVGElement>(null);
  const drag = useRef<Drag | null>(null);
  const [drawn, setDrawn] = useState<readonly { x: number; y: number }[]>([]);
  /** By how much words are drawn larger, so that they keep their size however small the plan is. */
  const [larger, setLarger] = useState(1);
  const labels = labelPlaces(
    base.map((spot, n) => ({ ...toPlan(spot), width: things[n]!.name.length * LETTER * larger })),
    larger,
  );
  const marks = useRef(new Map<string, SVGGElement>());
  const widths = useRef(new Map<string, SVGPathElement>());
  useEffect(() => {
    const element = plan.current!;
    const fit = new ResizeObserver(() => {
      const scale = Math.min(element.clientWidth / VIEW.width, element.clientHeight / VIEW.height);
      setLarger(Number(Math.min(1.8, 1 / Math.max(0.1, scale)).toFixed(1)));
    });
    fit.observe(element);
    return () => fit.disconnect();
  }, []);

  /** Where things are now, by id, and what that was worked out from where the engine does not tell it. */
  const spots = useRef(new Map<string, Spot>());
  const seen = useRef<{ document: SessionDocument; beat: number } | null>(null);
  /** What the engine tells of a thing. Of what does not sound it tells where it was when it last did. */
  const toldSpot = ({ id, placeId }: Track | Return): Spot | null => {
    const { engine } = studio;
    const { left, right } = engine.level(placedStrip(id));
    if (!engine.playing || drag.current !== null || left + right < FAINT) return null;
    const [x, y, z] = [0, 1, 2].map((figure) => engine.meterValue(placeId!, 'position', figure) ?? 0) as [
      number,
      number,
      number,
    ];
    return x === 0 && y === 0 ? null : { x, y, z };
  };
  useFrame(() => {
    const { document } = studio.state;
    const beat = studio.transport.heardBeat;
    const same = seen.current?.document === document && seen.current.beat === beat;
    seen.current = { document, beat };
    things.forEach((strip, n) => {
      const known = same ? spots.current.get(strip.id) : undefined;
      const spot = toldSpot(strip) ?? known ?? spotAtBeat(document, strip, beat);
      spots.current.set(strip.id, spot);
      const mark = marks.current.get(strip.id);
      const { x, y } = toPlan(spot);
      if (mark) mark.style.transform = `translate(${x.toFixed(1)}px, ${y.toFixed(1)}px)`;
      widths.current.get(strip.id)?.setAttribute('d', widthPath(spot, sizes[n]!));
    });
  });

  const pointed = (event: Pointed): { x: number; y: number } => {
    const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(
      plan.current!.getScreenCTM()!.inverse(),
    );
    return { x, y };
  };
  /** Lanes that moved these things are off until they are given back, or are written while that is armed. */
  const move = (ids: readonly string[], by: Move) => {
    const base = studio.editor.dragBase;
    const snapped = { ...by, ...(snap && by.turn !== undefined ? { snap: SNAP } : {}) };
    studio.controls.turnAll(turnsOf(base, thingsOf(base, ids), snapped), `Move ${nameOf(ids)}`);
  };
  const nameOf = (ids: readonly string[]) =>
    ids.length === 1 ? things.find(({ id }) => id === ids[0])!.name : `${ids.length} things`;
  const choose = (id: string, beside: boolean) => {
    if (beside && chosen.includes(id)) return onMore(more.filter((one) => one !== id));
    if (beside) return onMore([...new Set([...chosen, id])]);
    onMore([]);
    studio.selection.selectStrip(id);
  };

  const press = (event: Pointed, id: string) => {
    if (event.button !== 0 || drawing) return;
    const beside = event.ctrlKey || event.metaKey || event.shiftKey;
    if (beside || !chosen.includes(id)) choose(id, beside);
    if (beside) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const ids = chosen.includes(id) ? chosen : [id];
    studio.editor.settle();
    drag.current = { ids, from: fromPlan(pointed(event)) };
  };
  const pull = (event: Pointed) => {
    if (!drag.current) return;
    const { ids, from } = drag.current;
    const to = fromPlan(pointed(event));
    move(ids, { turn: wrapped(to.azimuth - from.azimuth), times: to.distance / from.distance });
  };
  const release = () => {
    if (!drag.current) return;
    drag.current = null;
    studio.editor.settle();
  };
  const key = (event: KeyboardEvent, strip: Track | Return) => {
    if (event.key === 'Enter' || event.key === ' ') {
      event.preventDefault();
      choose(strip.id, event.ctrlKey || event.metaKey || event.shiftKey);
      return;
    }
    if (event.key === 'Delete') {
      event.preventDefault();
      takeOffStage(studio, strip);
      return;
    }
    const turn = snap ? SNAP : event.shiftKey ? 1 : 5;
    const times = 2 ** (event.shiftKey ? 1 / 16 : 1 / 4);
    const by: Move | undefined = {
      ArrowRight: { turn },
      ArrowLeft: { turn: -turn },
      ArrowUp: { times },
      ArrowDown: { times: 1 / times },
      PageUp: { lift: 0.5 },
      PageDown: { lift: -0.5 },
    }[event.key];
    if (!by) return;
    event.preventDefault();
    const ids = chosen.includes(strip.id) ? chosen : [strip.id];
    studio.editor.settle();
    move(ids, by);
    studio.editor.settle();
  };

  const beginPath = (event: Pointed) => {
    if (!drawing || event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrawn([pointed(event)]);
  };
  const goOn = (event: Pointed) => {
    if (drawing && drawn.length > 0) setDrawn([...drawn, pointed(event)]);
  };
  const endPath = () => {
    if (drawn.length === 0) return;
    const strip = things.find(({ id }) => id === stripId);
    setDrawn([]);
    onDrawn();
    if (!strip || drawn.length < 3) return;
    try {
      const { values } = pathThrough(evenly(drawn).map(onStage));
      studio.editor.perform({ type: 'insert.set', id: strip.placeId!, values }, `Draw a path for ${strip.name}`);
    } catch (error) {
      studio.messages.report(error);
    }
  };

  return (
    <div className={`plan ${drawing ? 'plan-drawing' : ''}`}>
      <Traces
        things={things}
        levelOf={(id) => studio.engine.level(placedStrip(id))}
        spots={spots}
        signalOf={(one) => signalOf(document, one)}
        barSeconds={(beatsPerBar(document.session) * 60) / document.session.tempoBpm}
      />
      <svg
        ref={plan}
        style={{ '--larger': larger } as CSSProperties}
        viewBox={`${VIEW.left} ${VIEW.top} ${VIEW.width} ${VIEW.height}`}
        role="group"
        aria-label="The stage, seen from above"
        onPointerDown={beginPath}
        onPointerMove={goOn}
        onPointerUp={endPath}
        onPointerCancel={endPath}
      >
        <g className="plan-rings" aria-hidden="true">
          {RINGS.map((metres, n) => (
            <circle key={metres} r={radiusOf(metres)} className={n % 2 ? 'plan-ring' : 'plan-ring plan-ring-between'} />
          ))}
          {Array.from({ length: 24 }, (_, n) => n * 15).map((degrees) => (
            <line
              key={degrees}
              y1={-PLAN}
              y2={-PLAN - (degrees % 45 === 0 ? 9 : 5)}
              transform={`rotate(${degrees})`}
              className="plan-tick"
            />
          ))}
          {RINGS.map((metres) => (
            <text key={metres} x={4} y={-radiusOf(metres) - 3}>
              {metres} m
            </text>
          ))}
          {DIRECTIONS.map(([degrees, word]) => {
            const turn = (degrees * Math.PI) / 180;
            return (
              <text
                key={word}
                className="plan-direction"
                x={(PLAN + 34) * Math.sin(turn)}
                y={-(PLAN + 24) * Math.cos(turn) + 4}
                textAnchor="middle"
              >
                {word}
              </text>
            );
          })}
          <path className="plan-listener" d="M-11 6A11 11 0 0 1 11 6M-5 -11L0 -18L5 -11" />
        </g>
        {things.map((strip) => {
          const way = wayOf(document, strip);
          return (
            way && (
              <path
                key={strip.id}
                d={way.d}
                className={`plan-way plan-${signalOf(document, strip)} ${way.closed ? 'plan-walk' : ''} ${strip.id === stripId ? 'plan-way-chosen' : ''}`}
              />
            )
          );
        })}
        {things.map(
          (strip, n) =>
            sizes[n]! > 0 && (
              <path
                key={strip.id}
                ref={(element) => {
                  if (element) widths.current.set(strip.id, element);
                  else widths.current.delete(strip.id);
                }}
                className={`thing-width plan-${signalOf(document, strip)} ${strip.mute ? 'thing-mute' : ''}`}
                d={widthPath(base[n]!, sizes[n]!)}
              />
            ),
        )}
        {drawn.length > 1 && (
          <path className="plan-way plan-way-drawn" d={`M${drawn.map(({ x, y }) => `${x} ${y}`).join('L')}`} />
        )}
        {things.map((strip, n) => {
          const spot = base[n]!;
          const { dx, dy, anchor } = labels[n]!;
          const stem = spot.z * STEM;
          return (
            <g
              key={strip.id}
              ref={(element) => {
                if (element) marks.current.set(strip.id, element);
                else marks.current.delete(strip.id);
              }}
              role="button"
              tabIndex={0}
              aria-label={`${strip.name}, ${placeWords(spot)}`}
              aria-pressed={chosen.includes(strip.id)}
              className={`thing plan-${signalOf(document, strip)} ${chosen.includes(strip.id) ? 'thing-chosen' : ''} ${strip.mute ? 'thing-mute' : ''}`}
              onPointerDown={(event) => press(event, strip.id)}
              onPointerMove={pull}
              onPointerUp={release}
              onPointerCancel={release}
              onKeyDown={(event) => key(event, strip)}
            >
              <title>{`${strip.name}, ${placeWords(spot)}`}</title>
              {Math.abs(stem) > 0.5 && (
                <>
                  <line className="thing-stem" y1={0} y2={-stem} />
                  <line className="thing-stem" x1={-5} x2={5} y1={-stem} y2={-stem} />
                  <text className="thing-height" x={8} y={-stem + 4}>
                    {`${spot.z > 0 ? '+' : '−'}${Math.abs(spot.z).toFixed(1)} m`}
                  </text>
                </>
              )}
              <circle className="thing-grasp" r={16} />
              <circle className="thing-mark" r={9} />
              {document.returns[strip.id]?.role === 'group' && <circle className="thing-mark" r={5} />}
              <text className="thing-name" x={dx} y={dy} textAnchor={anchor}>
                {strip.name}
              </text>
            </g>
          );
        })}
      </svg>
      {empty && (
        <p className="plan-empty">
          Nothing stands on the stage yet. Choose a track or a return on the left and put it here: then it is dragged to
          where it is to be heard.
        </p>
      )}
    </div>
  );
}

/** A place of the plan, in metres from the listener. */
function onStage(point: { readonly x: number; readonly y: number }): { x: number; y: number } {
  const { azimuth, distance } = fromPlan(point);
  const turn = (azimuth * Math.PI) / 180;
  return { x: distance * Math.sin(turn), y: distance * Math.cos(turn) };
}

/** A drawn round through as many places as far apart as each other. */
function evenly(drawn: readonly { readonly x: number; readonly y: number }[]): { x: number; y: number }[] {
  const round = [...drawn, drawn[0]!];
  const lengths = [0];
  for (let n = 1; n < round.length; n++)
    lengths.push(lengths[n - 1]! + Math.hypot(round[n]!.x - round[n - 1]!.x, round[n]!.y - round[n - 1]!.y));
  const whole = lengths.at(-1)!;
  let n = 1;
  return Array.from({ length: PATH_POINTS }, (_, k) => {
    const at = (whole * k) / PATH_POINTS;
    while (n < lengths.length - 1 && lengths[n]! < at) n++;
    const part = (at - lengths[n - 1]!) / Math.max(1e-9, lengths[n]! - lengths[n - 1]!);
    const [from, to] = [round[n - 1]!, round[n]!];
    return { x: from.x + part * (to.x - from.x), y: from.y + part * (to.y - from.y) };
  });
}
