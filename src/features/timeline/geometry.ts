import { assetOf } from '@/core/session/prints';
import type { Clip, SessionDocument } from '@/core/session/records';
import { beatsPerBar, endBeat } from '@/core/session/records';
import { SHORTEST_CLIP_SECONDS, type Command } from '@/core/session/commands';
import type { Snap } from '../session/state';
import { snapTo } from '../ui/music';

/** Lanes share the height there is, within these limits, in pixels. */
const LOWEST_LANE = 58;
const HIGHEST_LANE = 96;

export function laneHeight(available: number, lanes: number): number {
  return Math.max(LOWEST_LANE, Math.min(HIGHEST_LANE, Math.floor(available / Math.max(1, lanes))));
}

/** What of a clip is being dragged. */
export type Handle = 'body' | 'start' | 'end' | 'fadeIn' | 'fadeOut';

/** Grid of a snap setting in beats; 0 is off. */
export function gridOf(snap: Snap, document: SessionDocument): number {
  return snap === 'bar' ? beatsPerBar(document.session) : snap;
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
}

/** The command that a drag of a clip or of one of its handles comes to. */
export function dragCommand(document: SessionDocument, drag: Drag): Command {
  const { clip, grid, deltaBeats } = drag;
  const { tempoBpm, trackIds } = document.session;
  const beatSeconds = 60 / tempoBpm;
  const endOf = clip.startBeat + clip.lengthSeconds / beatSeconds;
  switch (drag.handle) {
    case 'body': {
      const target = snapTo(clip.startBeat + deltaBeats, grid);
      const earliest = Math.min(...drag.moving.map((one) => one.startBeat));
      const shift = Math.max(-earliest, deltaBeats === 0 ? 0 : target - clip.startBeat);
      const lanes = drag.moving.map((one) => trackIds.indexOf(one.trackId));
      const down = Math.max(-Math.min(...lanes), Math.min(trackIds.length - 1 - Math.max(...lanes), drag.deltaLanes));
      return {
        type: 'all',
        commands: drag.moving.map((one, index) => ({
          type: 'clip.set' as const,
          id: one.id,
          values: { startBeat: one.startBeat + shift, trackId: trackIds[lanes[index]! + down]! },
        })),
      };
    }
    case 'start': {
      const wanted = snapTo(clip.startBeat + deltaBeats, grid);
      const earliest = Math.max(0, clip.startBeat - clip.offsetSeconds / beatSeconds);
      const latest = endOf - SHORTEST_CLIP_SECONDS / beatSeconds;
      const startBeat = Math.max(earliest, Math.min(latest, wanted));
      const cut = (startBeat - clip.startBeat) * beatSeconds;
      const lengthSeconds = clip.lengthSeconds - cut;
      return {
        type: 'clip.set',
        id: clip.id,
        values: {
          startBeat,
          offsetSeconds: Math.max(0, clip.offsetSeconds + cut),
          lengthSeconds,
          ...fadesWithin(clip, lengthSeconds),
        },
      };
    }
    case 'end': {
      const asset = assetOf(document, clip);
      const most = asset ? asset.frames / asset.sampleRateHz - clip.offsetSeconds : clip.lengthSeconds;
      const wanted = (snapTo(endOf + deltaBeats, grid) - clip.startBeat) * beatSeconds;
      const lengthSeconds = Math.max(SHORTEST_CLIP_SECONDS, Math.min(most, wanted));
      return { type: 'clip.set', id: clip.id, values: { lengthSeconds, ...fadesWithin(clip, lengthSeconds) } };
    }
    case 'fadeIn': {
      const fadeInSeconds = between(
        0,
        clip.lengthSeconds - clip.fadeOutSeconds,
        clip.fadeInSeconds + deltaBeats * beatSeconds,
      );
      return { type: 'clip.set', id: clip.id, values: { fadeInSeconds } };
    }
    case 'fadeOut': {
      const fadeOutSeconds = between(
        0,
        clip.lengthSeconds - clip.fadeInSeconds,
        clip.fadeOutSeconds - deltaBeats * beatSeconds,
      );
      return { type: 'clip.set', id: clip.id, values: { fadeOutSeconds } };
    }
  }
}

const between = (low: number, high: number, value: number) => Math.max(low, Math.min(Math.max(low, high), value));

/** Fades shortened so that they fit a new length. */
function fadesWithin(clip: Clip, lengthSeconds: number): { fadeInSeconds: number; fadeOutSeconds: number } {
  const fadeInSeconds = Math.min(clip.fadeInSeconds, lengthSeconds);
  return { fadeInSeconds, fadeOutSeconds: Math.min(clip.fadeOutSeconds, lengthSeconds - fadeInSeconds) };
}
