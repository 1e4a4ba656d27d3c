import { useEffect, type RefObject } from 'react';

const parts = new Set<HTMLElement>();
/** Where a part was scrolled to along with another, until the event of that comes. */
const led = new WeakMap<HTMLElement, number>();

/**
 * Scrolls up and down along with all others that do so; not while `on` is false. All of them need the same height, inside
 * and out: one that cannot go as far as the others would pull them back.
 */
export function useScrollTogether(part: RefObject<HTMLElement | null>, on = true): void {
  useEffect(() => {
    const element = part.current;
    if (!element || !on) return;
    const follow = () => {
      const top = element.scrollTop;
      const wasLed = led.get(element) === top;
      led.delete(element);
      // The others may have gone on since they led this one here: it must not call them back.
      if (wasLed) return;
      for (const other of parts) {
        if (other === element || other.scrollTop === top) continue;
        other.scrollTop = top;
        led.set(other, top);
      }
    };
    parts.add(element);
    element.addEventListener('scroll', follow, { passive: true });
    return () => {
      parts.delete(element);
      element.removeEventListener('scroll', follow);
    };
  }, [part, on]);
}
