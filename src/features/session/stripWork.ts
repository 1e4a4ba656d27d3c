import type { Return } from '@/core/session/records/strips';
import { newId } from './newId';
import type { Studio } from './studio';

/** Adds an empty track and chooses it. */
export function addTrack(studio: Studio): void {
  const id = newId();
  const name = `Track ${studio.state.document.session.trackIds.length + 1}`;
  if (studio.editor.perform({ type: 'track.add', id, name }, 'Add a track')) studio.selection.selectStrip(id);
}

/** Adds a return or a group and chooses it. */
export function addReturn(studio: Studio, role: Return['role']): void {
  const id = newId();
  const count = Object.values(studio.state.document.returns).filter((one) => one.role === role).length + 1;
  const name = `${role === 'return' ? 'Return' : 'Group'} ${count}`;
  if (studio.editor.perform({ type: 'return.add', id, name, role }, `Add a ${role}`)) studio.selection.selectStrip(id);
}
