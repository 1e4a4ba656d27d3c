import type { ParameterValues } from '../../effects/values';
import type { Command } from '../commands';
import { stripOf } from '../records';
import type { Kitchen } from './recipe';

/** A return with some effects, the space last, and a send of the voice into it. */
export function returnFor(
  { document, answers, newId }: Kitchen,
  name: string,
  effects: readonly (readonly [effect: string, values: ParameterValues])[],
  gainDb: number,
): { readonly returnId: string; readonly voiceId: string; readonly command: Command } {
  const voice = stripOf(document, answers.voice!)!;
  const returnId = newId();
  const commands: Command[] = [
    { type: 'return.add', id: returnId, name, role: 'return' },
    ...effects.map(([effect, values], index): Command => ({
      type: 'insert.add',
      stripId: returnId,
      id: newId(),
      effect,
      index,
      values: { ...values },
    })),
    {
      type: 'send.add',
      send: { id: newId(), fromId: voice.id, toId: returnId, gainDb, tap: 'afterFader', mute: false },
    },
  ];
  return { returnId, voiceId: voice.id, command: { type: 'all', commands } };
}
