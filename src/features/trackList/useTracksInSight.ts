import { useVirtualizer } from '@tanstack/react-virtual';
import { useCallback, useLayoutEffect, type RefObject } from 'react';
import type { Row } from '../session/state';

/** Height of a track in pixels until it has been drawn. */
const USUAL_HEIGHT = 44;
/** Tracks above and below the list that are drawn too. */
const TRACKS_BEYOND = 4;

/**
 * The tracks that are drawn: those in sight and some around them, or all.
 * @param rowOf rows that give them their heights; others are measured
 */
export function useTracksInSight(
  list: RefObject<HTMLElement | null>,
  trackIds: readonly string[],
  rowOf: ReadonlyMap<string, Row>,
  isWhole: boolean,
) {
  const count = trackIds.length;
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => list.current,
    estimateSize: (n) => rowOf.get(trackIds[n]!)?.whole ?? USUAL_HEIGHT,
    getItemKey: (n) => trackIds[n]!,
    overscan: isWhole ? count : TRACKS_BEYOND,
    initialRect: { width: innerWidth, height: innerHeight },
  });
  useLayoutEffect(() => virtual.measure(), [virtual, rowOf]);
  const items = virtual.getVirtualItems();
  const scrollTo = useCallback(
    (id: string) => {
      const at = trackIds.indexOf(id);
      if (at >= 0) virtual.scrollToIndex(at, { align: 'auto' });
      return at >= 0;
    },
    [trackIds, virtual],
  );
  return {
    above: items[0]?.start ?? 0,
    below: virtual.getTotalSize() - (items.at(-1)?.end ?? 0),
    indices: items.map(({ index }) => index),
    measure: virtual.measureElement,
    scrollTo,
  };
}
