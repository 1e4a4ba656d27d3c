import { keyOf, keyParameters } from '../keyInput';
import { blendParameter, choice, defineEffect, group, number, toggle } from '../spec';
import { GAIN_REDUCTION_METER } from '../meters';

/** From this ratio on the level above the threshold does not rise at all. */
export const INFINITE_RATIO = 100;
export const LONGEST_LOOKAHEAD_MS = 10;

export const compressorSpec = defineEffect({
  id: 'compressor',
  name: 'Compressor',
  family: 'level',
  purpose: 'Lowers what is loud, by its own level or by that of another track.',
  picture: 'levels',
  meters: [GAIN_REDUCTION_METER],
  main: ['threshold', 'ratio', 'attack', 'release'],
  exaggerates: ['ratio'],
  inputs: [keyOf('Key')],
  parameters: [
    ...group('Level', [
      number({
        id: 'threshold',
        name: 'Threshold',
        unit: 'dB',
        min: -60,
        max: 0,
        default: -18,
        scale: 'linear',
        help: 'Level of the key above which the sound is lowered.',
      }),
      number({
        id: 'ratio',
        name: 'Ratio',
        unit: ':1',
        min: 1,
        max: INFINITE_RATIO,
        default: 3,
        scale: 'log',
        infiniteAtMax: true,
        help: 'How many decibels over the threshold become one; at inf the level does not rise over it at all.',
      }),
      number({
        id: 'knee',
        name: 'Knee',
        unit: 'dB',
        min: 0,
        max: 24,
        default: 6,
        scale: 'linear',
        help: 'Width of the bend around the threshold.',
      }),
    ]),
    ...group('Time', [
      number({
        id: 'attack',
        name: 'Attack',
        unit: 'ms',
        min: 0.01,
        max: 500,
        default: 10,
        scale: 'log',
        help: 'Time in which 63 % of a new reduction, in decibels, is reached.',
      }),
      number({
        id: 'release',
        name: 'Release',
        unit: 'ms',
        min: 1,
        max: 5000,
        default: 120,
        scale: 'log',
        help: 'Time in which 63 % of a reduction, in decibels, is given back.',
      }),
      number({
        id: 'lookahead',
        name: 'Look-ahead',
        unit: 'ms',
        min: 0,
        max: LONGEST_LOOKAHEAD_MS,
        default: 0,
        scale: 'linear',
        help: 'How early the level begins to give way. The latency is that of the longest look-ahead, always.',
      }),
      choice({
        id: 'detector',
        name: 'Detector',
        default: 'peak',
        choices: [
          { id: 'peak', name: 'Peak' },
          { id: 'rms', name: 'RMS' },
        ],
        help: 'Peaks catch every hit; mean power over about 10 ms follows loudness.',
      }),
    ]),
    ...group('Output', [
      number({
        id: 'makeup',
        name: 'Make-up',
        unit: 'dB',
        min: -12,
        max: 24,
        default: 0,
        scale: 'linear',
        help: 'Level given back after the reduction.',
      }),
      toggle({
        id: 'autoMakeup',
        name: 'Auto make-up gain',
        default: false,
        help: 'Adds half of what a full-scale sound would lose.',
      }),
      blendParameter(),
    ]),
    ...keyParameters(),
  ],
  presets: [
    {
      id: 'even-voice',
      name: 'Even words',
      purpose: 'On a voice',
      help: 'Soft ends of phrases stay as near as their beginnings.',
      values: { threshold: -24, ratio: 3, attack: 8, release: 140, knee: 8, makeup: 4 },
    },
    {
      id: 'close-voice',
      name: 'Close and steady',
      purpose: 'On a voice',
      values: { threshold: -30, ratio: 5, attack: 2, release: 90, knee: 10, makeup: 8, detector: 'rms' },
    },
    {
      id: 'pluck',
      name: 'Longer plucks',
      purpose: 'On plucked strings',
      help: 'The pluck leans back and the ring after it comes up.',
      values: { threshold: -26, ratio: 4, attack: 25, release: 220, knee: 6, makeup: 5 },
    },
    {
      id: 'drum-snap',
      name: 'Let the hit through',
      purpose: 'On drums',
      values: { threshold: -22, ratio: 5, attack: 28, release: 80, knee: 3, makeup: 4 },
    },
    {
      id: 'beside',
      name: 'Dense, beside the dry',
      purpose: 'On drums',
      values: { threshold: -36, ratio: 10, attack: 1, release: 70, knee: 6, makeup: 12, mix: 40 },
    },
    {
      id: 'duck-repeats',
      name: 'Sink under the words',
      purpose: 'On a return, with a key',
      values: { threshold: -36, ratio: 8, attack: 4, release: 450, knee: 6 },
    },
    {
      id: 'duck-gently',
      name: 'Lean back a little',
      purpose: 'On a return, with a key',
      values: { threshold: -32, ratio: 2.5, attack: 15, release: 350, knee: 12 },
    },
    {
      id: 'glue',
      name: 'Hold it together',
      purpose: 'On the main output',
      values: { threshold: -16, ratio: 2, attack: 30, release: 250, knee: 10, detector: 'rms', makeup: 1.5 },
    },
  ],
});
