import type { FileAbout } from '@/core/formats/about/about';
import { foldOf, heardByItself, ownOrder, takeOf, type Heard } from '@/core/formats/speakers';

/** A sound file that is to come in, and what it tells. */
export interface ArrivingFile {
  readonly file: File;
  /** Null where it tells nothing. */
  readonly about: FileAbout | null;
}

/** How several files come in: each on a track of its own, in a row on one, or at the times that they tell. */
export type Placing = 'tracks' | 'row' | 'times';

export interface ArrivalAnswer {
  readonly placing: Placing;
  /** What is heard of files that do not tell the places of their channels, by the number of these. */
  readonly heard: ReadonlyMap<number, Heard>;
}

/** Files that wait until it is said how they come in. */
export interface Arrival {
  readonly files: readonly ArrivingFile[];
  /** Name of the track that they were dropped on; null for none. */
  readonly trackName: string | null;
  /** Numbers of channels that must be asked about, lowest first. */
  readonly unplaced: readonly number[];
  /** @param answer null to leave them where they are */
  readonly answer: (answer: ArrivalAnswer | null) => void;
}

/** Numbers of channels of files that do not tell where these lie, lowest first. */
export function unplacedIn(files: readonly ArrivingFile[]): number[] {
  const counts = files.flatMap(({ about }) =>
    about && heardByItself(about.channels, about.speakers) === null ? about.channels : [],
  );
  return [...new Set(counts)].sort((a, b) => a - b);
}

/** What is most likely meant by so many channels without places: speakers in their usual order, else the first. */
export function likelyHeard(channels: number): Heard {
  const order = ownOrder(channels);
  return order === null ? takeOf(1, 1) : foldOf(order);
}

/** True if every file tells its time. */
export const tellTimes = (files: readonly ArrivingFile[]): boolean =>
  files.every(({ about }) => about?.told.startSeconds !== undefined);

/** Seconds by which each file comes after the first of them by the times that they tell. */
export function timesApart(files: readonly ArrivingFile[]): number[] {
  const starts = files.map(({ about }) => about?.told.startSeconds ?? 0);
  const first = Math.min(...starts);
  return starts.map((start) => start - first);
}
