import type { EffectId } from '../../effects/registry';
import type { ParameterValues } from '../../effects/values';
import type { Command } from '../commands';
import { stripOf } from '../records/queries';
import type { RecipeContext } from './recipe';

/** A return with some effects, the space last, and a send of the voice into it. */
export function returnFor(
  { document, answers, newId }: RecipeContext,
  name: string,
  effects: readonly (readonly [effect: EffectId, values: ParameterValues])[],
  gainDb: number,
): {
  readonly returnId: string;
  readonly voiceId: string;
  /** Ids of its inserts, in order. */
  readonly insertIds: readonly string[];
  readonly command: Command;
} {
  const voice = stripOf(document, answers.voice!)!;
  const returnId = newId();
  const insertIds = effects.map(() => newId());
  const commands: Command[] = [
    { type: 'return.add', id: returnId, name, role: 'return' },
    ...effects.map(([effect, values], index): Command => ({
      type: 'insert.add',
      stripId: returnId,
      id: insertIds[index]!,
      effect,
      index,
      values: { ...values },
    })),
    {
      type: 'send.add',
      send: { id: newId(), fromId: voice.id, toId: returnId, gainDb, tap: 'afterFader', mute: false },
    },
  ];
  return { returnId, voiceId: voice.id, insertIds, command: { type: 'all', commands } };
}
