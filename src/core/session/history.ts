import { applyStep, type Step } from './commands';
import { HISTORY_LENGTH, type History, type HistoryChange } from './storedHistory';
import type { SessionDocument } from './records/document';

/** Remembers a step; what had been taken back before it is gone. */
export function remember(history: History, step: Step): History {
  const past = [...history.past, step];
  const dropped = Math.max(0, past.length - HISTORY_LENGTH);
  return { past: past.slice(dropped), future: [], base: history.base + dropped };
}

/**
 * Takes the last step back; null when there is none.
 * @throws KinetikonError those of `applyStep`
 */
export function undo(
  document: SessionDocument,
  history: History,
): { document: SessionDocument; history: History } | null {
  const step = history.past.at(-1);
  if (!step) return null;
  return {
    document: applyStep(document, step.inverse),
    history: { ...history, past: history.past.slice(0, -1), future: [...history.future, step] },
  };
}

/**
 * Does the step last taken back again; null when there is none.
 * @throws KinetikonError those of `applyStep`
 */
export function redo(
  document: SessionDocument,
  history: History,
): { document: SessionDocument; history: History } | null {
  const step = history.future.at(-1);
  if (!step) return null;
  return {
    document: applyStep(document, step.forward),
    history: { ...history, past: [...history.past, step], future: history.future.slice(0, -1) },
  };
}

/** All steps in the order of their numbers. */
function inOrder({ past, future }: History): readonly Step[] {
  return [...past, ...future.toReversed()];
}

/** The difference between a stored history and the current one; steps are compared by identity. */
export function historyChange(stored: History, now: History): HistoryChange {
  const before = inOrder(stored);
  const after = inOrder(now);
  let keep = now.base;
  while (keep - now.base < after.length && before[keep - stored.base] === after[keep - now.base]) keep++;
  return { keep, append: after.slice(keep - now.base), first: now.base, cursor: now.base + now.past.length };
}

/** The history that steps in the order of their numbers make, the first of them being number `base`. */
export function historyOf(steps: readonly Step[], base: number, cursor: number): History {
  return { past: steps.slice(0, cursor - base), future: steps.slice(cursor - base).toReversed(), base };
}
