import { effectById } from '@/core/effects/registry';
import type { EffectSpec } from '@/core/effects/spec';
import { wetValues } from '@/core/effects/spec';
import type { ParameterValues } from '@/core/effects/values';
import { stripOf } from '@/core/session/records/queries';
import type { Strip } from '@/core/session/records/strips';
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

/** Bypasses an effect, or lets it be heard again. */
export function flipBypass(studio: Studio, id: string): void {
  const { effect, bypass } = studio.state.document.inserts[id]!;
  const label = `${bypass ? 'Hear' : 'Bypass'} ${effectById(effect).name}`;
  studio.editor.perform({ type: 'insert.bypass', id, bypass: !bypass }, label);
}

export function removeEffect(studio: Studio, id: string): void {
  const { effect } = studio.state.document.inserts[id]!;
  studio.editor.perform({ type: 'insert.remove', id }, `Remove ${effectById(effect).name}`);
}

/** Copies an effect to a strip, behind the original or behind all that another strip has, and chooses the copy. */
export function copyEffect(studio: Studio, id: string, target: Strip): void {
  const { effect, values } = studio.state.document.inserts[id]!;
  const index = target.insertIds.includes(id) ? target.insertIds.indexOf(id) + 1 : target.insertIds.length;
  const copy = newId();
  const command = { type: 'insert.add', stripId: target.id, id: copy, effect, index, values } as const;
  if (studio.editor.perform(command, `Copy ${effectById(effect).name} to ${target.name}`))
    studio.selection.selectInsert(copy);
}
