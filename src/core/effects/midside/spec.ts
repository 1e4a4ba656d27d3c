import { choice, defineEffect, group, number, toggle, type Parameter } from '../spec';
import { MIDSIDE_PRESETS } from './presets';

/** Values of the cuts at which they are off. */
export const LOW_CUT_OFF = 20;
export const HIGH_CUT_OFF = 20000;

/** The four paths from middle and sides to middle and sides, in the order of their parameters. */
export const PATHS = [
  { id: 'midToMid', name: 'Mid to mid', from: 'mid', to: 'mid' },
  { id: 'sideToSide', name: 'Side to side', from: 'side', to: 'side' },
  { id: 'midToSide', name: 'Mid to side', from: 'mid', to: 'side' },
  { id: 'sideToMid', name: 'Side to mid', from: 'side', to: 'mid' },
] as const;
export type PathId = (typeof PATHS)[number]['id'];

const pathParameters = ({ id, name, from, to }: (typeof PATHS)[number]): Parameter[] =>
  group(`${name}, cuts`, [
    number({
      id: `${id}.gain`,
      name: from === to ? `${name.split(' ')[0]} level` : name,
      unit: 'dB',
      min: -100,
      max: 12,
      default: from === to ? 0 : -100,
      scale: 'level',
      silentAtMin: true,
      help: `How loud what comes in as ${from} goes out as ${to}.`,
    }),
    choice({
      id: `${id}.polarity`,
      name: 'Polarity',
      default: 'positive',
      choices: [
        { id: 'positive', name: 'Normal' },
        { id: 'negative', name: 'Inverted' },
      ],
      help: 'Inverted, a path between middle and sides swaps left and right.',
    }),
    number({
      id: `${id}.delay`,
      name: 'Delay',
      unit: 'ms',
      min: 0,
      max: 50,
      default: 0,
      scale: 'fine',
      help: 'Delays this path.',
    }),
    number({
      id: `${id}.lowCut`,
      name: 'Low cut',
      unit: 'Hz',
      min: LOW_CUT_OFF,
      max: 10000,
      default: LOW_CUT_OFF,
      scale: 'log',
      help: 'Takes what lies below out of this path; off at its lowest value.',
    }),
    number({
      id: `${id}.highCut`,
      name: 'High cut',
      unit: 'Hz',
      min: 100,
      max: HIGH_CUT_OFF,
      default: HIGH_CUT_OFF,
      scale: 'log',
      help: 'Takes what lies above out of this path; off at its highest value.',
    }),
    choice({
      id: `${id}.slope`,
      name: 'Slope',
      default: '12',
      choices: [
        { id: '6', name: '6 dB/oct' },
        { id: '12', name: '12 dB/oct' },
      ],
      help: 'How steeply both cuts fall.',
    }),
    number({
      id: `${id}.resonance`,
      needs: { id: `${id}.slope`, oneOf: ['12'] },
      name: 'Resonance',
      unit: '',
      min: 0.5,
      max: 10,
      default: 0.707,
      scale: 'log',
      help: 'How sharply both cuts speak at their frequency; 0.707 is smooth.',
    }),
    toggle({
      id: `${id}.solo`,
      name: 'Solo',
      default: false,
      help: 'Only soloed paths are heard.',
    }),
    toggle({
      id: `${id}.mute`,
      name: 'Mute',
      default: false,
      help: 'Silences this path.',
    }),
  ]);

const FORMATS = [
  { id: 'leftRight', name: 'Left, right' },
  { id: 'midSide', name: 'Mid, side' },
] as const;

export const midsideSpec = defineEffect({
  id: 'midside',
  name: 'Middle and sides',
  family: 'stereo',
  purpose: 'Four paths between middle and sides, each with level, delay and cuts: width and depth that survive mono.',
  synonyms: 'mid-side m/s ms widener stereo width imager',
  picture: 'response',
  main: ['midToMid.gain', 'sideToSide.gain', 'midToSide.gain', 'amount'],
  exaggerates: ['amount', 'sideToSide.gain', 'midToSide.gain'],
  parameters: [
    ...PATHS.flatMap(pathParameters),
    ...group('Whole', [
      number({
        id: 'amount',
        name: 'Amount',
        unit: '%',
        min: 0,
        max: 100,
        default: 100,
        scale: 'linear',
        help: 'Scales all of it: levels, delays and cuts, from nothing to what is set.',
      }),
      number({
        id: 'loop',
        name: 'Loop',
        unit: '%',
        min: 0,
        max: 95,
        default: 0,
        scale: 'linear',
        help: 'Feeds each cross path into the other one, so that echoes go round between middle and sides.',
      }),
      choice({
        id: 'inputFormat',
        name: 'Input',
        default: 'leftRight',
        choices: FORMATS,
        help: 'What the two input channels carry.',
      }),
      choice({
        id: 'outputFormat',
        name: 'Output',
        default: 'leftRight',
        choices: FORMATS,
        help: 'What the two output channels carry.',
      }),
      toggle({
        id: 'autoLevel',
        name: 'Match loudness',
        default: false,
        help: 'Follows the loudness of what comes in, slowly, so that wider is not just louder.',
      }),
      toggle({
        id: 'holdLevel',
        needs: { id: 'autoLevel', oneOf: [true] },
        name: 'Lock',
        default: false,
        help: 'Keeps that gain where it is now.',
      }),
    ]),
  ],
  presets: MIDSIDE_PRESETS,
});
