import { placeInsert } from '../stagePlacement';
import { contrastBands, equalizerWith } from '../contrast';
import { madeName, voiceName, type Recipe } from './recipe';
import { returnFor } from './returnFor';

const ROUNDS = {
  '2bar': '2 bars',
  '4bar': '4 bars',
  '8bar': '8 bars',
} as const;
const HALLS = {
  near: { name: 'a room', values: { size: 12, shape: 'chamber', decay: 1.4, preDelay: 12 } },
  far: { name: 'a hall', values: { size: 34, shape: 'hall', decay: 3.2, preDelay: 30 } },
} as const;
const MADE = 'Against';
const DISTANCE = 2;

/** A sound and its reverb that go round the listener, always across from one another. */
export const circling: Recipe = {
  id: 'circling',
  name: 'Circling against its own space',
  outcome: 'A sound goes round the listener, and its reverb goes round on the other side, always across from it.',
  synonyms: 'orbit binaural rotation',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose sound?' },
    {
      id: 'round',
      kind: 'choice',
      text: 'How long does a round take?',
      choices: Object.entries(ROUNDS).map(([id, name]) => ({ id, name })),
    },
    {
      id: 'hall',
      kind: 'choice',
      text: 'What rings?',
      choices: Object.entries(HALLS).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `${voiceName(document, answers)} on the stage, in a circle of ${ROUNDS[answers.round as keyof typeof ROUNDS]}.`,
    `A return with ${HALLS[answers.hall as keyof typeof HALLS]?.name}, lowered where the sound itself lives, across from it all the way.`,
    'A send before the fader, which keeps its level wherever the sound is.',
  ],
  sketch: (document, answers) => [
    { name: voiceName(document, answers), kind: 'voice', effects: ['place'], fedBy: [] },
    { name: madeName(MADE, document, answers), kind: 'return', effects: ['reverb', 'eq', 'place'], fedBy: ['send'] },
  ],
  build: (kitchen) => {
    const { document, answers, regions, newId } = kitchen;
    const { name: hall, values } = HALLS[answers.hall as keyof typeof HALLS];
    const round = ROUNDS[answers.round as keyof typeof ROUNDS];
    const name = madeName(MADE, document, answers);
    const bands = contrastBands(regions);
    const { returnId, voiceId, command } = returnFor(
      kitchen,
      name,
      [
        ['reverb', { ...values, lowCut: 160, mix: 100 }],
        ['eq', equalizerWith(bands)],
      ],
      -3,
    );
    const course = { motion: 'circle', motionRate: answers.round!, distance: DISTANCE, distanceLevel: 0 };
    const there = placeInsert(document, voiceId);
    return {
      showId: voiceId,
      command: {
        type: 'all',
        commands: [
          command,
          there
            ? { type: 'insert.set', id: there.id, values: { ...course, azimuth: 0 } }
            : { type: 'place.add', stripId: voiceId, id: newId(), values: course },
          { type: 'strip.set', id: voiceId, values: { oppositeOf: null } },
          {
            type: 'place.add',
            stripId: returnId,
            id: newId(),
            values: { ...course, size: 0.5, mirror: 'angle' },
          },
          { type: 'strip.set', id: returnId, values: { oppositeOf: voiceId } },
        ],
      },
      built: [
        `${voiceName(document, answers)} goes round the listener in ${round}, ${DISTANCE} m away; it begins ahead.`,
        `The return “${name}” with ${hall} is always across from it: it follows whatever is changed there.`,
        bands.length === 0
          ? 'No region of the sound stands out, so that nothing is taken out of its space.'
          : `Its equalizer is lowered where the sound lives: ${bands.map(({ frequency, gain }) => `${String(frequency)} Hz by ${-Number(gain)} dB`).join(', ')}.`,
        'The stage shows both. Headphones there let you hear it go behind you.',
      ],
    };
  },
};
