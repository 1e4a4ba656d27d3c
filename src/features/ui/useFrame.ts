import { useEffect, useRef } from 'react';

const callbacks = new Set<() => void>();
let request = 0;

/** One request a frame for all: a page has some hundred callbacks. */
function turn(): void {
  request = requestAnimationFrame(turn);
  for (const callback of callbacks) {
    try {
      callback();
    } catch (error) {
      // The others go on.
      reportError(error);
    }
  }
}

/** Calls back at display rate while the component is there, for what moves too fast for React. */
export function useFrame(callback: () => void): void {
  const latest = useRef(callback);
  useEffect(() => {
    latest.current = callback;
  });
  useEffect(() => {
    const call = () => latest.current();
    callbacks.add(call);
    if (callbacks.size === 1) request = requestAnimationFrame(turn);
    return () => {
      callbacks.delete(call);
      if (callbacks.size === 0) cancelAnimationFrame(request);
    };
  }, []);
}
