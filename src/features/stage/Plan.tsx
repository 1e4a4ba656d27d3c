'use client';

import { useMemo, useRef, type CSSProperties } from 'react';
import type { Spot } from '@/core/effects/place/motion';
import { placedStrip } from '@/core/session/compile/strips';
import { beatsPerBar } from '@/core/session/records/queries';
import type { SessionDocument } from '@/core/session/records/document';
import type { Return, Track } from '@/core/session/records/strips';
import { spotAtBeat } from '@/core/session/stageMotion';
import { placed, placeValues } from '@/core/session/stagePlacement';
import { chosenStrips } from '../session/selection';
import { useStudio, useStudioState } from '../session/StudioContext';
import { labelPlaces, VIEW, widthPath, type Named } from '../controls/plan/geometry';
import { Ground } from '../controls/plan/Ground';
import { useLarger } from '../controls/plan/useLarger';
import { usePathDrawing } from './pathDrawing';
import { Thing } from '../controls/plan/Thing';
import { useThingMoves } from './thingMoves';
import { wayOf } from '../controls/plan/thingWay';
import { Traces } from './Traces';
import { namedAt, useSpots } from './useSpots';

interface Props {
  readonly snap: boolean;
  readonly drawing: boolean;
  readonly onDrawn: () => void;
  readonly empty: boolean;
}

const signalOf = (document: SessionDocument, { id }: Track | Return) =>
  document.returns[id]?.role === 'return' ? 'wet' : 'dry';

/** The stage from above. Things are dragged and moved by keys; what moves is shown where it is heard. */
export function Plan({ snap, drawing, onDrawn, empty }: Props) {
  const studio = useStudio();
  const { document, stripId, besideIds } = useStudioState(({ document, stripId, besideIds }) => ({
    document,
    stripId,
    besideIds,
  }));
  const { things, base, sizes } = useMemo(() => {
    const things = placed(document);
    const base = things.map((strip) => spotAtBeat(document, strip, studio.transport.heardBeat));
    return { things, base, sizes: things.map((strip) => Number(placeValues(document, strip).size)) };
  }, [document, studio]);
  const chosen = chosenStrips({ stripId, besideIds }).filter((id) => things.some((one) => one.id === id));
  const plan = useRef<SVGSVGElement>(null);
  const larger = useLarger(plan);
  const isChosen = ({ id }: Track | Return) => chosen.includes(id);
  const named = (spot: Spot, n: number): Named => namedAt(spot, things[n]!.name, larger, isChosen(things[n]!));
  const labels = labelPlaces(base.map(named), larger);
  const marks = useRef(new Map<string, SVGGElement>());
  const widths = useRef(new Map<string, SVGPathElement>());
  const moves = useThingMoves({ plan, things, chosen, snap, drawing });
  const [beginPath, drawn] = usePathDrawing({ plan, strip: things.find(({ id }) => id === stripId), drawing, onDrawn });
  const spots = useSpots({ things, sizes, named, larger, marks, widths, isDragging: moves.isDragging });

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
      >
        <Ground />
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
        {things.map((strip, n) => (
          <Thing
            key={strip.id}
            name={strip.name}
            spot={base[n]!}
            label={labels[n] ?? null}
            signal={signalOf(document, strip)}
            isGroup={document.returns[strip.id]?.role === 'group'}
            isChosen={isChosen(strip)}
            isMute={strip.mute}
            mark={(element) => {
              if (element) marks.current.set(strip.id, element);
              else marks.current.delete(strip.id);
            }}
            onPointerDown={(event) => moves.press(event, strip.id)}
            onKeyDown={(event) => moves.key(event, strip)}
          />
        ))}
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
