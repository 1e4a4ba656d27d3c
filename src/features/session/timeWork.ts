import { beatsPerBar } from '@/core/session/records';
import { newId, type Studio } from './studio';

/** Puts bars of silence into all tracks. */
export function insertBars(studio: Studio, atBeat: number, bars: number): void {
  const beats = bars * beatsPerBar(studio.state.document.session);
  const label = bars === 1 ? 'Insert a bar' : `Insert ${bars} bars`;
  studio.perform({ type: 'time.insert', atBeat, beats, newId: newId() }, label);
}

/** Puts a bar of silence in at the playhead. */
export const insertBarAtPlayhead = (studio: Studio): void => insertBars(studio, studio.heardBeat, 1);

/** Puts as much silence as the loop is long in at its start. */
export function insertLoopTime(studio: Studio): void {
  const { loopStartBeat: atBeat, loopEndBeat } = studio.state.document.session;
  const beats = loopEndBeat - atBeat;
  studio.perform({ type: 'time.insert', atBeat, beats, newId: newId() }, "Insert the loop's time");
}

/** Takes what lies in the loop out of all tracks, and closes the gap. */
export function deleteLoopTime(studio: Studio): void {
  const { loopStartBeat: atBeat, loopEndBeat } = studio.state.document.session;
  const beats = loopEndBeat - atBeat;
  studio.perform({ type: 'time.delete', atBeat, beats, newId: newId() }, "Delete the loop's time");
}

/** Names four bars from the one that the playhead stands in. */
export function addSection(studio: Studio): void {
  const perBar = beatsPerBar(studio.state.document.session);
  const startBeat = Math.floor(studio.heardBeat / perBar + 1e-6) * perBar;
  studio.perform(
    { type: 'section.add', section: { id: newId(), name: 'section', startBeat, lengthBeats: 4 * perBar } },
    'Add a section',
  );
}
