import { TWO_PI } from '../../math/circle';
import { cos, sin } from '../../math/elementary';
import { SeededRandom } from '../../math/random';
import { smoothstep } from '../../math/smoothstep';

/** Motions of a thing on the stage, in the order of the parameter's choices. */
export const MOTIONS = ['none', 'circle', 'ellipse', 'eight', 'line', 'pendulum', 'walk', 'path'] as const;
export type Motion = (typeof MOTIONS)[number];
/** Offset from its own position. */
export const MIRRORS = ['none', 'angle', 'side'] as const;
export type Mirror = (typeof MIRRORS)[number];

/** Position from the listener, in metres: right, ahead, up. */
export interface Spot {
  x: number;
  y: number;
  z: number;
}

/** Points around where a thing stands, as parts of its motion's size, joined to a round. */
export interface Path {
  readonly x: readonly number[];
  readonly y: readonly number[];
}

/** Position and motion of a thing. */
export interface Course {
  /** Degrees, 0 ahead, 90 to the right. */
  azimuth: number;
  /** Metres along the floor, and over the ears. */
  distance: number;
  height: number;
  motion: Motion;
  /** Metres. */
  size: number;
  /** Start phase, in degrees. */
  phase: number;
  backwards: boolean;
  /** 0 to 1: how long it lingers where it begins, or at both ends. */
  ease: number;
  mirror: Mirror;
  path: Path;
}

const RADIAN = 0.017453292519943295;
const WALK_SEEDS = [4409, 5519] as const;
const random = new SeededRandom(0);

/** Random figures from -1 to 1, one for each round, with smooth ways between. */
function wandered(seed: number, rounds: number): number {
  const round = Math.floor(rounds);
  const drawn = (n: number) => {
    random.reseed(seed + 7919 * n);
    return random.bipolar();
  };
  const from = drawn(round);
  return from + (drawn(round + 1) - from) * smoothstep(rounds - round);
}

/** A place on a round through points: a closed curve of Catmull and Rom (1974), as many turns as there are points. */
function onRound(points: readonly number[], turns: number): number {
  const count = points.length;
  const along = (turns - Math.floor(turns)) * count;
  const n = Math.min(count - 1, Math.floor(along));
  const t = along - n;
  const at = (k: number) => points[(n + k + count) % count]!;
  const [a, b, c, d] = [at(-1), at(0), at(1), at(2)];
  return b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
}

/** Lingers where it begins, as often as it says in a round. */
const lingering = (turns: number, ease: number, times: number) =>
  turns - (ease * sin(TWO_PI * times * turns)) / (TWO_PI * times);

/**
 * Position of a thing after a number of rounds of its motion.
 * @param rounds since the start of the session
 */
export function spotAt(course: Course, rounds: number, out: Spot = { x: 0, y: 0, z: 0 }): Spot {
  const { azimuth, distance, motion, size, ease, path } = course;
  const round = (course.backwards ? -rounds : rounds) + course.phase / 360;
  const u = round - Math.floor(round);
  let angle = azimuth * RADIAN;
  let along = distance;
  let across = 0;
  switch (motion) {
    case 'circle':
      angle += TWO_PI * lingering(u, ease, 1);
      break;
    case 'ellipse': {
      const turn = TWO_PI * lingering(u, ease, 1);
      along = distance * cos(turn);
      across = size * sin(turn);
      break;
    }
    case 'eight': {
      const turn = TWO_PI * lingering(u, ease, 1);
      across = size * sin(turn);
      along += 0.5 * size * sin(2 * turn);
      break;
    }
    case 'line':
      across = size * (4 * Math.abs(lingering(u, ease, 2) - 0.5) - 1);
      break;
    case 'pendulum':
      angle += Math.min(TWO_PI / 2, size / distance) * cos(TWO_PI * lingering(u, ease, 2));
      break;
    case 'walk':
      across = size * wandered(WALK_SEEDS[0], round);
      along += size * wandered(WALK_SEEDS[1], round);
      break;
    case 'path': {
      const at = lingering(u, ease, 1);
      across = size * onRound(path.x, at);
      along += size * onRound(path.y, at);
      break;
    }
  }
  const [s, c] = [sin(angle), cos(angle)];
  const x = along * s + across * c;
  const y = along * c - across * s;
  out.x = course.mirror === 'none' ? x : -x;
  out.y = course.mirror === 'angle' ? -y : y;
  out.z = course.height;
  return out;
}
