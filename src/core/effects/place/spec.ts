import { choice, defineEffect, group, number, type EffectSpec, type Parameter } from '../spec';
import type { MeterSpec } from '../meters';
import type { PathSetting } from '../settings';

export const NEAREST = 0.3;
export const FARTHEST = 50;
/** Current position in metres: right, ahead, up. */
const POSITION: MeterSpec = { kind: 'position', name: 'Where it stands', count: 3 };

const moves = { id: 'motion', not: 'none' } as const;

/** Parameters of position and motion, which a thing that mirrors another takes over. */
export const COURSE = [
  'azimuth',
  'distance',
  'height',
  'motion',
  'motionRate',
  'motionPhase',
  'motionDirection',
  'motionSize',
  'motionEase',
] as const;

const where: readonly Parameter[] = [
  number({
    id: 'azimuth',
    name: 'Azimuth',
    unit: 'degrees',
    min: -180,
    max: 180,
    default: 0,
    scale: 'linear',
    help: 'Direction seen from above: 0 is ahead, 90 to the right, -90 to the left, 180 behind.',
  }),
  number({
    id: 'distance',
    name: 'Distance',
    unit: 'm',
    min: NEAREST,
    max: FARTHEST,
    default: 1,
    scale: 'log',
    help: 'How far away it stands; at 1 m it has its own level.',
  }),
  number({
    id: 'height',
    name: 'Height',
    unit: 'm',
    min: -10,
    max: 10,
    default: 0,
    scale: 'linear',
    help: 'Over the ears, or under them.',
  }),
  number({
    id: 'size',
    name: 'Size',
    unit: 'm',
    min: 0,
    max: 20,
    default: 0,
    scale: 'fine',
    help: 'How wide the thing itself is: 0 is a point. A stereo sound has its sides at its ends; a mono one is spread without changing its mono sum.',
  }),
  number({
    id: 'spread',
    name: 'Spread',
    unit: '%',
    min: 0,
    max: 100,
    default: 100,
    scale: 'linear',
    needs: { id: 'size', not: 0 },
    help: 'How much both ends of a thing with a size differ in what they have in common.',
  }),
];

const motion: readonly Parameter[] = [
  choice({
    id: 'motion',
    name: 'Motion',
    default: 'none',
    choices: [
      { id: 'none', name: 'Still' },
      { id: 'circle', name: 'Circle' },
      { id: 'ellipse', name: 'Ellipse' },
      { id: 'eight', name: 'Figure of eight' },
      { id: 'line', name: 'Line' },
      { id: 'pendulum', name: 'Pendulum' },
      { id: 'walk', name: 'Random walk' },
      { id: 'path', name: 'Drawn path' },
    ],
    help: 'What it moves along: circle and ellipse go round the listener, the others around where it stands.',
  }),
  number({
    id: 'motionRate',
    name: 'Rate',
    unit: 'Hz',
    min: 0.01,
    max: 5,
    default: '2bar',
    scale: 'log',
    sync: 'rate',
    needs: moves,
    help: 'Rounds a second, or one round for each note value.',
  }),
  number({
    id: 'motionPhase',
    name: 'Phase',
    unit: 'degrees',
    min: 0,
    max: 360,
    default: 0,
    scale: 'linear',
    needs: moves,
    help: 'Where in its round it is when the session begins.',
  }),
  choice({
    id: 'motionDirection',
    name: 'Direction',
    default: 'forwards',
    choices: [
      { id: 'forwards', name: 'Clockwise' },
      { id: 'backwards', name: 'Counter-clockwise' },
    ],
    needs: moves,
    help: 'Direction of its round, seen from above.',
  }),
  number({
    id: 'motionSize',
    name: 'Reach',
    unit: 'm',
    min: 0.1,
    max: 20,
    default: 2,
    scale: 'log',
    needs: { id: 'motion', oneOf: ['ellipse', 'eight', 'line', 'pendulum', 'walk', 'path'] },
    help: 'How far it goes to either side of where it stands; of an ellipse, its half width.',
  }),
  number({
    id: 'motionEase',
    name: 'Ease',
    unit: '%',
    min: 0,
    max: 100,
    default: 0,
    scale: 'linear',
    needs: { id: 'motion', oneOf: ['circle', 'ellipse', 'eight', 'line', 'pendulum', 'path'] },
    help: 'How long it lingers where its round begins; of a line and a pendulum, at both ends.',
  }),
  choice({
    id: 'mirror',
    name: 'Mirror',
    default: 'none',
    choices: [
      { id: 'none', name: 'Off' },
      { id: 'angle', name: 'Opposite' },
      { id: 'side', name: 'Left to right' },
    ],
    help: 'Mirrors position and motion: to the opposite angle, or from left to right.',
  }),
];

const air: readonly Parameter[] = [
  number({
    id: 'distanceLevel',
    name: 'Distance loss',
    unit: '%',
    min: 0,
    max: 100,
    default: 100,
    scale: 'linear',
    help: 'How much of the loss with distance is heard: 6 dB for each doubling at 100 %. Sends keep their level.',
  }),
  number({
    id: 'levelFloor',
    name: 'Floor',
    unit: 'dB',
    min: -60,
    max: 0,
    default: -30,
    scale: 'linear',
    needs: { id: 'distanceLevel', not: 0 },
    help: 'The lowest level that distance brings it to.',
  }),
  number({
    id: 'air',
    name: 'Air',
    unit: '%',
    min: 0,
    max: 400,
    default: 100,
    scale: 'linear',
    help: 'How much of the highs is lost on the way, beside air of 20 degrees and 50 % humidity.',
  }),
  number({
    id: 'doppler',
    name: 'Doppler',
    unit: '%',
    min: 0,
    max: 200,
    default: 0,
    scale: 'linear',
    help: 'How much of the time on the way is heard: at 100 % a thing 10 m off comes 29 ms late, and pitch follows movement.',
  }),
];

const rendering: readonly Parameter[] = [
  choice({
    id: 'render',
    name: 'Heard through',
    default: 'speakers',
    choices: [
      { id: 'speakers', name: 'Speakers' },
      { id: 'binaural', name: 'Headphones' },
    ],
    help: 'Levels of two speakers, or what reaches both ears around a head.',
  }),
  choice({
    id: 'law',
    name: 'Pan law',
    default: '3',
    choices: [
      { id: '3', name: '-3 dB' },
      { id: '4.5', name: '-4.5 dB' },
      { id: '6', name: '-6 dB' },
    ],
    needs: { id: 'render', oneOf: ['speakers'] },
    help: 'Level of the centre beside that of one side alone.',
  }),
  number({
    id: 'ears',
    name: 'Outer ears',
    unit: '%',
    min: 0,
    max: 100,
    default: 50,
    scale: 'linear',
    needs: { id: 'render', oneOf: ['binaural'] },
    help: 'How much is heard of the echoes of outer ears and shoulders, which tell ahead, above and behind apart and colour the sound.',
  }),
];

const path: PathSetting = {
  kind: 'path',
  id: 'path',
  name: 'Path',
  group: 'Motion',
  most: 64,
  default: '0:1 0.9:0.3 0.6:-0.8 -0.6:-0.8 -0.9:0.3',
  needs: { id: 'motion', oneOf: ['path'] },
  help: 'Points of its round as parts of its reach, to the right and away from the listener; drawn on the stage.',
};

export const placeSpec: EffectSpec = defineEffect({
  id: 'place',
  name: 'Place',
  family: 'movement',
  purpose: 'Puts the sound somewhere around the listener, near or far, and moves it there.',
  synonyms: 'binaural 3d spatial panner surround ambisonics orbit',
  picture: 'motion',
  meters: [POSITION],
  cyclesHz: (figure) => (figure('motion') === 0 ? null : figure('motionRate')),
  main: ['azimuth', 'distance', 'motion', 'size'],
  exaggerates: ['motionSize', 'doppler'],
  settings: [path],
  parameters: [
    ...group('Where', where),
    ...group('Motion', motion),
    ...group('Air', air),
    ...group('Listening', rendering),
  ],
  presets: [
    {
      id: 'at-the-window',
      name: 'At the window',
      purpose: 'On a voice',
      help: 'A voice a little to the right and a few steps away; send it to a room to hear how far.',
      values: { azimuth: 35, distance: 3, render: 'binaural' },
    },
    {
      id: 'round-the-head',
      name: 'Round the head',
      purpose: 'On a pad',
      help: 'One round in four bars, level all the way; on headphones it goes behind you.',
      values: { motion: 'circle', motionRate: '4bar', distance: 1.5, distanceLevel: 0, size: 1, render: 'binaural' },
    },
    {
      id: 'across-the-water',
      name: 'Across the water',
      purpose: 'On an effect',
      values: { azimuth: 10, distance: 30, air: 250, distanceLevel: 20 },
    },
    {
      id: 'passing-boat',
      name: 'Passing boat',
      purpose: 'On an effect',
      help: 'It comes near, passes, and falls in pitch as it goes.',
      values: { motion: 'line', motionRate: 0.1, motionSize: 15, distance: 2.5, distanceLevel: 35, doppler: 100 },
    },
    {
      id: 'swinging-lamp',
      name: 'Swinging lamp',
      purpose: 'On plucked strings',
      values: { motion: 'pendulum', motionRate: '1bar', motionSize: 1.2, distance: 1.5, distanceLevel: 0 },
    },
    {
      id: 'gull',
      name: 'Gull overhead',
      purpose: 'On an effect',
      values: {
        motion: 'eight',
        motionSize: 6,
        height: 5,
        distance: 4,
        motionRate: 0.12,
        distanceLevel: 60,
        doppler: 60,
        render: 'binaural',
      },
    },
    {
      id: 'restless',
      name: 'Never still',
      purpose: 'On percussion',
      values: { motion: 'walk', motionRate: 0.6, motionSize: 1.5, distance: 2, distanceLevel: 40 },
    },
  ],
});
