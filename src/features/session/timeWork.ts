import { beatsPerBar } from '@/core/session/records/queries';
import type { Section } from '@/core/session/records/session';
import { newId } from './newId';
import type { Studio } from './studio';

/** Puts bars of silence into all tracks. */
export function insertBars(studio: Studio, atBeat: number, bars: number): void {
  const beats = bars * beatsPerBar(studio.state.document.session);
  const label = bars === 1 ? 'Insert a bar' : `Insert ${bars} bars`;
  studio.editor.perform({ type: 'time.insert', atBeat, beats, newId: newId() }, label);
}

/** Puts a bar of silence in at the playhead. */
export const insertBarAtPlayhead = (studio: Studio): void => insertBars(studio, studio.transport.heardBeat, 1);

/** Puts as much silence as the loop is long in at its start. */
export const insertLoopTime = (studio: Studio): void => editLoopTime(studio, 'time.insert', "Insert the loop's time");

/** Takes what lies in the loop out of all tracks, and closes the gap. */
export const deleteLoopTime = (studio: Studio): void => editLoopTime(studio, 'time.delete', "Delete the loop's time");

function editLoopTime(studio: Studio, type: 'time.insert' | 'time.delete', label: string): void {
  const { loopStartBeat: atBeat, loopEndBeat } = studio.state.document.session;
  studio.editor.perform({ type, atBeat, beats: loopEndBeat - atBeat, newId: newId() }, label);
}

/** Names four bars from the one that the playhead stands in. */
export function addSection(studio: Studio): void {
  const perBar = beatsPerBar(studio.state.document.session);
  const startBeat = Math.floor(studio.transport.heardBeat / perBar + 1e-6) * perBar;
  studio.editor.perform(
    { type: 'section.add', section: { id: newId(), name: 'section', startBeat, lengthBeats: 4 * perBar } },
    'Add a section',
  );
}

/** Loops a section. */
export function loopSection(studio: Studio, { name, startBeat, lengthBeats }: Section): void {
  const values = { loopOn: true, loopStartBeat: startBeat, loopEndBeat: startBeat + lengthBeats };
  studio.editor.perform({ type: 'session.set', values }, `Loop ${name}`);
}

export function removeSection(studio: Studio, { id, name }: Section): void {
  studio.editor.perform({ type: 'section.remove', id }, `Remove ${name}`);
}
