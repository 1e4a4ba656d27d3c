import { KinetikonError } from '../../errors';
import type { Command } from '../commands';
import { stripOf } from '../records/queries';
import type { Lane, Point } from '../records/lanes';
import type { SessionDocument } from '../records/document';
import {
  largestSection,
  madeName,
  onsetsOfTrack,
  voiceName,
  type Answers,
  type RecipeContext,
  type Recipe,
} from './recipe';

const HALLS = {
  modest: { name: 'a modest hall', size: 24, decay: 1.8 },
  large: { name: 'a large hall', size: 42, decay: 3 },
  stone: { name: 'a stone nave', size: 75, decay: 5.5 },
} as const;

const ROOM_DB = -10;
/** A chorus in it is at least 3 dB wider, side to mid, than a verse in the room. */
const HALL_DB = -7;
const CLOSED_DB = -100;
/** As far as the send is open when the last line begins. */
const AJAR_DB = -30;
const ROOM_METRES = 8;
/** As large the room has grown when the hall takes over. */
const GROWN_METRES = 18;
/** Beats over which the room opens if no phrase ends before the change. */
const LEAD_BEATS = 4;

const sectionOf = (document: SessionDocument, answers: Answers) => document.sections[answers.section ?? ''];
const hold = (beat: number, value: number): Point => ({ beat, value, shape: 'hold', bend: 0 });
const line = (beat: number, value: number): Point => ({ beat, value, shape: 'straight', bend: 0 });

const beatsOf = (document: SessionDocument, seconds: number) =>
  Number(((seconds * document.session.tempoBpm) / 60).toFixed(4));

/** A word that begins up to so many beats before the end of a section belongs to the next one. */
const EARLY_BEATS = 0.1;

/** End of a section in beats, or of the word that is held across it. */
function lastWordEnd(kitchen: RecipeContext, voiceId: string, until: number): number {
  const { document, phrases } = kitchen;
  const beats = (seconds: number) => beatsOf(document, seconds);
  const held = phrases.phrases.find(({ start, end }) => beats(start) < until - EARLY_BEATS && beats(end) > until);
  if (!held) return until;
  const next = onsetsOfTrack(kitchen, voiceId).find((seconds) => beats(seconds) > until - EARLY_BEATS);
  return Math.max(until, Math.min(beats(held.end), next === undefined ? Infinity : beats(next)));
}

const ROOM = 'Room of';
const HALL = 'Hall of';

export const roomsBySection: Recipe = {
  id: 'rooms-by-section',
  name: 'Verse room, chorus hall',
  outcome: 'A small room for the verse opens through its last line into a hall for the chorus.',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose voice?' },
    { id: 'section', kind: 'section', text: 'Which section has the hall?', preselect: largestSection },
    {
      id: 'hall',
      kind: 'choice',
      text: 'What hall?',
      choices: Object.entries(HALLS).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    'Two returns, wet only: a small bright room and a hall.',
    `Sends from ${voiceName(document, answers)} into both, switched by lanes where “${sectionOf(document, answers)?.name ?? 'a section'}” begins and ends.`,
    'The room grows and the hall is let in through the last line before.',
  ],
  sketch: (document, answers) =>
    [ROOM, HALL].map((what) => ({
      name: madeName(what, document, answers),
      kind: 'return',
      effects: ['reverb'],
      fedBy: ['send'],
    })),
  build: (kitchen) => {
    const { document, answers, phrases, newId } = kitchen;
    const voice = stripOf(document, answers.voice!)!;
    const section = sectionOf(document, answers);
    if (!section) {
      throw new KinetikonError('session.command', 'There is no section to switch rooms by.', {
        kept: 'Nothing was changed.',
        next: 'Mark one in the timeline, above the bars.',
      });
    }
    const { name: hallName, size, decay } = HALLS[answers.hall as keyof typeof HALLS];
    const { startBeat: from } = section;
    const until = from + section.lengthBeats;
    const beats = (seconds: number) => beatsOf(document, seconds);
    const closes = lastWordEnd(kitchen, voice.id, until);
    // The last line that begins before the section does.
    const last = phrases.phrases.filter(({ start }) => beats(start) < from - 0.5).at(-1);
    const opens = Math.max(0, last ? beats(last.start) : from - LEAD_BEATS);
    const ids = { room: newId(), hall: newId(), space: newId(), roomSend: newId(), hallSend: newId() };
    const lane = (ownerId: string, parameter: string, points: Point[]): Command => {
      const one: Lane = { id: newId(), ownerId, parameter, on: true, points, mirrorOf: null, mirrorAmount: 100 };
      return { type: 'lane.add', lane: one };
    };
    const space = (stripId: string, id: string, values: Record<string, number | string>): Command => ({
      type: 'insert.add',
      stripId,
      id,
      effect: 'reverb',
      index: 0,
      values: { mix: 100, lowCut: 180, deEss: 6, ...values },
    });
    const send = (id: string, toId: string, gainDb: number): Command => ({
      type: 'send.add',
      send: { id, fromId: voice.id, toId, gainDb, tap: 'afterFader', mute: false },
    });
    const begin = (value: number) => (opens > 0 ? [hold(0, value)] : []);
    const commands: Command[] = [
      { type: 'return.add', id: ids.room, name: madeName(ROOM, document, answers), role: 'return' },
      { type: 'return.add', id: ids.hall, name: madeName(HALL, document, answers), role: 'return' },
      space(ids.room, ids.space, { size: ROOM_METRES, shape: 'chamber', decay: 0.9, earlyLate: 50, preDelay: 14 }),
      space(ids.hall, newId(), { size, decay, shape: 'hall', earlyLate: 68, preDelay: 40 }),
      send(ids.roomSend, ids.room, ROOM_DB),
      send(ids.hallSend, ids.hall, HALL_DB),
      lane(ids.roomSend, 'gainDb', [hold(0, ROOM_DB), hold(from, CLOSED_DB), hold(closes, ROOM_DB)]),
      lane(ids.hallSend, 'gainDb', [
        ...begin(CLOSED_DB),
        line(opens, AJAR_DB),
        hold(from, HALL_DB),
        hold(closes, CLOSED_DB),
      ]),
      lane(ids.space, 'size', [
        ...begin(ROOM_METRES),
        line(opens, ROOM_METRES),
        hold(from, GROWN_METRES),
        hold(closes, ROOM_METRES),
      ]),
    ];
    return {
      showId: voice.id,
      command: { type: 'all', commands },
      built: [
        `The return “${madeName(ROOM, document, answers)}”: ${ROOM_METRES} m, bright and short, heard outside “${section.name}”.`,
        `The return “${madeName(HALL, document, answers)}”: ${hallName}, heard in “${section.name}” alone, to the end of its last word.`,
        `${last ? 'Through the last line before it' : `Over the last ${LEAD_BEATS} beats before it`} the room grows to ${GROWN_METRES} m and the hall comes in; both are lanes to be moved.`,
      ],
    };
  },
};
