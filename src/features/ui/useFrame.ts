import { useEffect, useRef } from 'react';

/** Time at display rate after the last sign of movement. */
const BUSY_MS = 1000;
/** Time between turns at rest. */
const REST_MS = 120;

const callbacks = new Set<() => void>();
/** Asked with every turn: true while something moves by itself. */
const movers = new Set<() => boolean>();
let request = 0;
let timer: ReturnType<typeof setTimeout> | undefined;
let movedAt = -Infinity;

/** One request a frame for all: a page has some hundred callbacks. */
function turn(): void {
  request = 0;
  for (const callback of callbacks) {
    try {
      callback();
    } catch (error) {
      // The others go on.
      reportError(error);
    }
  }
  if (callbacks.size > 0) schedule();
}

function schedule(): void {
  if ([...movers].some((moves) => moves())) movedAt = performance.now();
  // A callback may have asked for the next turn.
  if (request !== 0) return;
  if (performance.now() - movedAt < BUSY_MS) request = requestAnimationFrame(turn);
  else timer = setTimeout(() => (request = requestAnimationFrame(turn)), REST_MS);
}

/** Goes back to the display rate: something moves, or soon will. */
export function wakeFrames(): void {
  movedAt = performance.now();
  if (callbacks.size === 0 || request !== 0) return;
  clearTimeout(timer);
  request = requestAnimationFrame(turn);
}

const HANDS = ['pointerdown', 'pointermove', 'wheel', 'keydown', 'input', 'scroll'] as const;

/**
 * Keeps the display rate while something moves by itself or a hand is at work; otherwise a page at rest takes a turn now
 * and then.
 * @returns a function that ends that
 */
export function followMovement(moves: () => boolean): () => void {
  movers.add(moves);
  const options = { capture: true, passive: true };
  for (const name of HANDS) window.addEventListener(name, wakeFrames, options);
  return () => {
    movers.delete(moves);
    for (const name of HANDS) window.removeEventListener(name, wakeFrames, options);
  };
}

/** Calls back at display rate while the component is there and anything moves, for what moves too fast for React. */
export function useFrame(callback: () => void): void {
  const latest = useRef(callback);
  useEffect(() => {
    latest.current = callback;
  });
  useEffect(() => {
    const call = () => latest.current();
    callbacks.add(call);
    wakeFrames();
    return () => {
      callbacks.delete(call);
      if (callbacks.size > 0) return;
      cancelAnimationFrame(request);
      clearTimeout(timer);
      request = 0;
    };
  }, []);
}
