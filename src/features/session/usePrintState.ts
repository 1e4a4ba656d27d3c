import { useMemo } from 'react';
import { printState, type PrintState } from './printQueue';
import { useStudioState } from './StudioContext';

/** State of a print; null for none. */
export function usePrintState(printId: string | null): PrintState | null {
  const state = useStudioState(({ document, printing, failedPrints }) =>
    printId === null ? null : { document, printing, failedPrints },
  );
  return useMemo(() => (state && printId !== null ? printState(state, printId) : null), [state, printId]);
}
