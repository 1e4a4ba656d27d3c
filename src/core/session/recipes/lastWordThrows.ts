import { KinetikonError } from '../../errors';
import type { Phrase } from '../../analysis/phrases';
import type { Command } from '../commands';
import { stripOf } from '../records/queries';
import type { Point } from '../records/lanes';
import { madeName, onsetsOfTrack, voiceName, type Recipe } from './recipe';

const LENGTHS = {
  syllable: { name: 'the last syllable', seconds: 0.25, words: 0 },
  word: { name: 'the last word', seconds: 0.5, words: 1 },
  words: { name: 'the last few words', seconds: 1.1, words: 3 },
} as const;

const TIMES = { '1/4': '1/4 note', '1/4d': '1/4 dotted', '1/2': '1/2 note', '1bar': 'a bar' } as const;

/** Level of the send while it is open. */
const OPEN_DB = -3;
const CLOSED_DB = -100;
/** The send stays open for the end of the word to ring out. */
const AFTER_SECONDS = 0.06;

/** A word that begins later than this before the end of its phrase is part of the one before. */
const SHORTEST_WORD_SECONDS = 0.12;

/**
 * Opens a send for the end of every phrase, and closes it after.
 * @param length so many of its words, as they were found, or so many seconds where fewer were
 * @param onsets where words begin, in seconds
 */
export function throwPoints(
  phrases: readonly Phrase[],
  length: { readonly seconds: number; readonly words: number },
  onsets: readonly number[],
  beatsPerSecond: number,
): Point[] {
  const point = (at: number, value: number): Point => ({
    beat: Number((at * beatsPerSecond).toFixed(4)),
    value,
    shape: 'hold',
    bend: 0,
  });
  const points = [point(0, CLOSED_DB)];
  for (const { start, end } of phrases) {
    const words = onsets.filter((one) => one >= start - 0.05 && one <= end - SHORTEST_WORD_SECONDS);
    const word = length.words > 0 ? words.at(-length.words) : undefined;
    const opens = Math.max(start, word ?? end - length.seconds, 0.001);
    points.push(point(opens, OPEN_DB), point(end + AFTER_SECONDS, CLOSED_DB));
  }
  return points;
}

const WHAT = 'Throws of';

export const lastWordThrows: Recipe = {
  id: 'last-word-throws',
  name: 'Last-word throws',
  outcome: 'The end of each phrase is thrown into an echo; the rest stays dry.',
  synonyms: 'delay throw echo throw',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose phrases?' },
    {
      id: 'length',
      kind: 'choice',
      text: 'What is thrown?',
      choices: Object.entries(LENGTHS).map(([id, { name }]) => ({ id, name })),
    },
    {
      id: 'time',
      kind: 'choice',
      text: 'How far apart are the repeats?',
      choices: Object.entries(TIMES).map(([id, name]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `A return with a delay of ${TIMES[answers.time as keyof typeof TIMES]}, wet only.`,
    `A send from ${voiceName(document, answers)} into it, closed but for ${LENGTHS[answers.length as keyof typeof LENGTHS]?.name} of each phrase.`,
    'The ends of the phrases and the beginnings of their words found in the sound itself, as points of a lane.',
  ],
  sketch: (document, answers) => [
    { name: madeName(WHAT, document, answers), kind: 'return', effects: ['delay'], fedBy: ['send'] },
  ],
  build: (kitchen) => {
    const { document, answers, phrases, newId } = kitchen;
    const voice = stripOf(document, answers.voice!)!;
    const length = LENGTHS[answers.length as keyof typeof LENGTHS];
    const time = answers.time as keyof typeof TIMES;
    const count = phrases.phrases.length;
    if (count === 0) {
      throw new KinetikonError('session.command', `No phrases were found on ${voice.name}.`, {
        kept: 'Nothing was changed.',
        next: 'Put a clip on it first, or choose another track.',
      });
    }
    const returnId = newId();
    const sendId = newId();
    const name = madeName(WHAT, document, answers);
    const points = throwPoints(
      phrases.phrases,
      length,
      onsetsOfTrack(kitchen, voice.id),
      document.session.tempoBpm / 60,
    );
    const commands: Command[] = [
      { type: 'return.add', id: returnId, name, role: 'return' },
      {
        type: 'insert.add',
        stripId: returnId,
        id: newId(),
        effect: 'delay',
        index: 0,
        values: {
          mix: 100,
          'lines.1.timeLeft': time,
          'lines.1.feedback': 55,
          'lines.1.swap': true,
          'lines.1.filterType': 'lowPass',
          'lines.1.cutoff': 3800,
        },
      },
      {
        type: 'send.add',
        send: { id: sendId, fromId: voice.id, toId: returnId, gainDb: OPEN_DB, tap: 'afterFader', mute: false },
      },
      {
        type: 'lane.add',
        lane: {
          id: newId(),
          ownerId: sendId,
          parameter: 'gainDb',
          on: true,
          points,
          mirrorOf: null,
          mirrorAmount: 100,
        },
      },
    ];
    return {
      showId: voice.id,
      command: { type: 'all', commands },
      built: [
        `The return “${name}” with a delay of ${TIMES[time]}, 55 % feedback, wet only.`,
        `A send from ${voice.name} with a lane: closed, open at ${OPEN_DB} dB for ${length.name} of each phrase.`,
        `${count} ${count === 1 ? 'phrase was' : 'phrases were'} found; move, add or delete the lane's points where you hear it otherwise.`,
      ],
    };
  },
};
