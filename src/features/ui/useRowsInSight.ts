import { useVirtualizer } from '@tanstack/react-virtual';
import { useLayoutEffect, useState, type RefObject } from 'react';

/** Up to so many rows are drawn, in sight or not. */
const FEW = 60;
/** Usual height of a row in pixels. */
const ROW = 28;
/** Rows above and below the view that are drawn too. */
const BEYOND = 12;

/** The part of the page in which an element scrolls. */
function scrollerOf(element: Element | null): Element | null {
  for (let box = element?.parentElement ?? null; box; box = box.parentElement)
    if (/auto|scroll/.test(getComputedStyle(box).overflowY)) return box;
  return document.scrollingElement;
}

/**
 * Rows of a long table that are drawn: those in sight and some around them.
 * @param body the rows, within something that scrolls
 */
export function useRowsInSight(body: RefObject<HTMLElement | null>, count: number) {
  const isLong = count > FEW;
  const [margin, setMargin] = useState(0);
  const virtual = useVirtualizer({
    count,
    enabled: isLong,
    getScrollElement: () => scrollerOf(body.current),
    estimateSize: () => ROW,
    overscan: BEYOND,
    scrollMargin: margin,
    initialRect: { width: innerWidth, height: innerHeight },
  });
  useLayoutEffect(() => {
    const box = scrollerOf(body.current);
    if (!isLong || !box) return;
    const look = () => {
      const top = body.current!.getBoundingClientRect().top - box.getBoundingClientRect().top + box.scrollTop;
      setMargin(Math.round(top));
    };
    const resized = new ResizeObserver(look);
    for (const child of box.children) resized.observe(child);
    look();
    return () => resized.disconnect();
  }, [body, isLong]);
  if (!isLong) return { above: 0, below: 0, indices: Array.from({ length: count }, (_, n) => n), measure: null };
  const items = virtual.getVirtualItems();
  return {
    above: (items[0]?.start ?? margin) - margin,
    below: virtual.getTotalSize() + margin - (items.at(-1)?.end ?? margin),
    indices: items.map(({ index }) => index),
    /** Taken by each row as its `ref`: long names make it higher. */
    measure: virtual.measureElement,
  };
}
