import { testStudio, withEffect } from '../../../test/support/studio';
import { newClip } from '@/core/session/records/factories';

const SOUND = 'a'.repeat(64);

/** A voice with an effect, a clip, a lane of two points and two notes, and a harp; all of the voice's is selected. */
function selected() {
  const test = testStudio([
    ...withEffect('delay'),
    { type: 'track.add', id: 'harp', name: 'Harp' },
    { type: 'asset.add', asset: { id: SOUND, name: 'a.wav', frames: 480000, sampleRateHz: 48000, channels: 1 } },
    {
      type: 'clip.add',
      clip: newClip({
        id: 'word',
        trackId: 'voice',
        source: { kind: 'sound', assetId: SOUND },
        name: 'Word',
        startBeat: 0,
        lengthSeconds: 2,
      }),
    },
    {
      type: 'lane.add',
      lane: {
        id: 'mix',
        ownerId: 'one',
        parameter: 'mix',
        on: true,
        points: [0, 4].map((beat) => ({ beat, value: 50, shape: 'straight' as const, bend: 0 })),
        mirrorOf: null,
        mirrorAmount: 100,
      },
    },
    {
      type: 'note.add',
      notes: ['low', 'high'].map((id, n) => ({
        id,
        ownerId: 'voice',
        startBeat: n,
        lengthBeats: 1,
        key: 60 + n,
        velocity: 96,
      })),
    },
  ]);
  test.store.setState({
    stripId: 'voice',
    insertId: 'one',
    clipIds: ['word'],
    laneId: 'mix',
    pointIndices: [0, 1],
    notesFor: 'voice',
    noteIds: ['low', 'high'],
  });
  return test;
}

describe('the selection', () => {
  it('leaves what is removed, and comes back to nothing by itself', () => {
    const { studio, store } = selected();
    studio.editor.perform({ type: 'note.remove', ids: ['low'] }, 'Remove');
    studio.editor.perform({ type: 'lane.set', id: 'mix', values: { points: [] } }, 'Clear');
    studio.editor.perform({ type: 'clip.remove', ids: ['word'] }, 'Remove');
    expect(store.getState()).toMatchObject({ noteIds: ['high'], pointIndices: [], clipIds: [], laneId: 'mix' });
    studio.editor.perform({ type: 'insert.remove', id: 'one' }, 'Remove');
    expect(store.getState()).toMatchObject({ insertId: null, laneId: null, stripId: 'voice' });
    studio.editor.undo();
    expect(store.getState()).toMatchObject({ insertId: 'one', laneId: null });
  });

  it('goes to another strip when its own is removed', () => {
    const { studio, store } = selected();
    studio.editor.perform({ type: 'strip.remove', id: 'voice' }, 'Remove');
    expect(store.getState()).toMatchObject({
      stripId: 'harp',
      insertId: null,
      clipIds: [],
      notesFor: null,
      noteIds: [],
    });
  });

  it('keeps to what belongs to the strip that is chosen', () => {
    const { studio, store } = selected();
    studio.selection.selectStrip('harp');
    expect(store.getState()).toMatchObject({ clipIds: [], laneId: null, notesFor: 'harp', noteIds: [] });
    studio.selection.openLane('mix');
    expect(store.getState()).toMatchObject({ stripId: 'voice', laneId: 'mix', view: 'timeline' });
    studio.selection.selectClip('word', false);
    expect(store.getState()).toMatchObject({ clipIds: ['word'], laneId: null });
    studio.selection.selectClip('word', true);
    expect(store.getState().clipIds).toEqual([]);
  });

  it('is not set anew by a drag that takes nothing away', () => {
    const { studio, store } = selected();
    const seen: unknown[] = [];
    store.subscribe(({ noteIds, pointIndices, clipIds }) => seen.push(noteIds, pointIndices, clipIds));
    const { noteIds, pointIndices, clipIds } = store.getState();
    studio.editor.preview({ type: 'clip.set', id: 'word', values: { startBeat: 2 } }, 'Move');
    studio.editor.preview({ type: 'clip.set', id: 'word', values: { startBeat: 3 } }, 'Move');
    expect(seen).toEqual([noteIds, pointIndices, clipIds, noteIds, pointIndices, clipIds]);
    for (const [n, list] of [noteIds, pointIndices, clipIds].entries()) expect(seen[3 + n]).toBe(list);
  });
});
