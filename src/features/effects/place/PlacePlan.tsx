'use client';

import { useRef, type CSSProperties, type KeyboardEvent } from 'react';
import type { Insert } from '@/core/session/records/inserts';
import { spotAtBeat } from '@/core/session/stageMotion';
import { placeValues } from '@/core/session/stagePlacement';
import { type fromPlan, labelPlaces, STEM, toPlan, VIEW, widthPath } from '../../controls/plan/geometry';
import { Ground } from '../../controls/plan/Ground';
import { meteredSpot } from '../../controls/plan/meteredSpot';
import { moveBetween, moveOfKey, polarOf } from '../../controls/plan/planMoves';
import { Thing } from '../../controls/plan/Thing';
import { wayOf } from '../../controls/plan/thingWay';
import { useLarger } from '../../controls/plan/useLarger';
import { thingAt, turnsOf, type Move } from '../../session/staging';
import { useStudio, useStudioState } from '../../session/StudioContext';
import { writeAttribute, writeStyle } from '../../ui/drawn';
import { useFrame } from '../../ui/useFrame';
import { usePointerDrag } from '../../ui/usePointerDrag';
import './place.css';

/** Plan of a place, seen from above as on the stage: it is dragged or moved by keys, and drawn at the heard position. */
export function PlacePlan({ insert }: { readonly insert: Insert }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const thing = thingAt(document, insert.id);
  const spot = spotAtBeat(document, thing, studio.transport.heardBeat);
  const size = Number(placeValues(document, thing).size);
  const way = wayOf(document, thing);
  const signal = 'role' in thing && thing.role === 'return' ? 'wet' : 'dry';
  const plan = useRef<SVGSVGElement>(null);
  const larger = useLarger(plan);
  const mark = useRef<SVGGElement>(null);
  const width = useRef<SVGPathElement>(null);
  const move = (by: Move) => {
    const base = studio.editor.dragBase;
    studio.controls.turnAll(turnsOf(base, [thingAt(base, insert.id)], by), `Move ${thing.name}`);
  };
  const [begin, dragged] = usePointerDrag<ReturnType<typeof fromPlan>>({
    begin: (event) => polarOf(plan.current!, event),
    move: (from, point) => move(moveBetween(from, polarOf(plan.current!, point))),
    end: () => studio.editor.settle(),
    cancel: () => studio.editor.abandon(),
  });
  const onKeyDown = (event: KeyboardEvent) => {
    const by = moveOfKey(event, false);
    if (!by) return;
    event.preventDefault();
    studio.editor.settle();
    move(by);
    studio.editor.settle();
  };
  useFrame(() => {
    const { engine, transport, state } = studio;
    if (!state.document.inserts[insert.id]) return;
    const now =
      (dragged.current === null ? meteredSpot(engine, insert.id) : null) ??
      spotAtBeat(state.document, thingAt(state.document, insert.id), transport.heardBeat);
    const at = toPlan(now);
    writeStyle(mark.current, 'transform', `translate(${at.x.toFixed(1)}px, ${at.y.toFixed(1)}px)`);
    writeAttribute(width.current, 'd', widthPath(now, size));
  });
  const named = { ...toPlan(spot), width: 0, stem: spot.z * STEM, chosen: true };
  return (
    <div className="plan place-plan">
      <svg
        ref={plan}
        style={{ '--larger': larger } as CSSProperties}
        viewBox={`${VIEW.left} ${VIEW.top} ${VIEW.width} ${VIEW.height}`}
        role="group"
        aria-label={`Where ${thing.name} stands, seen from above`}
      >
        <Ground />
        {way && (
          <path d={way.d} className={`plan-way plan-way-chosen plan-${signal} ${way.closed ? 'plan-walk' : ''}`} />
        )}
        {size > 0 && <path ref={width} className={`thing-width plan-${signal}`} d={widthPath(spot, size)} />}
        <Thing
          name={thing.name}
          spot={spot}
          label={labelPlaces([named], larger)[0] ?? null}
          signal={signal}
          isGroup={'role' in thing && thing.role === 'group'}
          isChosen
          isMute={thing.mute}
          mark={(element) => {
            mark.current = element;
          }}
          onPointerDown={begin}
          onKeyDown={onKeyDown}
        />
      </svg>
    </div>
  );
}
