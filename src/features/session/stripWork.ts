import type { Command } from '@/core/session/commands';
import { stripOf } from '@/core/session/records/queries';
import { MAIN_ID, type Return, type Strip } from '@/core/session/records/strips';
import { newId } from './newId';
import { chosenStrips } from './selection';
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

/** All that are chosen if a strip is among them, else the strip alone. */
const withChosen = ({ state }: Studio, { id }: Strip): string[] =>
  chosenStrips(state).includes(id) ? chosenStrips(state) : [id];

/** Words for a strip, and how many others with it. */
const nameOf = ({ name }: Strip, { length }: readonly string[]) =>
  length === 1 ? name : `${name} and ${length - 1} more`;

/** Turns a strip's mute or solo, and brings all that are chosen with it to the same. */
export function flipStrips(studio: Studio, strip: Strip, what: 'mute' | 'solo'): void {
  const { document } = studio.state;
  const value = !strip[what];
  const ids = withChosen(studio, strip).filter(
    (id) => (what === 'mute' || id !== MAIN_ID) && stripOf(document, id)![what] !== value,
  );
  const commands = ids.map((id): Command => ({ type: 'strip.set', id, values: { [what]: value } }));
  studio.editor.perform({ type: 'all', commands }, `${value ? 'Begin' : 'End'} ${what} of ${nameOf(strip, ids)}`);
}

/** Removes a strip, and all that are chosen with it. */
export function removeStrips(studio: Studio, strip: Strip): void {
  const ids = withChosen(studio, strip).filter((id) => id !== MAIN_ID);
  const commands = ids.map((id): Command => ({ type: 'strip.remove', id }));
  studio.editor.perform({ type: 'all', commands }, `Remove ${nameOf(strip, ids)}`);
}
