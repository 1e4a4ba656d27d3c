import { useEffect, useState, type RefObject } from 'react';
import { VIEW } from './geometry';

/** By how much words are drawn larger, so that they keep their size however small the plan is. */
export function useLarger(plan: RefObject<SVGSVGElement | null>): number {
  const [larger, setLarger] = useState(1);
  useEffect(() => {
    const element = plan.current!;
    const fit = new ResizeObserver(() => {
      const scale = Math.min(element.clientWidth / VIEW.width, element.clientHeight / VIEW.height);
      setLarger(Number(Math.max(1, 1 / Math.max(0.1, scale)).toFixed(2)));
    });
    fit.observe(element);
    return () => fit.disconnect();
  }, [plan]);
  return larger;
}
