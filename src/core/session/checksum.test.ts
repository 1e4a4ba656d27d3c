import { documentChecksum } from './checksum';
import { newDocument, newTrack } from './records/factories';
import type { SessionDocument } from './records/document';

const document = (): SessionDocument => {
  const made = newDocument('Tide');
  for (const id of ['a', 'b']) made.tracks[id] = newTrack(id, id);
  return made;
};

describe('the checksum of a document', () => {
  it('is that of its values, not of the order in which they stand', () => {
    const turned = (value: unknown): unknown =>
      typeof value !== 'object' || value === null || Array.isArray(value)
        ? value
        : Object.fromEntries(
            Object.entries(value)
              .reverse()
              .map(([key, one]) => [key, turned(one)]),
          );
    expect(documentChecksum(turned(document()) as SessionDocument)).toBe(documentChecksum(document()));
    expect(documentChecksum(document())).toMatch(/^[0-9a-f]{16}$/);
  });

  it('is another for any other value', () => {
    const sums = [
      document(),
      { ...document(), main: { ...document().main, gainDb: -1 } },
      { ...document(), tracks: { a: newTrack('a', 'a') } },
      { ...document(), tracks: { a: newTrack('a', 'a'), b: { ...newTrack('b', 'b'), mute: true } } },
      { ...document(), session: { ...document().session, trackIds: ['a', 'b'] } },
      { ...document(), session: { ...document().session, trackIds: ['b', 'a'] } },
    ].map((one) => documentChecksum(one));
    expect(new Set(sums).size).toBe(sums.length);
  });
});
