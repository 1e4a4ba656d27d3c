import { defineEffect, group, number, toggle } from '../spec';
import { REDUCTION } from '../readings';

export const deesserSpec = defineEffect({
  id: 'deesser',
  name: 'De-esser',
  purpose: 'Lowers esses while they are loud, so that reverbs and repeats behind it do not smear them.',
  picture: 'response',
  tells: [REDUCTION],
  main: ['frequency', 'threshold', 'amount'],
  exaggerates: ['amount'],
  parameters: [
    ...group('Esses', [
      number({
        id: 'frequency',
        name: 'Frequency',
        unit: 'Hz',
        min: 2000,
        max: 16000,
        default: 6500,
        scale: 'log',
        help: 'Middle of the band in which the esses lie.',
      }),
      number({
        id: 'width',
        name: 'Width',
        unit: 'octaves',
        min: 0.3,
        max: 3,
        default: 1.2,
        scale: 'linear',
        help: 'Width of that band.',
      }),
      toggle({
        id: 'listen',
        name: 'Listen to the band',
        default: false,
        help: 'Plays only the band that is watched, to find the esses.',
      }),
    ]),
    ...group('Level', [
      number({
        id: 'threshold',
        name: 'Threshold',
        unit: 'dB',
        min: -60,
        max: 0,
        default: -30,
        scale: 'linear',
        help: 'Level of the band above which it is lowered.',
      }),
      number({
        id: 'amount',
        name: 'Amount',
        unit: 'dB',
        min: 0,
        max: 24,
        default: 8,
        scale: 'linear',
        help: 'The most by which the band is lowered.',
      }),
    ]),
  ],
  presets: [
    { id: 'gentle', name: 'Just the sharpest', purpose: 'On a voice', values: { threshold: -26, amount: 5 } },
    { id: 'firm', name: 'Firmly', purpose: 'On a voice', values: { threshold: -34, amount: 12, width: 1.6 } },
    {
      id: 'low-voice',
      name: 'For a low voice',
      purpose: 'On a voice',
      values: { frequency: 5000, threshold: -30, amount: 8 },
    },
    {
      id: 'high-voice',
      name: 'For a high voice',
      purpose: 'On a voice',
      values: { frequency: 8000, threshold: -30, amount: 8 },
    },
    {
      id: 'before-reverb',
      name: 'Ahead of a reverb',
      purpose: 'On a return',
      values: { frequency: 6000, threshold: -42, amount: 18, width: 2 },
    },
    {
      id: 'before-echo',
      name: 'Ahead of repeats',
      purpose: 'On a return',
      values: { frequency: 6500, threshold: -40, amount: 12, width: 1.6 },
    },
    {
      id: 'nails',
      name: 'Soften nails',
      purpose: 'On plucked strings',
      values: { frequency: 4200, threshold: -34, amount: 6, width: 1 },
    },
    {
      id: 'tin',
      name: 'Tame the tin',
      purpose: 'On drums',
      values: { frequency: 9500, threshold: -30, amount: 7, width: 1.4 },
    },
  ],
});
