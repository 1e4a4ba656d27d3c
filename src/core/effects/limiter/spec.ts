import { defineEffect, group, number } from '../spec';
import { GAIN_REDUCTION_METER } from '../meters';

export const limiterSpec = defineEffect({
  id: 'limiter',
  name: 'Limiter',
  family: 'level',
  purpose: 'Keeps every peak, also those between samples, under a ceiling.',
  synonyms: 'brickwall maximizer ceiling clipper',
  picture: 'levels',
  meters: [GAIN_REDUCTION_METER],
  main: ['gain', 'ceiling', 'release'],
  exaggerates: ['gain'],
  parameters: [
    ...group('Level', [
      number({
        id: 'gain',
        name: 'Gain',
        unit: 'dB',
        min: -12,
        max: 24,
        default: 0,
        scale: 'linear',
        help: 'Drives the sound into the ceiling.',
      }),
      number({
        id: 'ceiling',
        name: 'Ceiling',
        unit: 'dB',
        min: -24,
        max: 0,
        default: -1,
        scale: 'linear',
        help: 'The true peak that is not passed, within 0.1 dB on a meter. Long bursts close to half the sample rate can pass it by more: no meter hears them whole.',
      }),
    ]),
    ...group('Time', [
      number({
        id: 'release',
        name: 'Release',
        unit: 'ms',
        min: 1,
        max: 2000,
        default: 120,
        scale: 'log',
        help: 'Time in which 63 % of a reduction, in decibels, is given back.',
      }),
      number({
        id: 'lookahead',
        name: 'Look-ahead',
        unit: 'ms',
        min: 0.5,
        max: 10,
        default: 4,
        scale: 'log',
        help: 'How early the level begins to give way. The latency is that of the longest look-ahead, always.',
      }),
    ]),
  ],
  presets: [
    { id: 'safety', name: 'Safety net', purpose: 'On the main output', values: { ceiling: -1, release: 120 } },
    {
      id: 'louder',
      name: 'Six louder',
      purpose: 'On the main output',
      help: 'Compare at equal loudness what is left of the hits.',
      values: { gain: 6, ceiling: -1, release: 200 },
    },
    {
      id: 'catch',
      name: 'Catch the hits',
      purpose: 'On drums',
      help: 'The highest hits lose their top and nothing else moves.',
      values: { ceiling: -6, release: 40, lookahead: 1.5 },
    },
  ],
});
