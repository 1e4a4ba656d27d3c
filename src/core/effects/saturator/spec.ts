import { CURVE_NAMES, type CurveName } from '../../dsp/curves';
import { blendParameter, choice, defineEffect, group, number } from '../spec';

export const CURVE_IDS = CURVE_NAMES;
export const LOWEST_CUT_HZ = 10;
export const HIGHEST_CUT_HZ = 20000;

const NAMES: Record<CurveName, string> = {
  soft: 'Soft',
  hard: 'Hard',
  fold: 'Fold',
  asymmetric: 'Asymmetric',
  tape: 'Tape',
};

export const saturatorSpec = defineEffect({
  id: 'saturator',
  name: 'Saturator',
  family: 'tone',
  purpose: 'Adds harmonics by bending the waveform, from warmth to folding, without false tones from aliasing.',
  synonyms: 'distortion overdrive tape warmth clipper harmonics',
  picture: 'shape',
  suitsReturns: true,
  main: ['drive', 'curve', 'mix'],
  exaggerates: ['drive', 'mix'],
  parameters: [
    ...group('Drive', [
      number({
        id: 'drive',
        name: 'Drive',
        unit: 'dB',
        min: 0,
        max: 36,
        default: 9,
        scale: 'linear',
        help: 'How far into the curve the sound goes; a level of -12 dB keeps its loudness.',
      }),
      choice({
        id: 'curve',
        name: 'Curve',
        default: 'soft',
        choices: CURVE_IDS.map((id) => ({ id, name: NAMES[id] })),
        help: 'Soft and hard clip alike above and below, fold turns peaks over, asymmetric adds even harmonics, tape bends early and more in the highs.',
      }),
    ]),
    ...group('Tone', [
      number({
        id: 'lowCut',
        name: 'Low cut',
        unit: 'Hz',
        min: LOWEST_CUT_HZ,
        max: 2000,
        default: LOWEST_CUT_HZ,
        scale: 'log',
        help: 'Keeps lows out of the curve, 12 dB an octave; off at its lowest value.',
      }),
      number({
        id: 'highCut',
        name: 'High cut',
        unit: 'Hz',
        min: 500,
        max: HIGHEST_CUT_HZ,
        default: HIGHEST_CUT_HZ,
        scale: 'log',
        help: 'Takes away harmonics above after the curve, 12 dB an octave; off at its highest value.',
      }),
    ]),
    ...group('Output', [blendParameter()]),
  ],
  presets: [
    {
      id: 'warm-voice',
      name: 'A little warmth',
      purpose: 'On a voice',
      help: 'The voice thickens on loud words and is untouched on soft ones.',
      values: { drive: 6, curve: 'tape', mix: 60 },
    },
    {
      id: 'megaphone',
      name: 'Through a horn',
      purpose: 'On a voice',
      help: 'A hard, narrow announcement across the harbour.',
      values: { drive: 20, curve: 'hard', lowCut: 500, highCut: 3500 },
    },
    {
      id: 'pluck-wood',
      name: 'More wood',
      purpose: 'On plucked strings',
      values: { drive: 9, curve: 'asymmetric', highCut: 7000, mix: 70 },
    },
    { id: 'drum-weight', name: 'Weight', purpose: 'On drums', values: { drive: 12, curve: 'soft', mix: 60 } },
    {
      id: 'drum-crack',
      name: 'Crackle',
      purpose: 'On drums',
      values: { drive: 18, curve: 'hard', highCut: 9000, mix: 45 },
    },
    {
      id: 'dark-return',
      name: 'Dark repeats',
      purpose: 'On a return',
      values: { drive: 12, curve: 'tape', highCut: 3800 },
    },
    { id: 'glow', name: 'Glow', purpose: 'On the main output', values: { drive: 4, curve: 'tape', mix: 35 } },
    {
      id: 'turned-over',
      name: 'Folded over',
      purpose: 'Special effects',
      values: { drive: 22, curve: 'fold', highCut: 9000, mix: 70 },
    },
  ],
});
