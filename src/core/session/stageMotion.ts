import { spotAt, type Course, type Spot } from '../effects/place/motion';
import { FARTHEST, NEAREST } from '../effects/place/spec';
import { effectById } from '../effects/registry';
import { resolveSettings, resolveValue } from '../effects/resolve';
import { writePath } from '../effects/settings';
import { findParameter, type NumberParameter, type ParameterValue } from '../effects/spec';
import { KinetikonError } from '../errors';
import { clamp } from '../math/clamp';
import { atan2, cos, sin } from '../math/elementary';
import type { Command } from './commands';
import { thin, type Range } from './laneEdits';
import { cornersOf, heightAt, laneOf, valueAtHeight } from './lanes';
import { isFollowed, leadingPlace, PLACE_EFFECT, placeValues } from './stagePlacement';
import { timingOf } from './records/queries';
import type { Point } from './records/lanes';
import type { Return, Track } from './records/strips';
import type { SessionDocument } from './records/document';

const RADIAN = 0.017453292519943295;
/** Looks at a round that is written into lanes, and the points left out of them, as a part of the ruler. */
const LOOKS = 256;
const TOLERANCE = 0.002;
/** Looks at lanes that are drawn as a path. */
const PATH_POINTS = 32;
const MOST_POINTS = 16000;

const parameter = (id: string) => findParameter(effectById(PLACE_EFFECT), id) as NumberParameter;

/** Set position and motion of a strip at a beat, with lanes, without modulators. */
export function courseAt(document: SessionDocument, strip: Track | Return, beat: number): Course {
  const timing = timingOf(document);
  const values = placeValues(document, strip);
  const figure = (id: string): number => {
    const ownerId = isFollowed(strip, id) ? leadingPlace(document, strip)!.id : strip.placeId!;
    const lane = laneOf(document, ownerId, id);
    const height = lane?.on ? heightAt(cornersOf(document, lane, timing), beat) : null;
    const value = height === null ? values[id]! : valueAtHeight(findParameter(effectById(PLACE_EFFECT), id)!, height);
    return resolveValue(findParameter(effectById(PLACE_EFFECT), id)!, value, timing);
  };
  const path = resolveSettings(effectById(PLACE_EFFECT), values)!.path!;
  return {
    azimuth: figure('azimuth'),
    distance: figure('distance'),
    height: figure('height'),
    motion: values.motion as Course['motion'],
    size: figure('motionSize'),
    phase: figure('motionPhase'),
    backwards: values.motionDirection === 'backwards',
    ease: figure('motionEase') / 100,
    mirror: values.mirror as Course['mirror'],
    path: path.kind === 'path' ? path : { x: [0, 0], y: [0, 0] },
  };
}

/** Rounds a second of a thing's motion. */
export function roundsHz(document: SessionDocument, strip: Track | Return): number {
  return resolveValue(parameter('motionRate'), placeValues(document, strip).motionRate!, timingOf(document));
}

/** Position of a strip at a beat, as far as it is known without the engine. */
export function spotAtBeat(document: SessionDocument, strip: Track | Return, beat: number): Spot {
  const seconds = (beat * 60) / document.session.tempoBpm;
  return spotAt(courseAt(document, strip, beat), seconds * roundsHz(document, strip));
}

/**
 * Points on one beat by which an azimuth that passes behind goes over from one end of its ruler to the other; none for one that
 * does not. A line between both azimuths would go round by the front.
 */
export function throughBehind(before: { beat: number; azimuth: number }, beat: number, azimuth: number): Point[] {
  if (Math.abs(azimuth - before.azimuth) <= 180) return [];
  const end = before.azimuth > 0 ? 180 : -180;
  const part = (180 - Math.abs(before.azimuth)) / Math.max(1e-9, 360 - Math.abs(before.azimuth) - Math.abs(azimuth));
  const behind = before.beat + part * (beat - before.beat);
  return [straightTo(behind, end), straightTo(behind, -end)];
}

const straightTo = (beat: number, value: number): Point => ({ beat, value, shape: 'straight', bend: 0 });

const azimuthOf = ({ x, y }: Spot) => atan2(x, y) / RADIAN;

const refused = (message: string, next: string) =>
  new KinetikonError('session.command', message, { kept: 'Nothing was changed.', next });

/**
 * Writes the motion of a thing into lanes of its azimuth and its distance, where it can be edited, and lets it stand
 * otherwise; what was there in this stretch gives way.
 * @throws KinetikonError session.command for a thing that moves as another does, and for more points than a lane takes
 */
export function motionToLanes(
  document: SessionDocument,
  strip: Track | Return,
  range: Range,
  newId: () => string,
): Command {
  if (strip.oppositeOf !== null)
    throw refused(`${strip.name} moves as another thing does.`, 'Write that one into lanes, or let go of it first.');
  const seconds = ((range.to - range.from) * 60) / document.session.tempoBpm;
  const rounds = seconds * roundsHz(document, strip);
  const looks = Math.max(2, Math.ceil(rounds * LOOKS));
  if (looks > MOST_POINTS)
    throw refused(
      `That would be ${Math.round(rounds)} rounds, and at most ${Math.floor(MOST_POINTS / LOOKS)} are written at once.`,
      'Loop a shorter stretch.',
    );
  const timing = timingOf(document);
  const azimuths: Point[] = [];
  const distances: Point[] = [];
  let before: { beat: number; azimuth: number } | null = null;
  for (let n = 0; n <= looks; n++) {
    const beat = range.from + ((range.to - range.from) * n) / looks;
    const spot = spotAtBeat(document, strip, beat);
    const azimuth = azimuthOf(spot);
    if (before !== null) azimuths.push(...throughBehind(before, beat, azimuth));
    azimuths.push(straightTo(beat, Number(azimuth.toFixed(3))));
    distances.push(straightTo(beat, Number(clamp(NEAREST, FARTHEST, Math.hypot(spot.x, spot.y)).toFixed(4))));
    before = { beat, azimuth };
  }
  const lane = (id: 'azimuth' | 'distance', points: readonly Point[]): Command => {
    const kept = thin(points, TOLERANCE, parameter(id), timing);
    const there = laneOf(document, strip.placeId!, id);
    if (!there)
      return {
        type: 'lane.add',
        lane: {
          ...{ id: newId(), ownerId: strip.placeId!, parameter: id, on: true, mirrorOf: null, mirrorAmount: 100 },
          points: kept,
        },
      };
    const others = there.points.filter(({ beat }) => beat < range.from || beat > range.to);
    const all = [...others, ...kept].sort((a, b) => a.beat - b.beat);
    return { type: 'lane.set', id: there.id, values: { on: true, points: all, mirrorOf: null } };
  };
  return {
    type: 'all',
    commands: [
      { type: 'insert.set', id: strip.placeId!, values: { motion: 'none', mirror: 'none' } },
      lane('azimuth', azimuths),
      lane('distance', distances),
    ],
  };
}

/**
 * The values of a place that moves through some places in turn, in even times.
 * @throws KinetikonError session.command for one that reaches farther than a path does
 */
export function pathThrough(spots: readonly Pick<Spot, 'x' | 'y'>[]): {
  readonly reach: number;
  readonly values: Record<string, ParameterValue>;
} {
  const middle = (all: readonly number[]) => (Math.min(...all) + Math.max(...all)) / 2;
  const [centreX, centreY] = [middle(spots.map(({ x }) => x)), middle(spots.map(({ y }) => y))];
  const angle = atan2(centreX, centreY);
  const distance = clamp(NEAREST, FARTHEST, Math.hypot(centreX, centreY));
  const [s, c] = [sin(angle), cos(angle)];
  const around = spots.map(({ x, y }) => {
    const [dx, dy] = [x - distance * s, y - distance * c];
    return { x: dx * c - dy * s, y: dx * s + dy * c };
  });
  const reach = Math.max(...around.flatMap(({ x, y }) => [Math.abs(x), Math.abs(y)]));
  const { min, max } = parameter('motionSize');
  if (reach > max)
    throw refused(`A path reaches ${max} m to a side, and this one ${Math.round(reach)} m.`, 'Bring it nearer.');
  const size = Math.max(min, reach);
  return {
    reach,
    values: {
      azimuth: angle / RADIAN,
      distance,
      motion: 'path',
      motionPhase: 0,
      motionDirection: 'forwards',
      motionSize: size,
      motionEase: 0,
      mirror: 'none',
      path: writePath(around.map(({ x, y }) => ({ x: x / size, y: y / size }))),
    },
  };
}

/**
 * Draws what the lanes of a thing do in a stretch as a path, which it goes along once in as much time; the lanes stay,
 * switched off.
 * @throws KinetikonError session.command where nothing moves there, or farther than a path reaches
 */
export function lanesToPath(document: SessionDocument, strip: Track | Return, range: Range): Command {
  const lanes = ['azimuth', 'distance'].flatMap((id) => laneOf(document, strip.placeId!, id) ?? []);
  const still = { ...document, inserts: { ...document.inserts } };
  const own = document.inserts[strip.placeId!]!;
  still.inserts[own.id] = { ...own, values: { ...own.values, motion: 'none', mirror: 'none' } };
  const spots = Array.from({ length: PATH_POINTS }, (_, n) =>
    spotAtBeat(still, strip, range.from + ((range.to - range.from) * n) / PATH_POINTS),
  );
  const drawn = pathThrough(spots);
  if (lanes.length === 0 || drawn.reach < 0.01)
    throw refused(
      `The lanes of ${strip.name} do not move it there.`,
      'Draw lanes of its azimuth or its distance first.',
    );
  const perSecond = document.session.tempoBpm / 60;
  const hz = perSecond / (range.to - range.from);
  const rate = parameter('motionRate');
  if (hz < rate.min || hz > rate.max)
    throw refused('A round takes 0.2 to 100 s.', 'Loop a shorter or a longer stretch.');
  const begun = (range.from / perSecond) * hz;
  return {
    type: 'all',
    commands: [
      {
        type: 'insert.set',
        id: own.id,
        values: {
          ...drawn.values,
          motionRate: hz,
          motionPhase: (Math.ceil(begun) - begun) * 360,
        },
      },
      ...lanes.map(({ id }): Command => ({ type: 'lane.set', id, values: { on: false } })),
    ],
  };
}
