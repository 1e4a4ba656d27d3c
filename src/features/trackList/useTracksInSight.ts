import { useVirtualizer } from '@tanstack/react-virtual';
import { useLayoutEffect, type RefObject } from 'react';
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
  /** Brings a track into sight, its lanes aside; false for an id that is no track's. */
  const scrollTo = (id: string): boolean => {
    const at = trackIds.indexOf(id);
    const box = list.current;
    const place = virtual.measurementsCache[at];
    if (at < 0 || !place || !box) return false;
    // Nothing is laid out yet: the list is at its beginning.
    if (box.clientHeight === 0) return true;
    const end = place.start + (rowOf.get(id)?.height ?? place.size);
    if (place.start < box.scrollTop) box.scrollTop = place.start;
    else if (end > box.scrollTop + box.clientHeight) box.scrollTop = end - box.clientHeight;
    return true;
  };
  return {
    above: items[0]?.start ?? 0,
    below: virtual.getTotalSize() - (items.at(-1)?.end ?? 0),
    indices: items.map(({ index }) => index),
    measure: virtual.measureElement,
    scrollTo,
  };
}
