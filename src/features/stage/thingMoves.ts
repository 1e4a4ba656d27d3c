import type { KeyboardEvent, PointerEvent, RefObject } from 'react';
import type { Return, Track } from '@/core/session/records/strips';
import { takeOffStage, thingsOf, turnsOf, type Move } from '../session/staging';
import { useStudio } from '../session/StudioContext';
import { usePointerDrag } from '../ui/usePointerDrag';
import type { fromPlan } from '../controls/plan/geometry';
import { moveBetween, moveOfKey, polarOf, SNAP } from '../controls/plan/planMoves';

interface Drag {
  readonly ids: readonly string[];
  readonly from: ReturnType<typeof fromPlan>;
}

interface Props {
  readonly plan: RefObject<SVGSVGElement | null>;
  readonly things: readonly (Track | Return)[];
  readonly chosen: readonly string[];
  readonly snap: boolean;
  readonly drawing: boolean;
}

/** Moves things on the stage by pointer and keys; with Ctrl or Shift they are chosen beside each other. */
export function useThingMoves({ plan, things, chosen, snap, drawing }: Props) {
  const studio = useStudio();
  const nameOf = (ids: readonly string[]) =>
    ids.length === 1 ? things.find(({ id }) => id === ids[0])!.name : `${ids.length} things`;
  /** Lanes that moved these things are off until they are given back, or are written while that is armed. */
  const move = (ids: readonly string[], by: Move) => {
    const base = studio.editor.dragBase;
    const snapped = { ...by, ...(snap && by.turn !== undefined ? { snap: SNAP } : {}) };
    studio.controls.turnAll(turnsOf(base, thingsOf(base, ids), snapped), `Move ${nameOf(ids)}`);
  };
  const choose = (id: string, beside: boolean) => studio.selection.selectStrip(id, beside ? 'beside' : 'alone');

  const [press, dragged] = usePointerDrag<Drag, [id: string]>({
    begin: (event, id) => {
      if (drawing) return null;
      const beside = event.ctrlKey || event.metaKey || event.shiftKey;
      if (beside || !chosen.includes(id)) choose(id, beside);
      if (beside) return null;
      studio.editor.settle();
      return { ids: chosen.includes(id) ? chosen : [id], from: polarOf(plan.current!, event) };
    },
    move: ({ ids, from }, point) => move(ids, moveBetween(from, polarOf(plan.current!, point))),
    end: () => studio.editor.settle(),
    cancel: () => studio.editor.abandon(),
  });

  const key = (event: KeyboardEvent, strip: Track | Return) => {
    const by = moveOfKey(event, snap);
    const moveBy = () => {
      studio.editor.settle();
      move(chosen.includes(strip.id) ? chosen : [strip.id], by!);
      studio.editor.settle();
    };
    const press = () => choose(strip.id, event.ctrlKey || event.metaKey || event.shiftKey);
    const act = by ? moveBy : { Enter: press, ' ': press, Delete: () => takeOffStage(studio, strip) }[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  };
  return {
    press: press as (event: PointerEvent<Element>, id: string) => void,
    key,
    isDragging: () => dragged.current !== null,
  };
}
