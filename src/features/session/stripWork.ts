import type { Return } from '@/core/session/records/strips';
import { newId, type Studio } from './studio';

/** Adds an empty track and chooses it. */
export function addTrack(studio: Studio): void {
  const id = newId();
  const name = `Track ${studio.state.document.session.trackIds.length + 1}`;
  if (studio.perform({ type: 'track.add', id, name }, 'Add a track')) studio.selectStrip(id);
}

/** Adds a return or a group and chooses it. */
export function addReturn(studio: Studio, role: Return['role']): void {
  const id = newId();
  const count = Object.values(studio.state.document.returns).filter((one) => one.role === role).length + 1;
  const name = `${role === 'return' ? 'Return' : 'Group'} ${count}`;
  if (studio.perform({ type: 'return.add', id, name, role }, `Add a ${role}`)) studio.selectStrip(id);
}
