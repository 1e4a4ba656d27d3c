import { applyCommand } from '@/core/session/commands';
import { newDocument, type SessionDocument } from '@/core/session/records';
import { dragCommand, gridOf, laneHeight, shownBeats, type Handle } from './geometry';

const SOUND = 'b'.repeat(64);

function build(): SessionDocument {
  const clip = {
    trackId: 'a',
    source: { kind: 'sound' as const, assetId: SOUND },
    name: 'x',
    offsetSeconds: 1,
    lengthSeconds: 3,
    gainDb: 0,
    fadeInSeconds: 0.5,
    fadeOutSeconds: 0.5,
    fadeInShape: 'smooth' as const,
    fadeOutShape: 'smooth' as const,
    reversed: false,
    mute: false,
  };
  return applyCommand(
    newDocument('x'),
    {
      type: 'all',
      commands: [
        { type: 'session.set', values: { tempoBpm: 60, metreBeats: 3 } },
        { type: 'asset.add', asset: { id: SOUND, name: 'x.wav', frames: 240000, sampleRateHz: 48000, channels: 1 } },
        { type: 'track.add', id: 'a', name: 'a' },
        { type: 'track.add', id: 'b', name: 'b' },
        { type: 'clip.add', clip: { ...clip, id: 'one', startBeat: 2.25 } },
        { type: 'clip.add', clip: { ...clip, id: 'two', startBeat: 8 } },
      ],
    },
    '',
  ).document;
}

function drag(handle: Handle, deltaBeats: number, more: { grid?: number; lanes?: number; ids?: string[] } = {}) {
  const document = build();
  const moving = (more.ids ?? ['one']).map((id) => document.clips[id]!);
  const command = dragCommand(document, {
    handle,
    clip: document.clips.one!,
    moving,
    deltaBeats,
    deltaLanes: more.lanes ?? 0,
    grid: more.grid ?? 0,
  });
  return applyCommand(document, command, '').document.clips;
}

describe('dragging clips', () => {
  it('moves to the grid, with company, never before the start nor off the tracks', () => {
    expect(drag('body', 1.4, { grid: 1 }).one!.startBeat).toBe(4);
    expect(drag('body', -9).one!.startBeat).toBe(0);
    const both = drag('body', 1, { ids: ['one', 'two'], lanes: 5 });
    expect([both.one!.startBeat, both.two!.startBeat, both.one!.trackId, both.two!.trackId]).toEqual([
      3.25,
      9,
      'b',
      'b',
    ]);
  });

  it('trims the start without moving the sound, down to where the sound begins', () => {
    expect(drag('start', 0.5).one).toMatchObject({ startBeat: 2.75, offsetSeconds: 1.5, lengthSeconds: 2.5 });
    expect(drag('start', -5).one).toMatchObject({ startBeat: 1.25, offsetSeconds: 0, lengthSeconds: 4 });
    expect(drag('start', 50).one!.lengthSeconds).toBeCloseTo(0.01, 9);
  });

  it('trims the end to the grid, up to where the sound ends', () => {
    expect(drag('end', -1.1, { grid: 0.5 }).one!.lengthSeconds).toBeCloseTo(1.75, 9);
    expect(drag('end', 50).one!.lengthSeconds).toBe(4);
    expect(drag('end', -50).one).toMatchObject({ lengthSeconds: 0.01, fadeInSeconds: 0.01, fadeOutSeconds: 0 });
  });

  it('keeps fades from overlapping', () => {
    expect(drag('fadeIn', 9).one!.fadeInSeconds).toBe(2.5);
    expect(drag('fadeOut', -1).one!.fadeOutSeconds).toBe(1.5);
    expect(drag('fadeOut', 9).one!.fadeOutSeconds).toBe(0);
  });

  it('knows its grid and its length', () => {
    expect([gridOf('bar', build()), gridOf(0.5, build()), gridOf(0, build())]).toEqual([3, 0.5, 0]);
    expect(shownBeats(build())).toBe(48);
    expect([laneHeight(700, 1), laneHeight(700, 10), laneHeight(700, 40)]).toEqual([96, 70, 58]);
  });
});
