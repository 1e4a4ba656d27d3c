import { applyStep, type Step } from './commands';
import type { SessionDocument } from './records';

/** Steps that can be taken back and steps that can be done again, newest last. Saved with the session. */
export interface History {
  readonly past: readonly Step[];
  readonly future: readonly Step[];
}

export const EMPTY_HISTORY: History = { past: [], future: [] };

/** Steps kept. */
export const HISTORY_LENGTH = 200;

/** Remembers a step; what had been taken back before it is gone. */
export function remember(history: History, step: Step): History {
  return { past: [...history.past, step].slice(-HISTORY_LENGTH), future: [] };
}

/** Takes the last step back; null when there is none. */
export function undo(
  document: SessionDocument,
  history: History,
): { document: SessionDocument; history: History } | null {
  const step = history.past.at(-1);
  if (!step) return null;
  return {
    document: applyStep(document, step.inverse),
    history: { past: history.past.slice(0, -1), future: [...history.future, step] },
  };
}

/** Does the step last taken back again; null when there is none. */
export function redo(
  document: SessionDocument,
  history: History,
): { document: SessionDocument; history: History } | null {
  const step = history.future.at(-1);
  if (!step) return null;
  return {
    document: applyStep(document, step.forward),
    history: { past: [...history.past, step], future: history.future.slice(0, -1) },
  };
}
