import { useLayoutEffect, useState, type RefObject } from 'react';

/** Part of a view by which it scrolls until what is drawn changes. */
const STEP = 0.5;

/**
 * Horizontal part of a scrolled sheet that is drawn, in pixels of the sheet: what is in sight and as much to either side.
 * @param gutter pixels to the left of the sheet
 */
export function useVisibleSpan(scroller: RefObject<HTMLElement | null>, gutter: number): readonly [number, number] {
  const [span, setSpan] = useState<readonly [number, number]>([0, 0]);
  useLayoutEffect(() => {
    const box = scroller.current!;
    const look = () => {
      const view = box.clientWidth || innerWidth;
      const step = STEP * view;
      const left = box.scrollLeft - gutter;
      const from = Math.floor((left - view) / step) * step;
      const to = Math.ceil((left + 2 * view) / step) * step;
      setSpan((before) => (before[0] === from && before[1] === to ? before : [from, to]));
    };
    look();
    const resized = new ResizeObserver(look);
    resized.observe(box);
    box.addEventListener('scroll', look, { passive: true });
    return () => {
      resized.disconnect();
      box.removeEventListener('scroll', look);
    };
  }, [scroller, gutter]);
  return span;
}
