import { assetOf } from '@/core/session/prints';
import { endBeat } from '@/core/session/records/queries';
import type { SessionDocument } from '@/core/session/records/document';
import type { Database } from '../db/database';
import type { Summary } from '../db/schema';
import { levelsOf, outlinesOf } from '../sounds/outlines';

/** Levels that a clip as long as the session is drawn by. */
const MOST_LEVELS = 120;

/** Bars that a session is drawn by at most. */
const MOST_BARS = 200;

type Bar = Summary['picture'][number];

/** A session as the list of sessions shows it. */
export async function summaryOf(db: Pick<Database, 'select'>, document: SessionDocument): Promise<Summary> {
  const end = endBeat(document);
  const { tempoBpm, trackIds } = document.session;
  const outlines = await outlinesOf(db, Object.keys(document.assets));
  const bars = Object.values(document.clips).map((clip): Bar => {
    const from = clip.startBeat / end;
    const to = from + (clip.lengthSeconds * tempoBpm) / 60 / end;
    const asset = assetOf(document, clip);
    const outline = asset && outlines.get(asset.id);
    const lane = trackIds.indexOf(clip.trackId);
    if (!outline) return [lane, from, to];
    const seconds = asset.frames / asset.sampleRateHz;
    const ends = [clip.offsetSeconds / seconds, (clip.offsetSeconds + clip.lengthSeconds) / seconds] as const;
    const levels = levelsOf(outline, ...ends, levelCount(from, to));
    return [lane, from, to, clip.reversed ? [...levels].reverse().join('') : levels];
  });
  return { tracks: trackIds.length, seconds: (end * 60) / tempoBpm, picture: fewBars(bars, MOST_BARS) };
}

const levelCount = (from: number, to: number) =>
  Math.max(1, Math.min(MOST_LEVELS, Math.round((to - from) * MOST_LEVELS)));

/** Bars of which those next to each other on a lane are drawn as one, the nearest first, until there are few enough. */
export function fewBars(bars: readonly Bar[], most: number): readonly Bar[] {
  if (bars.length <= most) return bars;
  const sorted = [...bars].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const gaps = sorted.slice(1).map((bar, n) => (bar[0] === sorted[n]![0] ? bar[1] - sorted[n]![2] : Infinity));
  const joined = new Set(
    gaps
      .map((_, n) => n)
      .sort((a, b) => gaps[a]! - gaps[b]!)
      .slice(0, sorted.length - most)
      .filter((n) => gaps[n]! < Infinity),
  );
  const groups: Bar[][] = [];
  sorted.forEach((bar, n) => {
    if (n > 0 && joined.has(n - 1)) groups.at(-1)!.push(bar);
    else groups.push([bar]);
  });
  return groups.slice(0, most).map((group) => (group.length === 1 ? group[0]! : joinedBar(group)));
}

/** One bar over several of a lane, as loud at each point as the loudest of them there. */
function joinedBar(group: readonly Bar[]): Bar {
  const from = Math.min(...group.map((bar) => bar[1]));
  const to = Math.max(...group.map((bar) => bar[2]));
  const loudest = new Array<number>(levelCount(from, to)).fill(0);
  for (const [, barFrom, barTo, levels = 'z'] of group) {
    const at = (position: number) => ((position - from) / (to - from)) * loudest.length;
    for (
      let n = Math.floor(at(barFrom));
      n < Math.max(at(barTo), Math.floor(at(barFrom)) + 1) && n < loudest.length;
      n++
    ) {
      const part = ((n + 0.5 - at(barFrom)) / (at(barTo) - at(barFrom))) * levels.length;
      const digit = levels[Math.max(0, Math.min(levels.length - 1, Math.floor(part)))]!;
      loudest[n] = Math.max(loudest[n]!, parseInt(digit, 36));
    }
  }
  return [group[0]![0], from, to, loudest.map((level) => level.toString(36)).join('')];
}
