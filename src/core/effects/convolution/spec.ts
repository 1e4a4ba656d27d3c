import { defineEffect, group, mixParameter, number, toggle } from '../spec';
import { wetToneParameters } from '../wetTone';
import { SHIPPED_IMPULSES } from './impulses/shipped';
import { LONGEST_SECONDS } from './impulses/simulator';
import { CONVOLUTION_PRESETS } from './presets';

const part = (id: string, name: string, help: string) =>
  number({ id, name, unit: '%', min: 10, max: 200, default: 100, scale: 'log', help });
/** Parameters that are worked into the impulse ahead. */
export const EDITS = [
  'start',
  'end',
  'fadeIn',
  'fadeOut',
  'reverse',
  'stretch',
  'decay',
  'lowDecay',
  'highDecay',
] as const;

/** Parameters that move while sound runs. */
export const MOVES = [
  'preDelay',
  'wetLow',
  'wetLowFrequency',
  'wetMid',
  'wetMidFrequency',
  'wetHigh',
  'wetHighFrequency',
  'width',
  'gain',
  'mix',
] as const;

export const convolutionSpec = defineEffect({
  id: 'convolution',
  name: 'Convolution',
  family: 'space',
  purpose: 'Plays a sound through a recorded or simulated place or thing: its impulse response.',
  synonyms: 'impulse response ir real spaces cabinet',
  picture: 'echogram',
  main: ['preDelay', 'decay', 'gain', 'mix'],
  suitsReturns: true,
  exaggerates: ['mix'],
  prepares: { from: EDITS },
  settings: [
    {
      kind: 'sound',
      id: 'impulse',
      name: 'Impulse',
      group: 'Impulse',
      help: 'The place or thing whose answer to a click every sound is played through.',
      shipped: SHIPPED_IMPULSES.map(({ id, name }) => ({ id, name })),
      longestSeconds: LONGEST_SECONDS,
      default: 'rehearsal',
    },
  ],
  parameters: [
    ...group('Impulse', [
      number({
        id: 'preDelay',
        name: 'Pre-delay',
        unit: 'ms',
        min: 0,
        max: 500,
        default: 0,
        scale: 'fine',
        sync: 'time',
        help: 'The space answers so much later.',
      }),
      number({
        id: 'start',
        name: 'Start',
        unit: 'ms',
        min: 0,
        max: 2000,
        default: 0,
        scale: 'fine',
        help: 'Leaves out the beginning of the impulse, for what comes after the first reflections alone.',
      }),
      number({
        id: 'end',
        name: 'End',
        unit: '%',
        min: 1,
        max: 100,
        default: 100,
        scale: 'linear',
        help: 'How much of the impulse is used.',
      }),
      number({
        id: 'fadeIn',
        name: 'Fade in',
        unit: 'ms',
        min: 0,
        max: 2000,
        default: 0,
        scale: 'fine',
        help: 'Lets the space come in slowly.',
      }),
      number({
        id: 'fadeOut',
        name: 'Fade out',
        unit: 'ms',
        min: 0,
        max: 5000,
        default: 10,
        scale: 'fine',
        help: 'How slowly what is left at the end goes.',
      }),
      toggle({
        id: 'reverse',
        name: 'Backwards',
        default: false,
        help: 'Plays the impulse from its end to its beginning.',
      }),
      number({
        id: 'stretch',
        name: 'Stretch',
        unit: '%',
        min: 50,
        max: 200,
        default: 100,
        scale: 'linear',
        help: 'Makes the place larger and darker, or smaller and brighter, as a slower or faster tape does.',
      }),
    ]),
    ...group('Decay', [
      part('decay', 'Decay', 'How long it rings, as a part of how long the impulse does.'),
      part('lowDecay', 'Decay of lows', 'The same below 250 Hz.'),
      part('highDecay', 'Decay of highs', 'The same above 3 kHz.'),
    ]),
    ...group('Output tone', [
      ...wetToneParameters('space'),
      number({
        id: 'gain',
        name: 'Gain',
        unit: 'dB',
        min: -24,
        max: 24,
        default: 0,
        scale: 'level',
        help: 'Level of the space; every impulse is as loud as any other to begin with.',
      }),
      mixParameter(30),
    ]),
  ],
  presets: CONVOLUTION_PRESETS,
});
