import { useRef } from 'react';
import type { DragEndEvent, DragMoveEvent } from '@dnd-kit/core';
import { findEffect } from '@/core/effects/registry';
import { stripOf, stripOfInsert } from '@/core/session/records/queries';
import { newId } from '../../session/newId';
import type { Studio } from '../../session/studio';
import { useStudio } from '../../session/StudioContext';

type Under =
  { readonly kind: 'chain' } | { readonly kind: 'strip'; readonly id: string } | { readonly kind: 'nothing' };

/** The drop target under the pointer; a drag by keyboard stays in its chain. */
function under({ activatorEvent, delta }: Pick<DragMoveEvent, 'activatorEvent' | 'delta'>): Under {
  if (!(activatorEvent instanceof MouseEvent)) return { kind: 'chain' };
  for (const element of document.elementsFromPoint(
    activatorEvent.clientX + delta.x,
    activatorEvent.clientY + delta.y,
  )) {
    const id = element.closest('[data-drop-strip]')?.getAttribute('data-drop-strip');
    if (id) return { kind: 'strip', id };
    if (element.closest('.chain')) return { kind: 'chain' };
  }
  return { kind: 'nothing' };
}

/** Moves an effect within its chain or into another strip, with everything that belongs to it; or copies it there. */
export function dropEffect(
  studio: Studio,
  insertId: string,
  target: Under,
  overId: string | null,
  copies: boolean,
): void {
  const { document } = studio.state;
  const insert = document.inserts[insertId];
  const from = stripOfInsert(document, insertId);
  if (!insert || !from || target.kind === 'nothing') return;
  const to = target.kind === 'strip' ? stripOf(document, target.id) : from;
  if (!to) return;
  if (to.id === from.id) {
    const place = overId === null ? -1 : from.insertIds.indexOf(overId);
    if (target.kind === 'chain' && place >= 0 && overId !== insertId) {
      studio.editor.perform({ type: 'insert.move', id: insertId, to: place }, 'Reorder effects');
    }
    return;
  }
  const name = findEffect(insert.effect)?.name ?? 'the effect';
  const id = copies ? newId() : insertId;
  const end = to.insertIds.length;
  const { effect, values } = insert;
  const done = copies
    ? studio.editor.perform(
        { type: 'insert.add', stripId: to.id, id, effect, index: end, values },
        `Copy ${name} to ${to.name}`,
      )
    : studio.editor.perform({ type: 'insert.move', id, to: end, stripId: to.id }, `Move ${name} to ${to.name}`);
  if (done) studio.selection.selectInsert(id);
}

/** Dragging an effect: onto another one of its chain, or onto a strip; with Alt or Ctrl held at the end a copy goes there. */
export function useEffectDrop() {
  const studio = useStudio();
  const copies = useRef(false);
  const showTarget = (id: string | null) => {
    if (studio.state.dropStripId !== id) studio.set({ dropStripId: id });
  };
  return {
    onDragStart: () => {
      copies.current = false;
      const look = (event: PointerEvent) => (copies.current = event.altKey || event.ctrlKey);
      window.addEventListener('pointerup', look, { capture: true, once: true });
    },
    onDragMove: (event: DragMoveEvent) => {
      const target = under(event);
      const own = stripOfInsert(studio.state.document, String(event.active.id))?.id;
      showTarget(target.kind === 'strip' && target.id !== own ? target.id : null);
    },
    onDragEnd: (event: DragEndEvent) => {
      showTarget(null);
      const over = event.over ? String(event.over.id) : null;
      dropEffect(studio, String(event.active.id), under(event), over, copies.current);
    },
    onDragCancel: () => showTarget(null),
  };
}
