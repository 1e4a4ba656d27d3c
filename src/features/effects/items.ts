import type { EffectSpec } from '@/core/effects/spec';
import { useStudio, useStudioState } from '../session/StudioContext';

/** Which item of the list of an effect is open, from 1, and how to open another. */
export function useItem(insertId: string): readonly [number, (item: number) => void] {
  const studio = useStudio();
  const item = useStudioState(({ items }) => items[insertId] ?? 1);
  return [item, (next) => studio.set({ items: { ...studio.state.items, [insertId]: next } })];
}

/** The main controls of an effect; those of a list belong to the item that is open. */
export const mainOf = ({ main }: EffectSpec, item: number): string[] =>
  main.map((id) => id.replace(/\.1\./, `.${item}.`));
