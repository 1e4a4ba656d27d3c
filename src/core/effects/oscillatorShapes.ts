import { LFO_SHAPES, type LfoShape } from '../dsp/lowFrequencyOscillator';

const NAMES: Record<(typeof LFO_SHAPES)[number], string> = {
  sine: 'Sine',
  triangle: 'Triangle',
  rampUp: 'Ramp up',
  rampDown: 'Ramp down',
  square: 'Square',
  steppedRandom: 'Random steps',
  smoothRandom: 'Random, smooth',
};

export const SHAPE_IDS: readonly ShapeId[] = LFO_SHAPES;
export type ShapeId = LfoShape;

/** The shapes of a low-frequency oscillator as the choices of a parameter, in the order of LFO_SHAPES. */
export const SHAPE_CHOICES = LFO_SHAPES.map((id) => ({ id, name: NAMES[id] }));
