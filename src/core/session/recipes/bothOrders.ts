import { stripOf } from '../records/queries';
import { wetValues } from '../../effects/spec';
import { effectById, type EffectId } from '../../effects/registry';
import type { Command } from '../commands';
import { madeName, voiceName, type Recipe } from './recipe';

const TIMES = { '1/4': '1/4 note', '1/4d': '1/4 dotted', '1/2': '1/2 note' } as const;
const ROOMS = {
  room: { name: 'a warm room', size: 9, decay: 1 },
  hall: { name: 'a hall', size: 30, decay: 2.6 },
} as const;

const WHAT = 'Echo and room of';

export const bothOrders: Recipe = {
  id: 'both-orders',
  name: 'Delay into reverb, or reverb into delay',
  outcome: 'Both orders of an echo and a room on one return, to switch between at equal loudness.',
  synonyms: 'parallel serial',
  questions: [
    { id: 'voice', kind: 'track', text: 'Whose sound?' },
    {
      id: 'time',
      kind: 'choice',
      text: 'How far apart are the repeats?',
      choices: Object.entries(TIMES).map(([id, name]) => ({ id, name })),
    },
    {
      id: 'room',
      kind: 'choice',
      text: 'What room?',
      choices: Object.entries(ROOMS).map(([id, { name }]) => ({ id, name })),
    },
  ],
  preview: (document, answers) => [
    `A return with a delay of ${TIMES[answers.time as keyof typeof TIMES]} and ${ROOMS[answers.room as keyof typeof ROOMS]?.name}, fed by ${voiceName(document, answers)}.`,
    'Slot A: every repeat rings in the room. Slot B: the whole room repeats.',
  ],
  sketch: (document, answers) => [
    { name: madeName(WHAT, document, answers), kind: 'return', effects: ['delay', 'reverb'], fedBy: ['send'] },
  ],
  build: ({ document, answers, newId }) => {
    const voice = stripOf(document, answers.voice!)!;
    const time = answers.time as keyof typeof TIMES;
    const { size, decay, name: room } = ROOMS[answers.room as keyof typeof ROOMS];
    const returnId = newId();
    const [delayId, reverbId] = [newId(), newId()];
    const name = madeName(WHAT, document, answers);
    const add = (id: string, index: number, effect: EffectId, values: Record<string, number | string>): Command => ({
      type: 'insert.add',
      stripId: returnId,
      id,
      effect,
      index,
      values: { ...wetValues(effectById(effect)), ...values },
    });
    const commands: Command[] = [
      { type: 'return.add', id: returnId, name, role: 'return' },
      add(delayId, 0, 'delay', { 'lines.1.timeLeft': time, 'lines.1.feedback': 40 }),
      add(reverbId, 1, 'reverb', { size, decay, lowCut: 180 }),
      {
        type: 'send.add',
        send: { id: newId(), fromId: voice.id, toId: returnId, gainDb: -9, tap: 'afterFader', mute: false },
      },
      // B begins as what A is.
      { type: 'comparison.choose', id: returnId, slot: 'B' },
      { type: 'insert.move', id: reverbId, to: 0 },
      { type: 'comparison.choose', id: returnId, slot: 'A' },
    ];
    return {
      showId: returnId,
      command: { type: 'all', commands },
      built: [
        `The return “${name}” with a delay of ${TIMES[time]} and ${room} of ${decay} s, wet only.`,
        `A send from ${voice.name} at -9 dB.`,
        'In Compare, slot A is delay into reverb and slot B reverb into delay.',
      ],
    };
  },
};
