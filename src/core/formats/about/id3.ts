import type { FileBytes } from '../fileBytes';
import { firstFrame, sevens } from '../mpeg';
import { believed, textIn, type FileAbout, type SoundMark } from './about';

const MOST_FRAMES = 2000;
/** Bytes of a tag that are read: pictures behind them are of no use. */
const MOST_BYTES = 4 * 1024 * 1024;

const plainSize = (bytes: Uint8Array, at: number) =>
  [0, 1, 2, 3].reduce((sum, n) => sum * 256 + (bytes[at + n] ?? 0), 0);

/** Text behind a byte that tells its encoding. */
function encoded(bytes: Uint8Array): string {
  const text = bytes.subarray(1, 4096);
  switch (bytes[0]) {
    case 1:
      return new TextDecoder(text[0] === 0xfe ? 'utf-16be' : 'utf-16le').decode(text);
    case 2:
      return new TextDecoder('utf-16be').decode(text);
    case 3:
      return new TextDecoder().decode(text);
    default:
      return textIn(text);
  }
}

interface Frame {
  readonly id: string;
  readonly content: Uint8Array;
}

function framesIn(bytes: Uint8Array, from: number, version: number): Frame[] {
  const frames: Frame[] = [];
  for (let at = from; at + 10 <= bytes.length && bytes[at] !== 0 && frames.length < MOST_FRAMES;) {
    const size = version === 4 ? sevens(bytes, at + 4) : plainSize(bytes, at + 4);
    frames.push({ id: textIn(bytes, at, at + 4), content: bytes.subarray(at + 10, at + 10 + size) });
    at += 10 + size;
  }
  return frames;
}

function chapterIn(content: Uint8Array, version: number): SoundMark[] {
  const end = content.indexOf(0);
  if (end < 0 || content.length < end + 17) return [];
  const title = framesIn(content, end + 17, version).find(({ id }) => id === 'TIT2');
  return [{ seconds: plainSize(content, end + 1) / 1000, name: title ? encoded(title.content) : '' }];
}

/**
 * Title, date, tempo, key and chapters of the tag before an MP3.
 * Source: ID3v2.3.0 and 2.4.0, and their addendum on chapters.
 */
export async function mp3About(file: FileBytes): Promise<FileAbout | null> {
  const head = await file.read(0, 10);
  const at = firstFrame(head);
  const audio = await file.read(at, at + 4);
  if (audio.length < 4) return null;
  const isMono = audio[3]! >> 6 === 3;
  const own = { channels: isMono ? 1 : 2, speakers: null, told: {} };
  const version = head[3]!;
  if (at === 0 || (version !== 3 && version !== 4)) return own;
  const tag = await file.read(0, Math.min(at, MOST_BYTES));
  const hasMore = (tag[5]! & 64) !== 0;
  // The size of an extended head counts itself from version 4 on.
  const first = 10 + (!hasMore ? 0 : version === 4 ? sevens(tag, 10) : 4 + plainSize(tag, 10));
  const frames = framesIn(tag, first, version);
  const text = (...ids: string[]) => {
    const found = frames.find(({ id }) => ids.includes(id));
    return found && encoded(found.content);
  };
  return {
    ...own,
    told: believed({
      tempoBpm: Number(text('TBPM')?.replace(/\0.*$/s, '')),
      key: text('TKEY'),
      title: text('TIT2'),
      date: text('TDRC') ?? text('TYER'),
      marks: frames.flatMap(({ id, content }) => (id === 'CHAP' ? chapterIn(content, version) : [])),
    }),
  };
}
