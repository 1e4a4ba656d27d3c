import { smoothstep } from './smoothstep';

/** Shapes of a fade: smoothstep, linear, early (equal power with its opposite), late. */
export const FADE_SHAPES = ['smooth', 'straight', 'early', 'late'] as const;
export type FadeShape = (typeof FADE_SHAPES)[number];

/** Level of a fade, 0 to 1, at its part t, from 0 to 1. */
export function fadeLevel(shape: FadeShape, t: number): number {
  switch (shape) {
    case 'smooth':
      return smoothstep(t);
    case 'straight':
      return t;
    case 'early':
      return Math.sqrt(t);
    case 'late':
      return t * t;
  }
}
