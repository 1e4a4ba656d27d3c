import { NOTE_VALUES, noteValueName } from '../../effects/noteValues';
import { midsideSpec } from '../../effects/midside/spec';
import { stripOf } from '../records/queries';
import { madeName, voiceName, type Recipe } from './recipe';
import { returnFor } from './returnFor';

const sound = { id: 'voice', kind: 'track', text: 'Whose sound?' } as const;

const SIDES = {
  right: { name: 'on the right', pan: -70 },
  left: { name: 'on the left', pan: 70 },
} as const;
const TIMES = { short: { name: 'close, 12 ms', ms: 12 }, wide: { name: 'wide, 22 ms', ms: 22 } } as const;
const LATE = 'Late side of';

export const splitSides: Recipe = {
  id: 'split-sides',
  name: 'One sound, two sides',
  outcome: 'The sound leans to one side and a late copy of it stands on the other: wide, with the middle left free.',
  synonyms: 'haas widener doubling',
  questions: [
    sound,
    {
      id: 'side',
      kind: 'choice',
      text: 'Where does the copy stand?',
      choices: Object.entries(SIDES).map(([id, { name }]) => ({ id, name })),
    },
    {
      id: 'time',
      kind: 'choice',
      text: 'How late is it?',
      choices: Object.entries(TIMES).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `${voiceName(document, answers)} panned away from its copy.`,
    `A return with the copy alone, ${TIMES[answers.time as keyof typeof TIMES]?.name}, ${SIDES[answers.side as keyof typeof SIDES]?.name}; lows stay where they are.`,
  ],
  sketch: (document, answers) => [
    { name: madeName(LATE, document, answers), kind: 'return', effects: ['doubler'], fedBy: ['send'] },
  ],
  build: (kitchen) => {
    const { document, answers } = kitchen;
    const { name: side, pan } = SIDES[answers.side as keyof typeof SIDES];
    const { ms } = TIMES[answers.time as keyof typeof TIMES];
    const name = madeName(LATE, document, answers);
    const copy = { mode: 'split', side: answers.side!, time: ms, drift: 20, detune: 4, lowMono: 150, mix: 100 };
    const { voiceId, command } = returnFor(kitchen, name, [['doubler', copy]], 0);
    return {
      showId: voiceId,
      command: { type: 'all', commands: [command, { type: 'strip.set', id: voiceId, values: { pan } }] },
      built: [
        `${voiceName(document, answers)} is panned ${Math.abs(pan)} % to the ${pan < 0 ? 'left' : 'right'}.`,
        `The return “${name}” has a copy ${ms} ms late ${side}, which wanders a little and leaves the lows alone.`,
        `On one loudspeaker it cancels first at ${Math.round(500 / ms)} Hz: listen in mono, and take the send down where that hurts.`,
      ],
    };
  },
};

const GRITS = {
  clean: { name: 'clean', drive: 0 },
  rough: { name: 'a little rough', drive: 7 },
} as const;
const DOUBLE = 'Second take of';

export const doubledTake: Recipe = {
  id: 'doubled-take',
  name: 'Doubled from one take',
  outcome: 'Copies of one take that drift, duller and rougher than it, stand beside it as if it had been played twice.',
  synonyms: 'doubling double tracking',
  questions: [
    sound,
    {
      id: 'grit',
      kind: 'choice',
      text: 'How do the copies sound?',
      choices: Object.entries(GRITS).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    'A return with two copies that drift by themselves, wet only, its middle scooped for the take itself.',
    `Behind them a darker tone, ${answers.grit === 'rough' ? 'some grit ' : ''}and a slow tremolo.`,
    `A send from ${voiceName(document, answers)} into it.`,
  ],
  sketch: (document, answers) => [
    {
      name: madeName(DOUBLE, document, answers),
      kind: 'return',
      effects: ['doubler', 'tilt', ...(answers.grit === 'rough' ? (['saturator'] as const) : []), 'autopan'],
      fedBy: ['send'],
    },
  ],
  build: (kitchen) => {
    const { document, answers } = kitchen;
    const { drive } = GRITS[answers.grit as keyof typeof GRITS];
    const name = madeName(DOUBLE, document, answers);
    const copies = {
      mode: 'copies',
      voices: '2',
      time: 24,
      drift: 55,
      detune: 12,
      lowMono: 200,
      midScoop: 4,
      mix: 100,
    };
    const { voiceId, command } = returnFor(
      kitchen,
      name,
      [
        ['doubler', copies],
        ['tilt', { slope: -1, pivot: 900 }],
        ...(drive > 0 ? [['saturator', { drive, curve: 'tape', mix: 60 }] as const] : []),
        ['autopan', { rate: 0.23, depth: 22, phase: 0, shape: 'smoothRandom' }],
      ],
      -7,
    );
    return {
      showId: voiceId,
      command,
      built: [
        `The return “${name}”: two copies about ${copies.time} ms late that drift by themselves, nothing doubled below ${copies.lowMono} Hz.`,
        `A tone that falls by 1 dB an octave${drive > 0 ? `, a drive of ${drive} dB` : ''} and a tremolo without a beat.`,
        'A send at -7 dB. Compare shows what of it is lost in mono: it should be little.',
      ],
    };
  },
};

const DEPTHS = {
  some: { name: 'a little', gain: -12 },
  much: { name: 'clearly', gain: -6 },
} as const;

export const depthFromMono: Recipe = {
  id: 'depth-from-mono',
  name: 'Depth from a mono voice',
  outcome: 'A mono voice gets a back and sides, and stays just what it was on one loudspeaker.',
  synonyms: 'widener stereo width',
  questions: [
    sound,
    {
      id: 'depth',
      kind: 'choice',
      text: 'How much?',
      choices: Object.entries(DEPTHS).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `The matrix of middle and sides on ${voiceName(document, answers)}: its middle goes late and narrowed into the sides.`,
    'Nothing comes back from the sides into the middle, so that mono is unchanged.',
  ],
  sketch: (document, answers) => [
    { name: voiceName(document, answers), kind: 'voice', effects: ['midside'], fedBy: [] },
  ],
  build: ({ document, answers, newId }) => {
    const voice = stripOf(document, answers.voice!)!;
    const { gain, name: amount } = DEPTHS[answers.depth as keyof typeof DEPTHS];
    const preset = midsideSpec.presets.find(({ id }) => id === 'deepen-voice')!;
    return {
      showId: voice.id,
      command: {
        type: 'insert.add',
        stripId: voice.id,
        id: newId(),
        effect: 'midside',
        index: voice.insertIds.length,
        values: { ...preset.values, 'midToSide.gain': gain },
      },
      built: [
        `Middle and sides at the end of ${voice.name}, ${amount}: mid to side at ${gain} dB, 17 ms late, between 350 Hz and 7 kHz.`,
        'Side to mid is off and mid is at 0 dB: the sum of both sides is what it was.',
        'Move the delay of mid to side to set how far behind the depth begins.',
      ],
    };
  },
};

const WALKS = NOTE_VALUES.filter((id) => /^1\/(4|8)[dt]$/.test(id)).map((id) => ({ id, name: noteValueName(id) }));
const WALK = 'Walk of';

export const walkingTremolo: Recipe = {
  id: 'walking-tremolo',
  name: 'A tremolo that walks',
  outcome: 'A short room behind a sound steps from side to side against the beat, while the sound stands.',
  synonyms: 'panning autopan',
  questions: [sound, { id: 'walk', kind: 'choice', text: 'How long is a step to and fro?', choices: WALKS }],
  preview: (document, answers) => [
    `A return with a small room that walks from side to side in ${WALKS.find(({ id }) => id === answers.walk)?.name}s.`,
    `A send from ${voiceName(document, answers)} into it; the sound itself stands still.`,
  ],
  sketch: (document, answers) => [
    { name: madeName(WALK, document, answers), kind: 'return', effects: ['reverb', 'autopan'], fedBy: ['send'] },
  ],
  build: (kitchen) => {
    const { document, answers } = kitchen;
    const name = madeName(WALK, document, answers);
    const walk = WALKS.find(({ id }) => id === answers.walk)!;
    const room = { size: 9, shape: 'chamber', decay: 0.8, preDelay: 10, lowCut: 200, mix: 100 };
    const { returnId, command } = returnFor(
      kitchen,
      name,
      [
        ['reverb', room],
        ['autopan', { rate: walk.id, depth: 95, shape: 'sine', phase: 180 }],
      ],
      -8,
    );
    return {
      showId: returnId,
      command,
      built: [
        `The return “${name}”: a chamber of ${room.size} m and ${room.decay} s, wet only, nothing below ${room.lowCut} Hz.`,
        `It goes to and fro in a ${walk.name}, sides against one another, so that its loudness stands.`,
        'A send at -8 dB. It belongs to the beat: a passage always walks the same way.',
      ],
    };
  },
};
