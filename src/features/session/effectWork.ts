import type { EffectSpec } from '@/core/effects/spec';
import { wetValues } from '@/core/effects/spec';
import type { ParameterValues } from '@/core/effects/values';
import { stripOf } from '@/core/session/records/queries';
import { newId } from './newId';
import type { Studio } from './studio';

const KEY = 'kinetikon.lately';
const MOST_KEPT = 4;

/** Effects that were added last, the newest first. */
export function latelyAdded(): readonly string[] {
  const kept = localStorage.getItem(KEY);
  return kept === null ? [] : kept.split(' ');
}

/**
 * Adds an effect behind those that a strip has, and chooses it.
 * @param values those that are not to be as they come
 */
export function addEffect(studio: Studio, stripId: string, spec: EffectSpec, values: ParameterValues = {}): void {
  const { document } = studio.state;
  const id = newId();
  const index = stripOf(document, stripId)!.insertIds.length;
  // Sound reaches a return by sends: its effects put out the wet sound alone.
  const wet = document.returns[stripId]?.role === 'return' ? wetValues(spec) : {};
  const added = studio.editor.perform(
    { type: 'insert.add', stripId, id, effect: spec.id, index, values: { ...values, ...wet } },
    `Add ${spec.name}`,
  );
  if (!added) return;
  localStorage.setItem(KEY, [spec.id, ...latelyAdded().filter((one) => one !== spec.id)].slice(0, MOST_KEPT).join(' '));
  studio.selection.selectInsert(id);
}
