import { SOUND_SPEED } from './airAbsorption';
import { HALF_PI } from '../math/circle';
import { atan2, cos } from '../math/elementary';

/** Radius of the head, in metres. */
export const HEAD_RADIUS = 0.0875;
/** The time sound takes for one radius, in seconds. */
export const RADIUS_SECONDS = HEAD_RADIUS / SOUND_SPEED;
/** Corner of the shadow: sounds much lower go round the head as if it were not there. */
export const SHADOW_HZ = 1 / (Math.PI * RADIUS_SECONDS);

const LEAST_ALPHA = 0.1;
const DARKEST = (150 * Math.PI) / 180;

/** The angle between the axis of an ear and a direction, from its cosine. */
const angleOf = (cosine: number) => atan2(Math.sqrt(Math.max(0, 1 - cosine * cosine)), cosine);

/**
 * Time by which sound reaches an ear of a rigid sphere later than it would reach its middle (Woodworth, "Experimental
 * Psychology", 1938): straight to the near side, along the surface to the far one.
 * @param cosine of the angle between the axis of the ear and the direction of the sound, -1 to 1
 * @returns seconds, from -1 to 1.571 times the time for one radius
 */
export function earDelaySeconds(cosine: number): number {
  return RADIUS_SECONDS * (cosine > 0 ? -cosine : angleOf(cosine) - HALF_PI);
}

/**
 * High-frequency gain at an ear, as an amplitude factor: 2 at the near side, least in the darkest direction, 150 degrees
 * from the ear (Brown and Duda, "A structural model for binaural sound synthesis", IEEE Trans.
 * Speech Audio Process. 6, 1998, eq. 4). The response of the ear is `(1 + j alpha f / F) / (1 + j f / F)`, F being
 * `SHADOW_HZ`.
 * @param cosine as in `earDelaySeconds`
 */
export function shadowAlpha(cosine: number): number {
  return 1 + LEAST_ALPHA / 2 + (1 - LEAST_ALPHA / 2) * cos((angleOf(cosine) / DARKEST) * Math.PI);
}

/** Frequency ratio at which the shadow filter adds no delay. */
const TIMELY = 4000 / SHADOW_HZ;

/**
 * Time by which a shadow delays what it leaves at 4 kHz. Taken off the delay of an ear, times between the ears are
 * those of Woodworth within 5 % from 2 kHz up; below 500 Hz, where the shadows still add theirs, they are longer by up
 * to a half, as those of a sphere are (Kuhn, "Model for the interaural time differences in the azimuthal plane", 1977).
 * @returns seconds
 */
export function shadowDelaySeconds(alpha: number): number {
  const square = TIMELY * TIMELY;
  return (RADIUS_SECONDS / 2) * (1 / (1 + square) - alpha / (1 + alpha * alpha * square));
}

/** Echoes of the outer ear: level, and coefficients of their delay in samples at 44.1 kHz. */
export const PINNA = [
  { level: 0.5, swing: 1, base: 2, pace: 1 },
  { level: -1, swing: 5, base: 4, pace: 0.5 },
  { level: 0.5, swing: 5, base: 7, pace: 0.5 },
  { level: -0.25, swing: 5, base: 11, pace: 0.5 },
  { level: 0.25, swing: 5, base: 13, pace: 0.5 },
] as const;
/** Level of the echo of the shoulder. */
export const SHOULDER_LEVEL = 0.15;

/**
 * Delay of an echo of the outer ear behind the sound itself (Brown and Duda 1998, eq. 5 and table I). It is the same
 * at both ears, so that it leaves the differences between them alone, and tells front, above and behind apart.
 * @param lateral angle out of the plane in the middle of the head, -pi/2 to pi/2
 * @param elevation angle in that plane, -pi/2 to 3/2 pi: 0 ahead, pi/2 above, pi behind
 * @returns seconds; 0 where the table, made for what is above, would give less
 */
export function pinnaDelay({ swing, base, pace }: (typeof PINNA)[number], lateral: number, elevation: number): number {
  const rise = cos(HALF_PI - pace * (HALF_PI - elevation));
  return Math.max(0, swing * cos(lateral / 2) * rise + base) / 44100;
}

/**
 * Delay of the echo of the shoulder (Brown and Duda 1998, section III-D), in the plane in the middle of the head.
 * @param elevation as in `pinnaDelay`
 * @returns seconds
 */
export function shoulderDelay(elevation: number): number {
  const off = (elevation * 180) / Math.PI - 80;
  return 0.0012 * Math.max(0, 1 - 0.00004 * off * off);
}
