import type { RefObject } from 'react';
import { useStudio } from '../session/StudioContext';
import { meterPosition } from '../ui/levels';
import { writeStyle } from '../ui/drawn';
import { useFrame } from '../ui/useFrame';

/** Draws lines as wide as the sound on them is loud, and the meters of strips. */
export function useSignalWidths(box: RefObject<HTMLElement | null>): void {
  const studio = useStudio();
  useFrame(() => {
    box.current?.querySelectorAll<SVGPathElement>('[data-from]').forEach((line) => {
      const { left, right } = studio.engine.level(line.dataset.from!);
      const gain = Number(line.dataset.gain);
      writeStyle(line, 'stroke-width', `${(1.2 + 5 * meterPosition(Math.max(left, right) * gain)).toFixed(2)}px`);
    });
    box.current?.querySelectorAll<HTMLElement>('[data-node-meter]').forEach((bar) => {
      const { left, right } = studio.engine.level(bar.dataset.nodeMeter!);
      writeStyle(bar, 'transform', `scaleX(${meterPosition(Math.max(left, right)).toFixed(3)})`);
    });
  });
}
