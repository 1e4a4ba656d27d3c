import { clamp } from '@/core/math/clamp';
import { specOf } from '@/core/effects/registry';
import { findParameter, type NumberParameter } from '@/core/effects/spec';

/** Handles of an impulse that are dragged on its picture. */
export type EditHandle = 'start' | 'end' | 'fadeIn' | 'fadeOut';

/** Edits of an impulse that its picture shows: start and fades in ms, end and stretch in percent. */
export interface ImpulseEdits {
  readonly start: number;
  readonly end: number;
  readonly fadeIn: number;
  readonly fadeOut: number;
  readonly stretch: number;
  readonly reverse: boolean;
}

/** Positions of the handles in the unedited impulse, in seconds. */
export type EditPlaces = Readonly<Record<EditHandle, number>> & { readonly reversed: boolean };

const spec = specOf('convolution');

/**
 * Fades are those of what is heard: they are as much shorter here as that is stretched, and begin at the other end where
 * it is turned round.
 * @param seconds of the impulse before its edits
 */
export function editPlaces(edits: ImpulseEdits, seconds: number): EditPlaces {
  const start = Math.min(edits.start / 1000, seconds);
  const end = Math.max(start, (edits.end / 100) * seconds);
  const [first, last, way] = edits.reverse ? [end, start, -1] : [start, end, 1];
  const inHere = (ms: number) => Math.min(ms / 1000 / (edits.stretch / 100), end - start);
  return {
    start,
    end,
    fadeIn: first + way * inHere(edits.fadeIn),
    fadeOut: last - way * inHere(edits.fadeOut),
    reversed: edits.reverse,
  };
}

/** The value of an edit whose handle stands at a place, in seconds, within what the parameter takes. */
export function editAt(handle: EditHandle, at: number, edits: ImpulseEdits, seconds: number): number {
  const { min, max } = findParameter(spec, handle) as NumberParameter;
  const places = editPlaces(edits, seconds);
  const [first, last] = edits.reverse ? [places.end, places.start] : [places.start, places.end];
  const heardMs = (distance: number) => 1000 * distance * (edits.stretch / 100);
  const way = edits.reverse ? -1 : 1;
  const value = {
    start: () => 1000 * Math.min(at, places.end),
    end: () => (100 * Math.max(at, places.start)) / seconds,
    fadeIn: () => heardMs(way * (at - first)),
    fadeOut: () => heardMs(way * (last - at)),
  }[handle]();
  const most = heardMs(places.end - places.start);
  return Number(clamp(min, handle.startsWith('fade') ? Math.min(max, Math.max(min, most)) : max, value).toPrecision(4));
}
