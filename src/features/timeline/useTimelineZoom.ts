import { usePinch } from '@use-gesture/react';
import { useEffect, useRef, useState, type RefObject } from 'react';
import { flushSync } from 'react-dom';
import { useStudio, useStudioState } from '../session/StudioContext';

/** Pixels a beat from afar. */
const FARTHEST = 2;
/** Pixels a frame of the session close up. */
const CLOSEST = 4;
/** Pixels of the widest sheet that browsers lay out. */
const WIDEST_SHEET = 30_000_000;

interface Props {
  readonly scrollerRef: RefObject<HTMLElement | null>;
  /** Pixels to the left of the first beat. */
  readonly gutter: number;
  /** Beats that are shown, three bars of them behind the end. */
  readonly beats: number;
  readonly perBar: number;
}

/** Zoom of the timeline, and the height of its view; until somebody zooms, everything is kept in sight. */
export function useTimelineZoom({ scrollerRef, gutter, beats, perBar }: Props) {
  const studio = useStudio();
  const [viewHeight, setViewHeight] = useState(0);
  /** Zooms around a place in the view: the pointer, or the playhead when it is in sight. */
  const zoom = (factor: number, at?: number) => {
    const box = scrollerRef.current;
    if (!box) return;
    const before = studio.state.pixelsPerBeat;
    const { tempoBpm, sampleRateHz } = studio.state.document.session;
    const closest = Math.min((CLOSEST * sampleRateHz * 60) / tempoBpm, WIDEST_SHEET / beats);
    const next = Math.max(FARTHEST, Math.min(closest, before * factor));
    const playheadAt = gutter + studio.transport.heardBeat * before - box.scrollLeft;
    const anchor = at ?? (playheadAt >= 0 && playheadAt <= box.clientWidth ? playheadAt : box.clientWidth / 2);
    const beat = (box.scrollLeft + anchor - gutter) / before;
    flushSync(() => studio.set({ pixelsPerBeat: next }));
    box.scrollLeft = gutter + beat * next - anchor;
  };
  const fit = () => {
    const box = scrollerRef.current!;
    const pixels = Math.max(FARTHEST, (box.clientWidth - gutter - 16) / (beats - 3 * perBar));
    studio.set({ pixelsPerBeat: pixels, fittedAt: pixels });
    box.scrollLeft = 0;
  };
  const latest = useRef({ zoom, fit, beats });
  useEffect(() => {
    latest.current = { zoom, fit, beats };
  });
  useEffect(() => {
    const box = scrollerRef.current!;
    const onWheel = (event: WheelEvent) => {
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      latest.current.zoom(Math.exp(-event.deltaY * 0.002), event.clientX - box.getBoundingClientRect().left);
    };
    const resized = new ResizeObserver(() => {
      setViewHeight(box.clientHeight);
      if (studio.state.pixelsPerBeat === studio.state.fittedAt) latest.current.fit();
    });
    box.addEventListener('wheel', onWheel, { passive: false });
    resized.observe(box);
    return () => {
      box.removeEventListener('wheel', onWheel);
      resized.disconnect();
    };
  }, [studio, scrollerRef]);

  // Two fingers zoom about the middle between them.
  usePinch(
    ({ movement: [scale], origin: [x], first, memo }) => {
      const before = first ? 1 : (memo as number);
      latest.current.zoom(scale / before, x - scrollerRef.current!.getBoundingClientRect().left);
      return scale;
    },
    { target: scrollerRef, eventOptions: { passive: false }, pointer: { touch: true }, pinchOnWheel: false },
  );

  // Also when a step has made the session longer or shorter; not while something is dragged.
  const steps = useStudioState(({ history }) => history);
  const fittedBeats = useRef(beats);
  useEffect(() => {
    const { beats, fit } = latest.current;
    if (fittedBeats.current === beats) return;
    fittedBeats.current = beats;
    if (studio.state.pixelsPerBeat === studio.state.fittedAt) fit();
  }, [studio, steps]);
  return { zoom, fit, viewHeight };
}
