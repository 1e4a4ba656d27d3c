import { largeSession } from '../../../test/support/largeSession';
import { applyChanges, documentChanges, validateTouched } from './changes';
import { documentChecksum } from './checksum';
import { applyCommand, type Command } from './commands';

describe('changes of a session of 2000 clips and 200,000 points', () => {
  const session = largeSession();
  const points = [...session.lanes['lane-3']!.points];
  points[55] = { ...points[55]!, value: 3 };

  it.each<[string, Command]>([
    ['a clip', { type: 'clip.set', id: 'clip-5-5', values: { startBeat: 41 } }],
    ['a fader', { type: 'strip.set', id: 'track-7', values: { gainDb: -3 } }],
    ['a point', { type: 'lane.set', id: 'lane-3', values: { points } }],
  ])('are under 1 kB when %s is moved, and lead to the same session', (_, command) => {
    const { document, step } = applyCommand(session, command, 'Move');
    const changes = documentChanges(session, document);
    expect(JSON.stringify([changes, step]).length).toBeLessThan(1000);
    const arrived = applyChanges(session, changes);
    validateTouched(arrived, changes);
    expect(documentChecksum(arrived)).toBe(documentChecksum(document));
  });
});
