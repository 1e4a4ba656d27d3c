import { copiedBeats, copyClips, pastedClips, readCopiedClips } from './copiedClips';
import { applyCommand } from './commands';
import type { Clip } from './records/clips';
import type { SessionDocument } from './records/document';
import { newClip, newDocument, newTrack } from './records/factories';

const asset = (letter: string) => ({
  id: letter.repeat(64),
  name: `${letter}.wav`,
  frames: 480000,
  sampleRateHz: 48000,
  channels: 2,
});

function session(tracks: readonly string[]): SessionDocument {
  const document = newDocument('Copies');
  for (const id of tracks) {
    document.tracks[id] = newTrack(id, `Track ${id}`);
    document.session.trackIds.push(id);
  }
  return document;
}

const clip = (id: string, trackId: string, startBeat: number, letter: string): Clip => ({
  ...newClip({
    id,
    trackId,
    source: { kind: 'sound', assetId: letter.repeat(64) },
    name: id,
    startBeat,
    lengthSeconds: 3,
  }),
  gainDb: -4,
});

/** Clips on the second and the fourth of its tracks; the first has a lane. */
function source(): SessionDocument {
  const document = session(['p', 'q', 'r', 's']);
  for (const letter of ['a', 'b']) document.assets[letter.repeat(64)] = asset(letter);
  document.clips.x = clip('x', 'q', 8, 'a');
  document.clips.y = clip('y', 's', 6, 'b');
  const points = [{ beat: 1, value: -6, shape: 'straight' as const, bend: 0 }];
  document.lanes.l = {
    id: 'l',
    ownerId: 'x',
    parameter: 'gainDb',
    on: true,
    points,
    mirrorOf: null,
    mirrorAmount: 100,
  };
  return document;
}

describe('copied clips', () => {
  const paste = (into: SessionDocument, trackId: string) => {
    const { command, clipIds } = pastedClips(into, copyClips(source(), ['x', 'y']), {
      atBeat: 20,
      trackId,
      newId: 'n',
    });
    return { document: applyCommand(into, command, 'Paste').document, clipIds };
  };

  it('come with their sounds and lanes, at their distances, on the tracks below the one that is chosen', () => {
    const { document, clipIds } = paste(session(['one', 'two', 'three']), 'one');
    expect(clipIds.map((id) => document.clips[id])).toMatchObject([
      { name: 'y', trackId: 'three', startBeat: 20, gainDb: -4 },
      { name: 'x', trackId: 'one', startBeat: 22 },
    ]);
    expect(Object.keys(document.assets).sort()).toEqual(['a'.repeat(64), 'b'.repeat(64)]);
    expect(Object.values(document.lanes)).toMatchObject([{ ownerId: clipIds[1], points: [{ beat: 1, value: -6 }] }]);
  });

  it('get tracks of their own where there are not enough', () => {
    for (const [tracks, onto, names] of [
      [['one', 'two'], 'two', ['Track one', 'Track two', 'Track r', 'Track s']],
      [[], 'main', ['Track q', 'Track r', 'Track s']],
    ] as const) {
      const { document } = paste(session(tracks), onto);
      expect(document.session.trackIds.map((id) => document.tracks[id]!.name)).toEqual(names);
    }
  });

  it('are read back as they were stored, and nothing else is', () => {
    const copied = copyClips(source(), ['x', 'y']);
    expect(copiedBeats(source(), copied)).toBeCloseTo(7, 9);
    const stored = structuredClone(copied) as unknown as Record<string, unknown>;
    expect(readCopiedClips(stored)).toEqual(copied);
    const damaged = [
      null,
      undefined,
      'clips',
      { ...stored, version: 3 },
      { ...stored, clips: [] },
      { ...stored, rows: [0] },
      { ...stored, rows: [0, 7] },
      { ...stored, clips: [{ ...copied.clips[0], gainDb: 'loud' }, copied.clips[1]] },
      { ...stored, assets: undefined },
      { ...stored, lanes: [{ ...copied.lanes[0], ownerId: 'z' }] },
    ];
    for (const one of damaged) expect(readCopiedClips(one)).toBeNull();
  });
});
