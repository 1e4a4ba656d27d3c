'use client';

import { useEffect, useState, type RefObject } from 'react';

/** Pixels beyond the edges of the view that count as in sight, and from one to the next of which more do. */
const BEYOND = 300;
const CHUNK = 300;

/** The visible part of a scroll box and a margin around it, in pixels of its content. */
export function useSight(scroller: RefObject<HTMLElement | null>) {
  const [sight, setSight] = useState({ left: 0, right: 0, top: 0, bottom: 0 });
  useEffect(() => {
    const view = scroller.current!;
    const look = () => {
      const [x, y] = [view.scrollLeft, view.scrollTop].map((at) => Math.floor(at / CHUNK) * CHUNK) as [number, number];
      setSight({
        left: x - BEYOND,
        right: x + CHUNK + view.clientWidth + BEYOND,
        top: y - BEYOND,
        bottom: y + CHUNK + view.clientHeight + BEYOND,
      });
    };
    const size = new ResizeObserver(look);
    size.observe(view);
    view.addEventListener('scroll', look);
    return () => {
      view.removeEventListener('scroll', look);
      size.disconnect();
    };
  }, [scroller]);
  return sight;
}
