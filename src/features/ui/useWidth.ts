import { useEffect, useState, type RefObject } from 'react';

/** Width of an element in CSS pixels, as it changes. @param first until it has been measured */
export function useWidth(element: RefObject<Element | null>, first: number): number {
  const [width, setWidth] = useState(first);
  useEffect(() => {
    const { current } = element;
    if (!current) return;
    const measured = new ResizeObserver(() => setWidth(current.clientWidth || first));
    measured.observe(current);
    return () => measured.disconnect();
  }, [element, first]);
  return width;
}
