import type { EffectId } from '../effects/registry';
import type { ParameterValues } from '../effects/values';

/** A kind of place or thing that sound is listened to in. */
export interface ListeningPlace {
  readonly id: string;
  readonly name: string;
  readonly about: string;
  /** Losses of the place, in words. */
  readonly takes: readonly string[];
  /** Frequencies below and above which it is 10 dB or more under its mid band; 0 for none. */
  readonly belowHz: number;
  readonly aboveHz: number;
  /** Length of its impulse, in seconds. */
  readonly seconds: number;
  readonly chain: readonly (readonly [effect: EffectId, values: ParameterValues])[];
}

const band = (n: number, values: ParameterValues) =>
  Object.fromEntries(Object.entries({ on: true, ...values }).map(([id, value]) => [`bands.${n}.${id}`, value]));
const bands = (...all: ParameterValues[]): ParameterValues =>
  Object.assign({}, ...[1, 2, 3, 4, 5, 6, 7, 8].map((n) => band(n, all[n - 1] ?? { on: false }))) as ParameterValues;
const MONO = ['utility', { mono: true }] as const;
/** Two speakers at 30 degrees to either side, around a head. */
const SPEAKERS_AROUND = {
  ...{ render: 'binaural', distance: 1, size: 1.155, spread: 0, distanceLevel: 0, air: 0, ears: 0 },
} as const;

/** All listening places, in the order of their keys. The first leaves everything as it is. */
export const LISTENING_PLACES: readonly ListeningPlace[] = [
  {
    id: 'plain',
    name: 'Plain',
    about: 'As it is bounced.',
    takes: [],
    ...{ belowHz: 0, aboveHz: 0, seconds: 0 },
    chain: [],
  },
  {
    id: 'mono',
    name: 'Mono',
    about: 'Both sides added: one speaker, or a room where nobody sits in the middle.',
    takes: ['whatever differs between left and right'],
    ...{ belowHz: 0, aboveHz: 0, seconds: 0.01 },
    chain: [MONO],
  },
  {
    id: 'phone',
    name: 'Phone',
    about: 'A telephone lying on a table: one cone of a thumb’s width.',
    takes: ['the lows, below 300 Hz', 'the top, above 6 kHz', 'the sides'],
    ...{ belowHz: 300, aboveHz: 6000, seconds: 0.25 },
    chain: [MONO, ['convolution', { impulse: 'speaker-telephone', mix: 100 }]],
  },
  {
    id: 'laptop',
    name: 'Laptop',
    about: 'Two flat cones close together under a keyboard.',
    takes: ['the lows, below 150 Hz', 'half of the width'],
    ...{ belowHz: 150, aboveHz: 0, seconds: 0.1 },
    chain: [
      [
        'eq',
        bands(
          { type: 'lowCut', frequency: 230, slope: '24' },
          { type: 'bell', frequency: 480, gain: 3, q: 2.5 },
          { type: 'bell', frequency: 1100, gain: -3.5, q: 2 },
          { type: 'bell', frequency: 3200, gain: 4, q: 1.6 },
          { type: 'bell', frequency: 6800, gain: -4, q: 3 },
          { type: 'highCut', frequency: 15000, slope: '12' },
        ),
      ],
      ['midside', { 'sideToSide.gain': -6 }],
    ],
  },
  {
    id: 'radio',
    name: 'Small radio',
    about: 'A kitchen radio: one cone in a little box that booms.',
    takes: ['the lows, below 150 Hz', 'the top, above 8 kHz', 'the sides'],
    ...{ belowHz: 150, aboveHz: 8000, seconds: 0.25 },
    chain: [MONO, ['convolution', { impulse: 'speaker-radio', mix: 100 }]],
  },
  {
    id: 'car',
    name: 'Car',
    about: 'The driver’s seat: doors and glass close by, boom below, and one side nearer.',
    takes: ['detail, under the early echoes of the cabin', 'the middle, which leans to the nearer door'],
    ...{ belowHz: 0, aboveHz: 0, seconds: 0.3 },
    chain: [
      ['convolution', { impulse: 'cabin', mix: 34 }],
      [
        'eq',
        bands(
          { type: 'bell', frequency: 62, gain: 7, q: 1.1 },
          { type: 'bell', frequency: 170, gain: 3, q: 2 },
          { type: 'bell', frequency: 420, gain: -3, q: 1.4 },
          { type: 'highShelf', frequency: 6000, gain: -4, q: 0.7 },
        ),
      ],
      ['eq', bands({ type: 'highShelf', frequency: 2500, gain: -3, q: 0.7, channel: 'right' })],
    ],
  },
  {
    id: 'headphones',
    name: 'Speakers on headphones',
    about: 'Two speakers ahead, brought to headphones: either ear hears both, the far one later and duller.',
    takes: ['sounds that are on one ear alone'],
    ...{ belowHz: 0, aboveHz: 0, seconds: 0.05 },
    chain: [['place', SPEAKERS_AROUND]],
  },
  {
    id: 'hall',
    name: 'Back of a hall',
    about: 'A seat far back in a filled theatre: more of the room than of the stage.',
    takes: ['closeness, and what is quick', 'the top, in the air on the way', 'most of the width'],
    ...{ belowHz: 0, aboveHz: 0, seconds: 1.4 },
    chain: [
      ['midside', { 'sideToSide.gain': -9 }],
      ['convolution', { impulse: 'theatre', mix: 62 }],
      ['eq', bands({ type: 'highShelf', frequency: 4500, gain: -6, q: 0.7 })],
    ],
  },
];

export function listeningPlace(id: string): ListeningPlace {
  const place = LISTENING_PLACES.find((one) => one.id === id);
  if (!place) throw new Error(`There is no listening place ${id}`);
  return place;
}
