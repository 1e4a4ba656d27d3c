import { soundOf } from '@/core/session/prints';
import { endBeat } from '@/core/session/records/queries';
import type { SessionDocument } from '@/core/session/records/document';
import type { Database } from '../db/client';
import type { Summary } from '../db/schema';
import { levelsOf, outlinesOf } from '../sounds/outlines';

/** Levels that a clip as long as the session is drawn by. */
const MOST_LEVELS = 120;

/** A session as the list of sessions shows it. */
export async function summaryOf(db: Pick<Database, 'select'>, document: SessionDocument): Promise<Summary> {
  const end = endBeat(document);
  const { tempoBpm, trackIds } = document.session;
  const outlines = await outlinesOf(db, Object.keys(document.assets));
  return {
    tracks: trackIds.length,
    seconds: (end * 60) / tempoBpm,
    picture: Object.values(document.clips).map((clip) => {
      const from = clip.startBeat / end;
      const to = from + (clip.lengthSeconds * tempoBpm) / 60 / end;
      const asset = document.assets[soundOf(document, clip.source) ?? ''];
      const outline = asset && outlines.get(asset.id);
      const lane = trackIds.indexOf(clip.trackId);
      if (!outline) return [lane, from, to] as const;
      const seconds = asset.frames / asset.sampleRateHz;
      const ends = [clip.offsetSeconds / seconds, (clip.offsetSeconds + clip.lengthSeconds) / seconds] as const;
      const count = Math.max(1, Math.min(MOST_LEVELS, Math.round((to - from) * MOST_LEVELS)));
      const levels = levelsOf(outline, ...ends, count);
      return [lane, from, to, clip.reversed ? [...levels].reverse().join('') : levels] as const;
    }),
  };
}
