import { defineEffect, group, number, toggle } from '../spec';

export const utilitySpec = defineEffect({
  id: 'utility',
  name: 'Utility',
  family: 'tools',
  purpose: 'Level, polarity, sides, mono, a delay in samples and a low cut: the small repairs.',
  synonyms: 'gain phase polarity mono swap trim',
  picture: 'response',
  main: ['gain', 'lowCut', 'mono'],
  parameters: [
    ...group('Level', [
      number({
        id: 'gain',
        name: 'Gain',
        unit: 'dB',
        min: -100,
        max: 24,
        default: 0,
        scale: 'level',
        silentAtMin: true,
        help: 'Makes everything louder or softer.',
      }),
    ]),
    ...group('Sides', [
      toggle({ id: 'polarityLeft', name: 'Flip left', default: false, help: 'Turns the left channel upside down.' }),
      toggle({ id: 'polarityRight', name: 'Flip right', default: false, help: 'Turns the right channel upside down.' }),
      toggle({ id: 'swap', name: 'Swap sides', default: false, help: 'Left and right change places.' }),
      toggle({ id: 'mono', name: 'Mono', default: false, help: 'Both sides carry the mean of left and right.' }),
    ]),
    ...group('Repair', [
      number({
        id: 'delaySamples',
        name: 'Delay',
        unit: 'frames',
        min: 0,
        max: 4800,
        default: 0,
        scale: 'linear',
        help: 'Holds the sound back by whole samples, to line it up with another.',
      }),
      number({
        id: 'lowCut',
        name: 'Low cut',
        unit: 'Hz',
        min: 10,
        max: 1000,
        default: 10,
        scale: 'log',
        help: 'Removes rumble below this frequency, 12 dB an octave; off at its lowest value.',
      }),
    ]),
  ],
  presets: [
    {
      id: 'rumble-out',
      name: 'Rumble out',
      purpose: 'On a voice',
      help: 'Steps on the floor go, the voice stays whole.',
      values: { lowCut: 90 },
    },
    {
      id: 'to-mono',
      name: 'Fold to mono',
      purpose: 'Checks',
      help: 'What vanishes here vanishes on one small speaker.',
      values: { mono: true },
    },
    { id: 'side-check', name: 'Sides swapped', purpose: 'Checks', values: { swap: true } },
  ],
});
