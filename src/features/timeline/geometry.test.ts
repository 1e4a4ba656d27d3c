import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { applyCommand } from '@/core/session/commands';
import type { Clip } from '@/core/session/records/clips';
import { newDocument } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';
import { makeSwell, presetSpace } from '@/core/swells/makeSwell';
import type { SwellRecipe } from '@/core/session/records/prints';
import {
  dragCommand,
  edgesBeside,
  levelPart,
  drawnTo,
  laneHeight,
  shownBeats,
  spreadOut,
  wordBeats,
  type Handle,
} from './geometry';
import { gridOf } from '../session/snap';

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

interface More {
  readonly grid?: number;
  readonly lanes?: number;
  readonly ids?: string[];
  readonly edges?: { beats: readonly number[]; reach: number };
}

function drag(handle: Handle, deltaBeats: number, more: More = {}) {
  const document = build();
  const moving = (more.ids ?? ['one']).map((id) => document.clips[id]!);
  const command = dragCommand(document, {
    handle,
    clip: document.clips.one!,
    moving,
    deltaBeats,
    deltaLanes: more.lanes ?? 0,
    grid: more.grid ?? 0,
    ...(more.edges ? { edges: more.edges } : {}),
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

  it('moves to edges, by whichever of its own is nearer to one, and freely beyond their reach', () => {
    // It lies from 2.25 to 5.25.
    const edges = { beats: [4, 8], reach: 0.2 };
    expect(drag('body', 1.6, { edges }).one!.startBeat).toBe(4);
    expect(drag('body', 2.85, { edges }).one!.startBeat).toBe(5);
    expect(drag('body', 1.5, { edges }).one!.startBeat).toBe(3.75);
    expect(drag('body', 2.6, { edges: { beats: [5, 8.1], reach: 0.5 } }).one!.startBeat).toBe(5);
    expect(drag('start', 1.7, { edges }).one!.startBeat).toBe(4);
    expect(drag('end', -1.2, { edges }).one!.lengthSeconds).toBeCloseTo(1.75, 9);
  });

  it('sets levels together, by tenths of a decibel, within what the height shows', () => {
    const louder = (deltaDb: number) => {
      const document = build();
      const moving = [document.clips.one!, document.clips.two!];
      const [clip] = moving as [Clip];
      const values = { deltaBeats: 0, deltaLanes: 0, grid: 0, deltaDb };
      const command = dragCommand(document, { handle: 'level', clip, moving, ...values });
      const { clips } = applyCommand(document, command, '').document;
      return [clips.one!.gainDb, clips.two!.gainDb];
    };
    const [one, two] = [build().clips.one!.gainDb, build().clips.two!.gainDb];
    expect(louder(-3.14)).toEqual([one - 3.1, two - 3.1]);
    expect(louder(99)).toEqual([12, 12]);
    expect(louder(-99)).toEqual([-24, -24]);
    expect([levelPart(12), levelPart(0), levelPart(-24), levelPart(-60)]).toEqual([0, 1 / 3, 1, 1]);
  });

  it('finds the edges beside what moves: clips, marks and onsets within them, sections, the loop', () => {
    const document = applyCommand(
      build(),
      {
        type: 'all',
        commands: [
          { type: 'section.add', section: { id: 's', name: 's', startBeat: 12, lengthBeats: 6 } },
          { type: 'session.set', values: { loopOn: true, loopStartBeat: 1, loopEndBeat: 7 } },
        ],
      },
      '',
    ).document;
    // The other clip plays its sound from second 1 to 4.
    const beats = edgesBeside(document, new Set(['one']), ({ id }) => (id === 'two' ? [0.5, 1.5, 9] : [2]));
    expect(beats.sort((a, b) => a - b)).toEqual([0, 1, 7, 8, 8.5, 11, 12, 18]);
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

describe('dragging clips that are reversed', () => {
  const reversed = (handle: Handle, deltaBeats: number) => {
    const document = applyCommand(build(), { type: 'clip.set', id: 'one', values: { reversed: true } }, '').document;
    const clip = document.clips.one!;
    const command = dragCommand(document, { handle, clip, moving: [clip], deltaBeats, deltaLanes: 0, grid: 0 });
    return applyCommand(document, command, '').document.clips.one!;
  };

  it('trims what is heard first from the end of the sound, and last from its beginning', () => {
    // The clip plays seconds 1 to 4 of 5: one second is left at either end.
    expect(reversed('start', 0.5)).toMatchObject({ startBeat: 2.75, offsetSeconds: 1, lengthSeconds: 2.5 });
    expect(reversed('start', -5)).toMatchObject({ startBeat: 1.25, offsetSeconds: 1, lengthSeconds: 4 });
    expect(reversed('end', -1)).toMatchObject({ startBeat: 2.25, offsetSeconds: 2, lengthSeconds: 2 });
    expect(reversed('end', 50)).toMatchObject({ offsetSeconds: 0, lengthSeconds: 4 });
  });
});

describe('dragging a swell', () => {
  function withSwell() {
    const document = build();
    const { command, clipId, printId } = makeSwell(
      document,
      document.clips.one!,
      { from: 2, to: 2.6 },
      presetSpace('reverb', 'plate'),
      (() => {
        let id = 0;
        return () => `new-${++id}`;
      })(),
    );
    const made = { assetId: SOUND, fingerprint: 'x', landSeconds: 5 };
    const all = { type: 'all' as const, commands: [command, { type: 'print.made' as const, id: printId, made }] };
    return { document: applyCommand(document, all, '').document, clipId, printId };
  }
  const moved = (handle: Handle, deltaBeats: number, deltaLanes = 0, more: string[] = []) => {
    const { document, clipId, printId } = withSwell();
    const clip = document.clips[clipId]!;
    const moving = [clip, ...more.map((id) => document.clips[id]!)];
    const command = dragCommand(document, { handle, clip, moving, deltaBeats, deltaLanes, grid: 0 });
    const next = applyCommand(document, command, '').document;
    return { clip: next.clips[clipId]!, recipe: next.prints[printId]!.recipe as SwellRecipe, document: next };
  };

  it('lands it elsewhere in its word, and nowhere beyond it', () => {
    const before = moved('body', 0);
    // The word is 1 s into the clip, which begins on beat 2.25: at 60 beats a minute 5 s of swell lose their beginning.
    expect(before.clip).toMatchObject({ startBeat: 0, offsetSeconds: 1.75, lengthSeconds: 3.25 });
    expect(moved('body', 0.4).recipe.landSeconds).toBeCloseTo(2.4, 9);
    expect(moved('body', 90).recipe.landSeconds).toBe(4);
    expect(moved('body', 0, 1).clip.trackId).toBe('b');
    // With its word it goes along, and lands where it did.
    const both = moved('body', 2, 0, ['one']);
    expect(both.recipe.landSeconds).toBe(2);
    expect(both.clip.startBeat + both.clip.lengthSeconds).toBeCloseTo(5.25, 9);
  });

  it('sets its length by its beginning', () => {
    const { recipe } = moved('start', 1);
    expect(recipe.values).toMatchObject({ ring: false, length: expect.closeTo(2.25, 9) });
    expect(moved('start', 50).recipe.values.length).toBe(0.05);
  });

  it('is drawn to a word within reach alone', () => {
    const document = build();
    const words = wordBeats(document, document.clips.one!, [0.5, 1, 2.5, 3.9, 4.5]);
    expect(words).toEqual([2.25, 3.75, expect.closeTo(5.15, 9)]);
    expect([drawnTo(3.7, words, 0.1), drawnTo(3.5, words, 0.1), drawnTo(3, [], 1)]).toEqual([3.75, 3.5, 3]);
  });
});

describe('marks that are spread out', () => {
  it('stay where they are while they are far enough apart', () => {
    expect(spreadOut([10, 30, 60], 12, 6, 100)).toEqual([10, 30, 60]);
    expect(spreadOut([], 12, 6, 100)).toEqual([]);
  });

  it('move as little as they must: about their middle, and in from the ends', () => {
    expect(spreadOut([50, 53], 12, 6, 100)).toEqual([45.5, 57.5]);
    expect(spreadOut([0, 3, 80], 12, 6, 100)).toEqual([6, 18, 80]);
    expect(spreadOut([97, 99], 12, 6, 100)).toEqual([88, 100]);
  });

  it('keep order, gap and ends, whatever there is', () => {
    const places = fc.array(fc.double({ min: 0, max: 500, noNaN: true }), { maxLength: 60 });
    fc.assert(
      fc.property(places, fc.double({ min: 20, max: 500, noNaN: true }), (some, to) => {
        const sorted = some.map((one) => Math.min(one, to)).sort((a, b) => a - b);
        const spread = spreadOut(sorted, 12, 6, to);
        const gap = Math.min(12, (to - 6) / Math.max(1, sorted.length - 1));
        spread.forEach((place, n) => {
          expect(place).toBeGreaterThan(6 - 1e-6);
          expect(place).toBeLessThan(to + 1e-6);
          if (n > 0) expect(place - spread[n - 1]!).toBeGreaterThan(gap - 1e-6);
        });
      }),
      { numRuns: thinned(200) },
    );
  });
});
