import type { Announcements } from '@dnd-kit/core';

/**
 * Announcements of a drag for screen readers, by names.
 * @param nameOf what is dragged, or what it is over
 */
export function dragAnnouncements(nameOf: (id: string) => string): Announcements {
  const over = (target: { readonly id: string | number } | null) =>
    target ? `over ${nameOf(String(target.id))}` : 'over nothing';
  return {
    onDragStart: ({ active }) => `${nameOf(String(active.id))} is picked up.`,
    onDragOver: ({ active, over: target }) => `${nameOf(String(active.id))} is ${over(target)}.`,
    onDragEnd: ({ active, over: target }) => `${nameOf(String(active.id))} is put down ${over(target)}.`,
    onDragCancel: ({ active }) => `${nameOf(String(active.id))} stays where it was.`,
  };
}
