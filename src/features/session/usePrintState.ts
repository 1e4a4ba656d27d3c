import { printState, type PrintState } from './printQueue';
import { useStudioState } from './StudioContext';

/** State of a print; null for none. */
export const usePrintState = (printId: string | null): PrintState | null =>
  useStudioState((state) => (printId === null ? null : printState(state, printId)));
