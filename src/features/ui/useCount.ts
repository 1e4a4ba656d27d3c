import { useState } from 'react';
import { useFrame } from './useFrame';

/**
 * A count of the engine since it was last cleared; when the engine starts over, so does the count.
 * @param read the count now
 */
export function useCount(read: () => number): readonly [count: number, clear: () => void] {
  const [now, setNow] = useState(0);
  const [cleared, setCleared] = useState(0);
  useFrame(() => {
    const count = read();
    if (count === now) return;
    if (count < cleared) setCleared(0);
    setNow(count);
  });
  return [Math.max(0, now - cleared), () => setCleared(now)];
}
