import { useEffect, type RefObject } from 'react';

const parts = new Set<HTMLElement>();

/**
 * Scrolls up and down along with all others that do so; not while `on` is false. All of them need the same height, inside
 * and out: one that cannot go as far as the others would pull them back.
 */
export function useScrollTogether(part: RefObject<HTMLElement | null>, on = true): void {
  useEffect(() => {
    const element = part.current;
    if (!element || !on) return;
    const follow = () => {
      for (const other of parts) if (other !== element) other.scrollTop = element.scrollTop;
    };
    parts.add(element);
    element.addEventListener('scroll', follow, { passive: true });
    return () => {
      parts.delete(element);
      element.removeEventListener('scroll', follow);
    };
  }, [part, on]);
}
