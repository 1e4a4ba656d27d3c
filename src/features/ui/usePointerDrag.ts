import { useEffect, useRef, type PointerEvent as ReactPointerEvent, type RefObject } from 'react';

/** Position of the pointer and modifier keys; `currentTarget` is the element that was pressed. */
export interface DragPoint {
  readonly clientX: number;
  readonly clientY: number;
  readonly altKey: boolean;
  readonly shiftKey: boolean;
  readonly currentTarget: Element;
}

/** Handlers of a drag; `State` is kept from its beginning to its end. */
export interface PointerDrag<State, Args extends readonly unknown[]> {
  /** The main button was pressed. @returns null for no drag */
  begin(event: ReactPointerEvent<Element>, ...args: Args): State | null;
  move(state: State, point: DragPoint): void;
  /** The button was let go. */
  end(state: State, point: DragPoint): void;
  /** Escape was pressed or the pointer was taken away: what was moved goes back. */
  cancel(state: State): void;
}

/**
 * Drags by a pointer, one at a time. Moves are followed wherever the pointer goes, even when the element that was
 * pressed is drawn anew elsewhere; Escape takes the drag back, and so does a second finger.
 * @returns the handler of pointerdown, and the state of the drag under way, null while there is none
 */
export function usePointerDrag<State, Args extends readonly unknown[] = []>(
  drag: PointerDrag<State, Args>,
): [begin: (event: ReactPointerEvent<Element>, ...args: Args) => void, state: RefObject<State | null>] {
  const latest = useRef(drag);
  useEffect(() => {
    latest.current = drag;
  });
  const stop = useRef<(() => void) | null>(null);
  const state = useRef<State | null>(null);

  const begin = (event: ReactPointerEvent<Element>, ...args: Args) => {
    if (event.button !== 0 || stop.current) return;
    const begun = latest.current.begin(event, ...args);
    if (begun === null) return;
    const element = event.currentTarget;
    const { pointerId } = event;
    element.setPointerCapture(pointerId);
    const finish = (act: () => void) => {
      stop.current?.();
      stop.current = null;
      state.current = null;
      act();
    };
    const isOurs = (other: PointerEvent) => other.pointerId === pointerId;
    const pointOf = ({ clientX, clientY, altKey, shiftKey }: PointerEvent): DragPoint => ({
      clientX,
      clientY,
      altKey,
      shiftKey,
      currentTarget: element,
    });
    const onMove = (moved: PointerEvent) => isOurs(moved) && latest.current.move(begun, pointOf(moved));
    const onUp = (up: PointerEvent) => isOurs(up) && finish(() => latest.current.end(begun, pointOf(up)));
    const onCancel = (gone: PointerEvent) => isOurs(gone) && finish(() => latest.current.cancel(begun));
    // A second finger begins another gesture.
    const onOther = (other: PointerEvent) =>
      !isOurs(other) && other.pointerType === 'touch' && finish(() => latest.current.cancel(begun));
    const onKey = (key: KeyboardEvent) => {
      if (key.key !== 'Escape') return;
      key.preventDefault();
      key.stopPropagation();
      finish(() => latest.current.cancel(begun));
    };
    window.addEventListener('pointermove', onMove);
    window.addEventListener('pointerup', onUp);
    window.addEventListener('pointercancel', onCancel);
    window.addEventListener('pointerdown', onOther);
    window.addEventListener('keydown', onKey, { capture: true });
    state.current = begun;
    stop.current = () => {
      window.removeEventListener('pointermove', onMove);
      window.removeEventListener('pointerup', onUp);
      window.removeEventListener('pointercancel', onCancel);
      window.removeEventListener('pointerdown', onOther);
      window.removeEventListener('keydown', onKey, { capture: true });
    };
  };
  return [begin, state];
}
