import { textFlaw, cutText } from '../../text';

/** A place in a sound that its file names. */
export interface SoundMark {
  readonly seconds: number;
  readonly name: string;
}

/** Metadata of a sound file, as far as it has any. */
export interface SoundAbout {
  /** The time at which it begins, from midnight or from the beginning of its session. */
  readonly startSeconds?: number;
  readonly tempoBpm?: number;
  /** As written: "D minor", "Dm". */
  readonly key?: string;
  readonly title?: string;
  /** As written: "2026-03-01", "2026". */
  readonly date?: string;
  /** In order of time. */
  readonly marks?: readonly SoundMark[];
}

/** The same, and how the channels lie. */
export interface FileAbout {
  readonly told: SoundAbout;
  readonly channels: number;
  /** Mask of the places of the speakers; null where the file does not tell and its format has no order. */
  readonly speakers: number | null;
}

export const MOST_MARKS = 500;
export const LONGEST_ABOUT = 100;

/** Latest time that a file may begin at: a day and a half. */
export const LATEST_START = 129600;

const plain = (text: string | undefined) => {
  const written = text?.replace(/\0.*$/s, '').trim();
  return written && !textFlaw(written) ? cutText(written, LONGEST_ABOUT) : undefined;
};

interface Found {
  readonly startSeconds?: number | undefined;
  readonly tempoBpm?: number | undefined;
  readonly key?: string | undefined;
  readonly title?: string | undefined;
  readonly date?: string | undefined;
  readonly marks?: readonly SoundMark[] | undefined;
}

/** The same facts without those that are empty or out of range. */
export function believed(found: Found): SoundAbout {
  const { startSeconds, tempoBpm } = found;
  const [key, title, date] = [plain(found.key), plain(found.title), plain(found.date)];
  const marks = (found.marks ?? [])
    .filter(({ seconds }) => seconds >= 0 && seconds < Infinity)
    .sort((a, b) => a.seconds - b.seconds)
    .slice(0, MOST_MARKS)
    .map(({ seconds, name }, n) => ({ seconds, name: plain(name) ?? String(n + 1) }));
  return {
    ...(startSeconds !== undefined && startSeconds > 0 && startSeconds <= LATEST_START ? { startSeconds } : {}),
    ...(tempoBpm !== undefined && tempoBpm >= 20 && tempoBpm <= 300 ? { tempoBpm } : {}),
    ...(key !== undefined ? { key } : {}),
    ...(title !== undefined ? { title } : {}),
    ...(date !== undefined ? { date } : {}),
    ...(marks.length > 0 ? { marks } : {}),
  };
}

/** Text in UTF-8, or of one byte a letter where it is none. */
export function textIn(bytes: Uint8Array, from = 0, to = bytes.length): string {
  const some = bytes.subarray(from, Math.min(to, from + 4096));
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(some);
  } catch {
    return new TextDecoder('latin1').decode(some);
  }
}
