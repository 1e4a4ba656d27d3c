import { KinetikonError } from '../../errors';
import type { Command } from '../commands';
import { stripOf } from '../records/queries';
import { madeName, voiceName, type Recipe } from './recipe';

const TIMES = { '1/8d': '1/8 dotted', '1/4': '1/4 note', '1/4d': '1/4 dotted', '1/2': '1/2 note' } as const;

/** Threshold below the level of the words, and ratio. */
const DEPTHS = {
  gently: { name: 'a little, they stay audible', below: 10, ratio: 3 },
  clearly: { name: 'clearly, they wait for the pauses', below: 22, ratio: 20 },
  away: { name: 'almost away', below: 28, ratio: 60 },
} as const;

const WHAT = 'Echoes under';

export const sinkingEchoes: Recipe = {
  id: 'sinking-echoes',
  name: 'Echoes that sink under the voice',
  outcome: 'Repeats step back while the words come and bloom in the pauses after them.',
  synonyms: 'ducking sidechain delay',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose echoes?' },
    {
      id: 'time',
      kind: 'choice',
      text: 'How far apart are the repeats?',
      choices: Object.entries(TIMES).map(([id, name]) => ({ id, name })),
    },
    {
      id: 'depth',
      kind: 'choice',
      text: 'How far do they sink under the words?',
      choices: Object.entries(DEPTHS).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `A return with a delay of ${TIMES[answers.time as keyof typeof TIMES]}, wet only.`,
    `A compressor behind it, keyed from ${voiceName(document, answers)} before its fader.`,
    'Its threshold set from the measured level of the words.',
    `A send from ${voiceName(document, answers)} into it.`,
  ],
  sketch: (document, answers) => [
    {
      name: madeName(WHAT, document, answers),
      kind: 'return',
      effects: ['delay', 'compressor'],
      fedBy: ['send', 'key'],
    },
  ],
  build: ({ document, answers, phrases, newId }) => {
    const voice = stripOf(document, answers.voice!)!;
    const depth = DEPTHS[answers.depth as keyof typeof DEPTHS];
    const time = answers.time as keyof typeof TIMES;
    if (phrases.levelDb === null) {
      throw new KinetikonError('session.command', `${voice.name} is silent: there are no words to sink under.`, {
        kept: 'Nothing was changed.',
        next: 'Put a clip on it first, or choose another track.',
      });
    }
    const threshold = Math.min(0, Math.max(-60, Math.round((phrases.levelDb - depth.below) * 10) / 10));
    const returnId = newId();
    const delayId = newId();
    const compressorId = newId();
    const name = madeName(WHAT, document, answers);
    const commands: Command[] = [
      { type: 'return.add', id: returnId, name, role: 'return' },
      {
        type: 'insert.add',
        stripId: returnId,
        id: delayId,
        effect: 'delay',
        index: 0,
        values: {
          mix: 100,
          'lines.1.timeLeft': time,
          'lines.1.feedback': 62,
          'lines.1.swap': true,
          'lines.1.filterType': 'bandPass',
          'lines.1.cutoff': 1300,
          'lines.1.resonance': 0.5,
        },
      },
      {
        type: 'insert.add',
        stripId: returnId,
        id: compressorId,
        effect: 'compressor',
        index: 1,
        values: { threshold, ratio: depth.ratio, attack: 4, release: 350, knee: 6 },
      },
      { type: 'insert.input', id: compressorId, slot: 'key', from: { stripId: voice.id, tap: 'beforeFader' } },
      {
        type: 'send.add',
        send: { id: newId(), fromId: voice.id, toId: returnId, gainDb: -5, tap: 'afterFader', mute: false },
      },
    ];
    return {
      showId: returnId,
      command: { type: 'all', commands },
      built: [
        `The return “${name}”, fed by a send from ${voice.name} at -5 dB after its fader.`,
        `A delay of ${TIMES[time]} with 62 % feedback whose repeats change sides and lose lows and highs; the return is wet only.`,
        `A compressor behind it, keyed from ${voice.name} before its fader, so that mixing does not change it: attack 4 ms, release 350 ms.`,
        `Its threshold is ${threshold.toFixed(1)} dB: the words measure ${phrases.levelDb.toFixed(1)} dB.`,
        'All of these are ordinary parts: change, move or remove them as you like.',
      ],
    };
  },
};
