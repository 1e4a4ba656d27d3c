import { applyCommand, type Command } from '@/core/session/commands';
import type { SessionDocument } from '@/core/session/records/document';
import { newDocument } from '@/core/session/records/factories';
import { PlaybackEnd } from './playbackEnd';

const note = (id: string, startBeat: number, lengthBeats: number) => ({
  type: 'note.add' as const,
  notes: [{ id, ownerId: 'lead', startBeat, lengthBeats, key: 60, velocity: 100 }],
});

/** 120 beats a minute: a beat is half a second. The last note ends on beat 8. */
function song(...more: Command[]): SessionDocument {
  const commands: Command[] = [
    { type: 'session.set', values: { tempoBpm: 120, loopStartBeat: 0, loopEndBeat: 4 } },
    { type: 'track.add', id: 'lead', name: 'Lead' },
    note('first', 4, 4),
    ...more,
  ];
  return applyCommand(newDocument('Quay'), { type: 'all', commands }, '').document;
}

/** The first beat, by quarters up to 400, on which playing is over; null if none is. */
function over(end: PlaybackEnd, tailSeconds: number, { document = song(), armed = false, level = 0.1, from = 0 } = {}) {
  const engine = { tailSeconds, level: () => ({ left: 0, right: level }) };
  for (let beat = from; beat < 400; beat += 0.25) if (end.isOver(beat, { document, armed }, engine)) return beat;
  return null;
}

describe('playing is over', () => {
  it('when the tail after the last note is, at most 60 s after it', () => {
    expect(over(new PlaybackEnd(0), 3)).toBe(8 + 6.25);
    expect(over(new PlaybackEnd(7.9), 0)).toBe(8.25);
    expect(over(new PlaybackEnd(0), Infinity)).toBe(8 + 120.25);
  });

  it('after 10 s of silence in a tail, but not in a rest between notes', () => {
    expect(over(new PlaybackEnd(0), 50, { level: 0 })).toBe(8 + 20.25);
    const late = song(note('late', 99, 1));
    expect(over(new PlaybackEnd(0), 0, { level: 0, document: late })).toBe(100.25);
  });

  it('never in a loop, while writing is armed, without anything that sounds, or from beyond the last note', () => {
    const looped = song({ type: 'session.set', values: { loopOn: true } });
    expect(over(new PlaybackEnd(0), 0, { document: looped })).toBeNull();
    expect(over(new PlaybackEnd(0), 0, { armed: true })).toBeNull();
    expect(over(new PlaybackEnd(0), 0, { document: newDocument('Empty') })).toBeNull();
    expect(over(new PlaybackEnd(8), 0, { from: 8 })).toBeNull();
    const moved = new PlaybackEnd(0);
    moved.moveTo(9);
    expect(over(moved, 0, { from: 9 })).toBeNull();
  });

  it('no sooner than keys that are played by hand have rung out', () => {
    const end = new PlaybackEnd(0);
    end.keysUntil(Infinity);
    expect(over(end, 1, { level: 0 })).toBeNull();
    end.keysUntil(100);
    expect(over(end, 1)).toBe(102.25);
  });
});
