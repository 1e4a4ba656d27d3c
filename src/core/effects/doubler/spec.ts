import { choice, defineEffect, group, mixParameter, number, widthParameter } from '../spec';
import { delayMeters } from '../meters';

export const MOST_COPIES = 4;
/** The value of `lowMono` at which everything is widened. */
export const LOW_MONO_OFF = 20;
export const SHORTEST_MS = 1;
export const LONGEST_MS = 60;

export const doublerSpec = defineEffect({
  id: 'doubler',
  name: 'Doubler',
  family: 'stereo',
  purpose: 'Makes two of one: a late copy on the other side, or copies around it that never stay quite in step.',
  synonyms: 'doubling adt widener haas double tracking',
  picture: 'delays',
  meters: [delayMeters(MOST_COPIES)],
  main: ['time', 'width', 'drift', 'mix'],
  exaggerates: ['drift', 'detune', 'width'],
  parameters: [
    ...group('Copies', [
      choice({
        id: 'mode',
        name: 'Type',
        default: 'split',
        choices: [
          { id: 'split', name: 'Split left and right' },
          { id: 'copies', name: 'Copies around it' },
        ],
        help: 'Split puts the sound on one side and a late copy on the other; copies move around the sound as it is.',
      }),
      choice({
        id: 'voices',
        needs: { id: 'mode', oneOf: ['copies'] },
        name: 'Copies',
        default: '2',
        choices: [
          { id: '1', name: '1' },
          { id: '2', name: '2' },
          { id: '3', name: '3' },
          { id: '4', name: '4' },
        ],
        help: 'How many there are, each with a drift of its own.',
      }),
      choice({
        id: 'side',
        name: 'Copy on',
        default: 'right',
        choices: [
          { id: 'left', name: 'Left' },
          { id: 'right', name: 'Right' },
        ],
        help: 'The side of the copy of a split, and of the first of several copies.',
      }),
      number({
        id: 'time',
        name: 'Time',
        unit: 'ms',
        min: SHORTEST_MS,
        max: LONGEST_MS,
        default: 18,
        scale: 'log',
        help: 'How late a copy is; several stand apart around it.',
      }),
    ]),
    ...group('Drift', [
      number({
        id: 'drift',
        name: 'Drift',
        unit: '%',
        min: 0,
        max: 100,
        default: 30,
        scale: 'linear',
        help: 'How far each copy wanders in time, by up to half of its own time, and in level, by up to 2 dB.',
      }),
      number({
        id: 'detune',
        name: 'Detune',
        unit: 'cents',
        min: 0,
        max: 50,
        default: 8,
        scale: 'fine',
        help: 'By how much a copy is out of tune at most while it wanders: faster with more. At 0 it stands still.',
      }),
    ]),
    ...group('Field', [
      widthParameter('How far the sound and its copies are moved apart.'),
      number({
        id: 'lowMono',
        name: 'Keep lows mono below',
        unit: 'Hz',
        min: LOW_MONO_OFF,
        max: 800,
        default: LOW_MONO_OFF,
        scale: 'log',
        help: 'Nothing below this is widened or doubled, 12 dB an octave; off at its lowest value.',
      }),
      number({
        id: 'midScoop',
        name: 'Presence dip',
        unit: 'dB',
        min: 0,
        max: 12,
        default: 0,
        scale: 'linear',
        help: 'Lowers the middle around 2.5 kHz, where another voice may stand.',
      }),
      {
        ...mixParameter(50),
        help: 'At 50 % the sound and its copies are both whole; at 100 % the copies alone, at 0 % the sound as it was.',
      },
    ]),
  ],
  presets: [
    {
      id: 'split-strings',
      name: 'Plucked, on both sides',
      purpose: 'On plucked strings',
      help: 'One guitar fills the sides; fold it to mono and listen to what the fold takes.',
      values: { time: 14, drift: 0, detune: 0, lowMono: 140 },
    },
    {
      id: 'two-takes',
      name: 'As if sung twice',
      synonyms: 'doubling double tracking',
      purpose: 'On a voice',
      help: 'Two more singers, one on each side, never quite in step with the first.',
      values: { mode: 'copies', voices: '2', time: 24, drift: 45, detune: 12, lowMono: 180, mix: 42 },
    },
    {
      id: 'four-behind',
      name: 'Four behind one',
      purpose: 'On a voice',
      values: { mode: 'copies', voices: '4', time: 32, drift: 60, detune: 15, lowMono: 220, mix: 44, midScoop: 3 },
    },
    {
      id: 'just-apart',
      name: 'Just apart',
      purpose: 'On a pad',
      values: { time: 9, drift: 25, detune: 4, width: 60 },
    },
    {
      id: 'wide-return',
      name: 'The late one alone',
      purpose: 'On a return',
      values: { time: 22, drift: 20, detune: 5, mix: 100, lowMono: 160 },
    },
    {
      id: 'bass-edges',
      name: 'Edges of a bass',
      purpose: 'On a bass',
      values: { time: 11, drift: 15, detune: 3, lowMono: 300, width: 80 },
    },
    {
      id: 'answering-wall',
      name: 'Answered from a wall',
      purpose: 'Special effects',
      values: { time: 55, drift: 10, detune: 6, mix: 46 },
    },
    {
      id: 'crowd-of-tin',
      name: 'Crowd of tin',
      purpose: 'On percussion',
      values: { mode: 'copies', voices: '4', time: 40, drift: 90, detune: 35, lowMono: 250 },
    },
  ],
});
