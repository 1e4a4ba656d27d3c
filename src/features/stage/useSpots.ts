import { useRef, type RefObject } from 'react';
import type { Spot } from '@/core/effects/place/motion';
import { placedStrip } from '@/core/session/compile/strips';
import type { SessionDocument } from '@/core/session/records/document';
import type { Return, Track } from '@/core/session/records/strips';
import { spotAtBeat } from '@/core/session/stageMotion';
import { useStudio } from '../session/StudioContext';
import { writeAttribute, writeStyle } from '../ui/drawn';
import { useFrame } from '../ui/useFrame';
import { meteredSpot } from '../controls/plan/meteredSpot';
import { labelPlaces, STEM, toPlan, widthPath, type LabelPlace, type Named } from '../controls/plan/geometry';

/** Peaks under this count as silence. */
const FAINT = 1e-4;
/** Width of a letter on the plan, and display frames from one look at the names of moving things to the next. */
const LETTER = 7;
const FRAMES_APART = 6;

/** A thing at a place, as it is named there. */
export const namedAt = (spot: Spot, name: string, larger: number, chosen: boolean): Named => ({
  ...toPlan(spot),
  width: name.length * LETTER * larger,
  stem: spot.z * STEM,
  chosen,
});

interface Props {
  readonly things: readonly (Track | Return)[];
  readonly sizes: readonly number[];
  readonly named: (spot: Spot, n: number) => Named;
  readonly larger: number;
  readonly marks: RefObject<Map<string, SVGGElement>>;
  readonly widths: RefObject<Map<string, SVGPathElement>>;
  readonly isDragging: () => boolean;
}

/**
 * Moves the marks of things to where they are heard, at every frame, and their names to where they cover nothing.
 * @returns where they are, by id
 */
export function useSpots({
  things,
  sizes,
  named,
  larger,
  marks,
  widths,
  isDragging,
}: Props): RefObject<Map<string, Spot>> {
  const studio = useStudio();
  const spots = useRef(new Map<string, Spot>());
  /** Document and beat for which unmetered positions were computed. */
  const seen = useRef<{ document: SessionDocument; beat: number } | null>(null);
  /** The metered position. For what does not sound the engine keeps the one it last had. */
  const heardSpot = ({ id, placeId }: Track | Return): Spot | null => {
    const { left, right } = studio.engine.level(placedStrip(id));
    return isDragging() || left + right < FAINT ? null : meteredSpot(studio.engine, placeId!);
  };
  const frame = useRef(0);
  const namesAreStale = useRef(true);
  const labels = useRef<readonly (LabelPlace | null)[]>([]);
  const moveNames = () => {
    const before = labels.current.length === things.length ? labels.current : [];
    labels.current = labelPlaces(
      things.map(({ id }, n) => named(spots.current.get(id)!, n)),
      larger,
      before,
    );
    things.forEach(({ id }, n) => {
      const name = marks.current.get(id)?.querySelector('.thing-name') ?? null;
      const place = labels.current[n];
      name?.classList.toggle('thing-name-no-room', !place);
      if (!place) return;
      writeAttribute(name, 'x', String(place.dx));
      writeAttribute(name, 'y', String(place.dy));
      writeAttribute(name, 'text-anchor', place.anchor);
    });
  };
  useFrame(() => {
    const { document } = studio.state;
    const beat = studio.transport.heardBeat;
    const same = seen.current?.document === document && seen.current.beat === beat;
    seen.current = { document, beat };
    things.forEach((strip, n) => {
      const known = same ? spots.current.get(strip.id) : undefined;
      const spot = heardSpot(strip) ?? known ?? spotAtBeat(document, strip, beat);
      spots.current.set(strip.id, spot);
      const mark = marks.current.get(strip.id);
      const { x, y } = toPlan(spot);
      writeStyle(mark ?? null, 'transform', `translate(${x.toFixed(1)}px, ${y.toFixed(1)}px)`);
      writeAttribute(widths.current.get(strip.id) ?? null, 'd', widthPath(spot, sizes[n]!));
    });
    if (!same) namesAreStale.current = true;
    if (frame.current++ % FRAMES_APART !== 0 || !namesAreStale.current) return;
    namesAreStale.current = false;
    moveNames();
  });
  return spots;
}
