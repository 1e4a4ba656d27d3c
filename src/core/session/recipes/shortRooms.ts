import { madeName, voiceName, type Recipe } from './recipe';
import { returnFor } from './returnFor';

const NEARNESS = {
  hardly: { name: 'so that it is missed only when it goes', gainDb: -17 },
  little: { name: 'so that it is just heard', gainDb: -12 },
} as const;

const NEAR = 'Nearness of';

export const pushedForward: Recipe = {
  id: 'pushed-forward',
  name: 'Dry voice, pushed forward',
  outcome: 'A room too short to be heard as one gives a dry voice a body in front of the music.',
  synonyms: 'presence ambience',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose voice?' },
    {
      id: 'nearness',
      kind: 'choice',
      text: 'How much?',
      choices: Object.entries(NEARNESS).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    'A return with the shortest of rooms: early reflections of a booth, hardly a tail.',
    `A send from ${voiceName(document, answers)}, ${NEARNESS[answers.nearness as keyof typeof NEARNESS]?.name}.`,
  ],
  sketch: (document, answers) => [
    { name: madeName(NEAR, document, answers), kind: 'return', effects: ['reverb'], fedBy: ['send'] },
  ],
  build: (kitchen) => {
    const { document, answers } = kitchen;
    const { gainDb, name: amount } = NEARNESS[answers.nearness as keyof typeof NEARNESS];
    const name = madeName(NEAR, document, answers);
    const room = { size: 3, shape: 'booth', decay: 0.25, earlyLate: 25, preDelay: 2, lowCut: 200, mix: 100 };
    const { voiceId, command } = returnFor(kitchen, name, [['reverb', room]], gainDb);
    return {
      showId: voiceId,
      command,
      built: [
        `The return “${name}” with a room of 3 m and a decay of 0.25 s, nothing below 200 Hz.`,
        `A send at ${gainDb} dB, ${amount}.`,
        'Switch its send off and on: the voice steps back and forward.',
      ],
    };
  },
};

const SHINE = {
  soft: { name: 'a soft shine', highs: 1, cut: 9000 },
  bright: { name: 'bright', highs: 4, cut: 14000 },
} as const;

const BRIGHT = 'Bright room of';

export const cleanBrightRoom: Recipe = {
  id: 'clean-bright-room',
  name: 'Bright room, clean esses',
  outcome: 'A bright room shines behind a voice while its esses stay out of it.',
  synonyms: 'plate de-esser',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose voice?' },
    {
      id: 'shine',
      kind: 'choice',
      text: 'How bright?',
      choices: Object.entries(SHINE).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    'A return with a de-esser first and a bright tiled room after it.',
    `A send from ${voiceName(document, answers)} into it; the voice itself stays as it is.`,
  ],
  sketch: (document, answers) => [
    { name: madeName(BRIGHT, document, answers), kind: 'return', effects: ['deesser', 'reverb'], fedBy: ['send'] },
  ],
  build: (kitchen) => {
    const { document, answers } = kitchen;
    const { highs, cut, name: shine } = SHINE[answers.shine as keyof typeof SHINE];
    const name = madeName(BRIGHT, document, answers);
    const esses = { frequency: 6500, width: 1.6, threshold: -42, amount: 18 };
    const room = {
      size: 7,
      shape: 'tiled',
      decay: 1,
      decayOctaves: '0.6003,0.654,0.7789,0.9252,1,0.9731,0.9249,0.9,0.9',
      preDelay: 16,
      lowCut: 220,
      highCut: cut,
      wetHigh: highs,
      mix: 100,
    };
    const { voiceId, command } = returnFor(
      kitchen,
      name,
      [
        ['deesser', esses],
        ['reverb', room],
      ],
      -11,
    );
    return {
      showId: voiceId,
      command,
      built: [
        `The return “${name}”: a de-esser that takes up to ${esses.amount} dB, then ${shine === 'bright' ? 'a bright' : 'a softly shining'} room of ${room.size} m.`,
        'A send at -11 dB; esses of the voice itself are not touched.',
        'Bypass the de-esser to hear what it keeps out of the room.',
      ],
    };
  },
};
