import { useEffect, useRef } from 'react';

/** Calls back at display rate while the component is there, for what moves too fast for React. */
export function useFrame(callback: () => void): void {
  const latest = useRef(callback);
  useEffect(() => {
    latest.current = callback;
  });
  useEffect(() => {
    let request = 0;
    const turn = () => {
      latest.current();
      request = requestAnimationFrame(turn);
    };
    request = requestAnimationFrame(turn);
    return () => cancelAnimationFrame(request);
  }, []);
}
