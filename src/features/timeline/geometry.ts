import { clamp } from '@/core/math/clamp';
import type { NumberParameter } from '@/core/effects/spec';
import { landingBeat, marksOf, placedPrintOf, placeInSound, soundPlace, type PlacedPrint } from '@/core/session/prints';
import type { Clip } from '@/core/session/records/clips';
import type { PrintRecipe, SwellRecipe } from '@/core/session/records/prints';
import type { SessionDocument } from '@/core/session/records/document';
import { SWELL_PARAMETERS } from '@/core/swells/swellParameters';
import { beatsPerBar, endBeat, endBeatOf } from '@/core/session/records/queries';
import { fadesWithin, slipped, soundBeside } from '@/core/session/clipCuts';
import { SHORTEST_CLIP_SECONDS } from '@/core/session/clipEdits';
import type { Command } from '@/core/session/commands';
import { snapTo } from '../ui/music';

/** Lanes share the height there is, within these limits, in pixels. */
const LOWEST_LANE = 58;
const HIGHEST_LANE = 96;

export function laneHeight(available: number, lanes: number): number {
  return Math.max(LOWEST_LANE, Math.min(HIGHEST_LANE, Math.floor(available / Math.max(1, lanes))));
}

const SWELL_LENGTH = SWELL_PARAMETERS.find(({ id }) => id === 'length') as NumberParameter;

/** Levels from the lower to the upper edge of a clip. */
export const LEVEL_DB = { from: -24, to: 12 } as const;

/** Part of a clip's height, from its upper edge, at which its level is drawn. */
export const levelPart = (gainDb: number): number =>
  clamp(0, 1, (LEVEL_DB.to - gainDb) / (LEVEL_DB.to - LEVEL_DB.from));

/** Part of a clip that is dragged: its sound within it (slip), its level, itself, an edge or a fade. */
export type Handle = 'body' | 'slip' | 'level' | 'start' | 'end' | 'fadeIn' | 'fadeOut';

/**
 * Beats that clips are drawn to: beginnings and ends of other clips, sections and the loop, and marks and onsets within those.
 * @param moving ids of the clips that are dragged
 * @param onsetsOf onsets of a clip's sound in seconds, where they are known
 */
export function edgesBeside(
  document: SessionDocument,
  moving: ReadonlySet<string>,
  onsetsOf: (clip: Clip) => readonly number[] | null,
): number[] {
  const { loopOn, loopStartBeat, loopEndBeat } = document.session;
  const others = Object.values(document.clips).filter(({ id }) => !moving.has(id));
  return [
    0,
    ...(loopOn ? [loopStartBeat, loopEndBeat] : []),
    ...Object.values(document.sections).flatMap(({ startBeat, lengthBeats }) => [startBeat, startBeat + lengthBeats]),
    ...others.flatMap((clip) => [
      clip.startBeat,
      endBeatOf(document, clip),
      ...wordBeats(document, clip, marksOf(document, clip)),
      ...wordBeats(document, clip, onsetsOf(clip) ?? []),
    ]),
  ];
}

/** Beats the timeline shows: what there is and some bars to go on in. */
export function shownBeats(document: SessionDocument): number {
  const perBar = beatsPerBar(document.session);
  return Math.ceil(Math.max(endBeat(document) / perBar + 4, 16)) * perBar;
}

interface Drag {
  readonly handle: Handle;
  readonly clip: Clip;
  /** All clips that move along, the dragged one among them. */
  readonly moving: readonly Clip[];
  readonly deltaBeats: number;
  readonly deltaLanes: number;
  readonly grid: number;
  /** For the level. */
  readonly deltaDb?: number;
  /** Beats that edges are drawn to instead of a grid, and from how near. */
  readonly edges?: { readonly beats: readonly number[]; readonly reach: number };
}

/** The command that a drag of a clip or of one of its handles comes to. */
export function dragCommand(document: SessionDocument, drag: Drag): Command {
  const { clip, grid, deltaBeats } = drag;
  const { tempoBpm, trackIds } = document.session;
  const beatSeconds = 60 / tempoBpm;
  const endOf = endBeatOf(document, clip);
  const placed = (beat: number) =>
    drag.edges ? drawnTo(beat, drag.edges.beats, drag.edges.reach) : snapTo(beat, grid);
  switch (drag.handle) {
    case 'body': {
      // With edges, the end of the clip that is nearer to one counts.
      const [start, end] = [clip.startBeat + deltaBeats, endOf + deltaBeats];
      const byStart = placed(start) - start;
      const byEnd = drag.edges ? placed(end) - end : 0;
      const target = start + (byStart !== 0 && (byEnd === 0 || Math.abs(byStart) <= Math.abs(byEnd)) ? byStart : byEnd);
      const earliest = Math.min(...drag.moving.map((one) => one.startBeat));
      const shift = Math.max(-earliest, deltaBeats === 0 ? 0 : target - clip.startBeat);
      const lanes = drag.moving.map((one) => trackIds.indexOf(one.trackId));
      const down = Math.max(-Math.min(...lanes), Math.min(trackIds.length - 1 - Math.max(...lanes), drag.deltaLanes));
      const along = new Set(drag.moving.map(({ id }) => id));
      return {
        type: 'all',
        commands: drag.moving.flatMap((one, index): Command[] => {
          const values = { trackId: trackIds[lanes[index]! + down]! };
          const print = placedPrintOf(document, one);
          if (!print)
            return [{ type: 'clip.set', id: one.id, values: { ...values, startBeat: one.startBeat + shift } }];
          const set: Command = { type: 'clip.set', id: one.id, values };
          // A swell that is moved lands elsewhere; moved with its word it goes along by itself.
          if (print.recipe.kind !== 'swell' || along.has(print.recipe.clipId) || deltaBeats === 0) return [set];
          return [set, landingCommand(document, print, landingBeat(document, print) + deltaBeats)];
        }),
      };
    }
    case 'slip':
      return slipped(
        document,
        drag.moving.map(({ id }) => id),
        deltaBeats * beatSeconds,
      );
    case 'level':
      return {
        type: 'all',
        commands: drag.moving.map(({ id, gainDb }) => {
          const wanted = Math.round(10 * (gainDb + (drag.deltaDb ?? 0))) / 10;
          return { type: 'clip.set', id, values: { gainDb: clamp(LEVEL_DB.from, LEVEL_DB.to, wanted) } };
        }),
      };
    case 'start': {
      const print = placedPrintOf(document, clip);
      const { before } = soundBeside(document, clip);
      const wanted = placed(clip.startBeat + deltaBeats);
      if (print?.recipe.kind === 'swell') return lengthCommand(document, print, wanted);
      const earliest = Math.max(0, clip.startBeat - before / beatSeconds);
      const latest = endOf - SHORTEST_CLIP_SECONDS / beatSeconds;
      const startBeat = Math.max(earliest, Math.min(latest, wanted));
      const cut = (startBeat - clip.startBeat) * beatSeconds;
      const lengthSeconds = clip.lengthSeconds - cut;
      return {
        type: 'clip.set',
        id: clip.id,
        values: {
          startBeat,
          ...(clip.reversed ? {} : { offsetSeconds: Math.max(0, clip.offsetSeconds + cut) }),
          lengthSeconds,
          ...fadesWithin(clip, lengthSeconds),
        },
      };
    }
    case 'end': {
      const most = clip.lengthSeconds + soundBeside(document, clip).behind;
      const wanted = (placed(endOf + deltaBeats) - clip.startBeat) * beatSeconds;
      const lengthSeconds = Math.max(SHORTEST_CLIP_SECONDS, Math.min(most, wanted));
      const offsetSeconds = Math.max(0, clip.offsetSeconds + clip.lengthSeconds - lengthSeconds);
      return {
        type: 'clip.set',
        id: clip.id,
        values: { lengthSeconds, ...(clip.reversed ? { offsetSeconds } : {}), ...fadesWithin(clip, lengthSeconds) },
      };
    }
    case 'fadeIn': {
      const fadeInSeconds = clamp(
        0,
        clip.lengthSeconds - clip.fadeOutSeconds,
        clip.fadeInSeconds + deltaBeats * beatSeconds,
      );
      return { type: 'clip.set', id: clip.id, values: { fadeInSeconds } };
    }
    case 'fadeOut': {
      const fadeOutSeconds = clamp(
        0,
        clip.lengthSeconds - clip.fadeInSeconds,
        clip.fadeOutSeconds - deltaBeats * beatSeconds,
      );
      return { type: 'clip.set', id: clip.id, values: { fadeOutSeconds } };
    }
  }
}

/** Lets a swell land at a beat, within the clip that it lands in. */
export function landingCommand(document: SessionDocument, print: PlacedPrint, beat: number): Command {
  const { recipe } = print;
  const clip = document.clips[recipe.clipId]!;
  const seconds = clamp(0, clip.lengthSeconds, ((beat - clip.startBeat) * 60) / document.session.tempoBpm);
  return {
    type: 'print.set',
    id: print.id,
    recipe: { ...recipe, landSeconds: placeInSound(clip, seconds) } as PrintRecipe,
  };
}

/** Lets a swell begin at a beat before its landing. */
function lengthCommand(document: SessionDocument, print: PlacedPrint, beat: number): Command {
  const recipe = print.recipe as SwellRecipe;
  const seconds = ((landingBeat(document, print) - beat) * 60) / document.session.tempoBpm;
  const { min, max } = SWELL_LENGTH;
  const values = { ...recipe.values, ring: false, length: clamp(min, max, seconds) };
  return { type: 'print.set', id: print.id, recipe: { ...recipe, values } };
}

/** Places that a landing is drawn to: beginnings of words of a clip, as beats. */
export function wordBeats(document: SessionDocument, clip: Clip, onsets: readonly number[]): number[] {
  return onsets
    .map((one) => soundPlace(clip, one))
    .filter((seconds) => seconds >= 0 && seconds < clip.lengthSeconds)
    .map((seconds) => clip.startBeat + (seconds * document.session.tempoBpm) / 60);
}

/** The nearest of some places, where one is within reach; otherwise the place itself. */
export function drawnTo(place: number, others: readonly number[], reach: number): number {
  const nearest = others.reduce((best, one) => (Math.abs(one - place) < Math.abs(best - place) ? one : best), Infinity);
  return Math.abs(nearest - place) <= reach ? nearest : place;
}

/**
 * Places that are at least a gap apart and within two ends, as near to where they would be as can be (isotonic regression
 * by pooling neighbours; Barlow et al., 1972). Where there is no room for the gap they stand evenly.
 * @param places in rising order
 */
export function spreadOut(places: readonly number[], gap: number, from: number, to: number): number[] {
  const step = Math.min(gap, Math.max(0, to - from) / Math.max(1, places.length - 1));
  const pools: { sum: number; count: number }[] = [];
  places.forEach((place, n) => {
    let pool = { sum: place - n * step, count: 1 };
    for (let last = pools.at(-1); last && last.sum / last.count > pool.sum / pool.count; last = pools.at(-1)) {
      pool = { sum: pool.sum + last.sum, count: pool.count + last.count };
      pools.pop();
    }
    pools.push(pool);
  });
  const latest = to - (places.length - 1) * step;
  return pools
    .flatMap(({ sum, count }) => Array<number>(count).fill(clamp(from, Math.max(from, latest), sum / count)))
    .map((place, n) => place + n * step);
}
