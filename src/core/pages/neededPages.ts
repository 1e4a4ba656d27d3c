import { PAGE_FRAMES } from './pagedSamples';

/** A clip of a sound that is read by pages: of a `PlanClip` what matters for that. */
export interface PagedClip {
  readonly assetId: string;
  readonly startFrame: number;
  readonly offsetFrame: number;
  readonly lengthFrames: number;
  readonly reversed?: true;
}

/** What is going to be played. */
export interface PagePlan {
  readonly clips: readonly PagedClip[];
  readonly loop: { readonly startFrame: number; readonly endFrame: number } | null;
}

export interface NeededPage {
  readonly soundId: string;
  readonly page: number;
}

/** A stretch of the session, and how long after now it begins. */
interface Window {
  readonly from: number;
  readonly to: number;
  readonly later: number;
}

/** The stretches that are played within the next frames, with those after a jump back to the beginning of the loop. */
function windowsFrom(position: number, ahead: number, loop: PagePlan['loop']): Window[] {
  const end = position + ahead;
  if (!loop || position >= loop.endFrame || end <= loop.endFrame) return [{ from: position, to: end, later: 0 }];
  const later = loop.endFrame - position;
  const again = Math.min(loop.endFrame, loop.startFrame + ahead - later);
  return [
    { from: position, to: loop.endFrame, later: 0 },
    { from: loop.startFrame, to: again, later },
  ];
}

/**
 * Pages that are heard within so many frames, soonest first, each once.
 * @param frames length of each sound that is read by pages, by id; clips of others are left out
 */
export function neededPages(
  { clips, loop }: PagePlan,
  frames: ReadonlyMap<string, number>,
  position: number,
  ahead: number,
): NeededPage[] {
  const heard: (NeededPage & { at: number })[] = [];
  for (const { from, to, later } of windowsFrom(position, ahead, loop)) {
    for (const { assetId, startFrame, offsetFrame, lengthFrames, reversed } of clips) {
      const length = frames.get(assetId);
      if (length === undefined) continue;
      const first = Math.max(from, startFrame) - startFrame;
      const last = Math.min(to, startFrame + lengthFrames) - startFrame - 1;
      if (last < first) continue;
      const soundAt = (place: number) => offsetFrame + (reversed ? lengthFrames - 1 - place : place);
      const [low, high] = [soundAt(reversed ? last : first), soundAt(reversed ? first : last)];
      const firstPage = Math.floor(Math.max(0, low) / PAGE_FRAMES);
      const lastPage = Math.floor(Math.min(length - 1, high) / PAGE_FRAMES);
      for (let page = firstPage; page <= lastPage; page++) {
        // The place in the clip at which this page begins to be heard.
        const edge = reversed ? (page + 1) * PAGE_FRAMES - 1 : page * PAGE_FRAMES;
        const place = reversed ? lengthFrames - 1 - (edge - offsetFrame) : edge - offsetFrame;
        heard.push({ soundId: assetId, page, at: later + Math.max(first, place) + startFrame - from });
      }
    }
  }
  heard.sort((a, b) => a.at - b.at);
  const seen = new Set<string>();
  return heard.flatMap(({ soundId, page }) => {
    const key = `${soundId} ${page}`;
    if (seen.has(key)) return [];
    seen.add(key);
    return { soundId, page };
  });
}
