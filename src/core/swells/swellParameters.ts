import { choice, number, toggle, type Parameter, type ParameterValue } from '../effects/spec';
import { FADE_SHAPES } from '../math/fades';

const FADE_NAMES = { smooth: 'Smooth', straight: 'Straight', early: 'Early', late: 'Late' } as const;

/** The shape of a fade, as a choice. */
export const fadeChoice = (id: string, name: string, byDefault: (typeof FADE_SHAPES)[number]) =>
  choice({
    id,
    name,
    default: byDefault,
    choices: FADE_SHAPES.map((shape) => ({ id: shape, name: FADE_NAMES[shape] })),
    help: 'How the fade runs: with level ends, straight, loud early or loud late.',
  });

/** Parameters of a swell, besides its landing and its space. */
export const SWELL_PARAMETERS = [
  number({
    id: 'source',
    name: 'Fed by',
    unit: 's',
    min: 0.01,
    max: 60,
    default: 0.4,
    scale: 'log',
    sync: 'time',
    help: 'How much of the sound, from the landing on, is sent into the space.',
  }),
  toggle({
    id: 'ring',
    name: 'Whole tail',
    default: true,
    help: 'The swell takes as long as its space rings; off, it takes the length beside.',
  }),
  number({
    id: 'length',
    name: 'Length',
    unit: 's',
    min: 0.05,
    max: 60,
    default: '1bar',
    scale: 'log',
    sync: 'time',
    needs: { id: 'ring', not: true },
    help: 'How long before its landing the swell begins.',
  }),
  number({
    id: 'fadeIn',
    name: 'Fade in',
    unit: 's',
    min: 0,
    max: 60,
    default: 0.5,
    scale: 'fine',
    help: 'How long the swell takes to come out of silence.',
  }),
  fadeChoice('fadeShape', 'Fade shape', 'late'),
  number({
    id: 'gap',
    name: 'Gap',
    unit: 'ms',
    min: 0,
    max: 2000,
    default: 0,
    scale: 'fine',
    help: 'Silence between the end of the swell and its landing.',
  }),
  number({
    id: 'level',
    name: 'Level',
    unit: 'dB',
    min: -60,
    max: 24,
    default: 6,
    scale: 'level',
    help: 'How loud the swell is.',
  }),
  number({
    id: 'tone',
    name: 'Tone',
    unit: 'dB/octave',
    min: -3,
    max: 3,
    default: 0,
    scale: 'linear',
    help: 'Tilts the swell about 1 kHz: below zero darker, above brighter.',
  }),
  number({
    id: 'width',
    name: 'Width',
    unit: '%',
    min: 0,
    max: 200,
    default: 100,
    scale: 'linear',
    help: 'How far it spreads: 0 is mono.',
  }),
  toggle({
    id: 'over',
    name: 'Under the words too',
    default: false,
    help: 'What the reversed space makes of the rest goes on under the words instead of ending at the landing.',
  }),
] as const satisfies readonly Parameter[];

export type SwellParameterId = (typeof SWELL_PARAMETERS)[number]['id'];

/** All values of a swell. */
export function swellValues(
  values: Readonly<Record<string, ParameterValue>>,
): Record<SwellParameterId, ParameterValue> {
  return Object.fromEntries(
    SWELL_PARAMETERS.map(({ id, default: byDefault }) => [id, values[id] ?? byDefault]),
  ) as Record<SwellParameterId, ParameterValue>;
}
