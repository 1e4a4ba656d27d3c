import type { FileBytes } from '../fileBytes';
import { STREAM_INFO, streamInfo } from '../flac';
import { flacBlocks } from '../flacBlocks';
import { fits, ownOrder } from '../speakers';
import { believed, textIn, type FileAbout, type SoundAbout, type SoundMark } from './about';

const MOST_COMMENTS = 2000;
/** Bytes from the beginning of an Ogg file in which its comments are looked for. */
const OGG_HEAD = 262144;

/** Kind of the FLAC block that holds them. */
const VORBIS_COMMENT = 4;

type Comments = ReadonlyMap<string, string>;

/** Comments by their names in capitals. Source: Vorbis I specification, section 5. */
function commentsIn(bytes: Uint8Array): Comments {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const comments = new Map<string, string>();
  if (bytes.length < 8) return comments;
  let at = 4 + view.getUint32(0, true);
  if (at + 4 > bytes.length) return comments;
  let left = Math.min(MOST_COMMENTS, view.getUint32(at, true));
  for (at += 4; left > 0 && at + 4 <= bytes.length; left--) {
    const length = view.getUint32(at, true);
    const [name, ...value] = textIn(bytes, at + 4, at + 4 + length).split('=');
    if (value.length > 0) comments.set(name!.toUpperCase(), value.join('='));
    at += 4 + length;
  }
  return comments;
}

/** Seconds of "hh:mm:ss.mmm"; undefined for anything else. */
function secondsOf(time: string): number | undefined {
  const [, hours, minutes, seconds] = /^(\d+):(\d\d):(\d\d(?:\.\d+)?)$/.exec(time) ?? [];
  return seconds === undefined ? undefined : Number(hours) * 3600 + Number(minutes) * 60 + Number(seconds);
}

function chaptersIn(comments: Comments): SoundMark[] {
  return [...comments].flatMap(([name, value]) => {
    const number = /^CHAPTER(\d{1,3})$/.exec(name)?.[1];
    const seconds = number === undefined ? undefined : secondsOf(value);
    return seconds === undefined ? [] : { seconds, name: comments.get(`CHAPTER${number}NAME`) ?? '' };
  });
}

const aboutOf = (comments: Comments): SoundAbout =>
  believed({
    tempoBpm: comments.has('BPM') ? Number(comments.get('BPM')) : Number(comments.get('TEMPO')),
    key: comments.get('KEY') ?? comments.get('INITIALKEY'),
    title: comments.get('TITLE'),
    date: comments.get('DATE'),
    marks: chaptersIn(comments),
  });

/** Tags and channels of a FLAC file. Source: RFC 9639, sections 8 and 9.1.3. */
export async function flacAbout(file: FileBytes): Promise<FileAbout | null> {
  const info = await file.read(0, STREAM_INFO);
  if (info.length < STREAM_INFO) return null;
  const { channels } = streamInfo(info);
  const { blocks } = await flacBlocks(file);
  const block = blocks.find(({ kind }) => kind === VORBIS_COMMENT);
  const comments = commentsIn(block ? await file.read(block.at, block.at + block.size) : new Uint8Array());
  const mask = Number(comments.get('WAVEFORMATEXTENSIBLE_CHANNEL_MASK'));
  // A mask of zero says that the channels stand for no places.
  const speakers = Number.isInteger(mask) ? (fits(mask, channels) ? mask : null) : ownOrder(channels);
  return { channels, speakers, told: aboutOf(comments) };
}

/** The first packets of an Ogg file, each whole. Source: RFC 3533, section 6. */
function packetsIn(bytes: Uint8Array, count: number): Uint8Array[] {
  const packets: Uint8Array[] = [];
  let open: number[] = [];
  for (let at = 0; at + 27 <= bytes.length && packets.length < count;) {
    const segments = bytes.subarray(at + 27, at + 27 + bytes[at + 26]!);
    let place = at + 27 + segments.length;
    for (const length of segments) {
      for (const byte of bytes.subarray(place, place + length)) open.push(byte);
      place += length;
      if (length === 255) continue;
      packets.push(Uint8Array.from(open));
      open = [];
    }
    at = place;
  }
  return packets;
}

/** Tags and channels of Ogg Vorbis or Opus. Source: Vorbis I specification; RFC 7845, section 5. */
export async function oggAbout(file: FileBytes): Promise<FileAbout | null> {
  const [head, tags = new Uint8Array()] = packetsIn(await file.read(0, OGG_HEAD), 2);
  if (!head) return null;
  if (textIn(head, 0, 8) === 'OpusHead') {
    const channels = head[9] ?? 0;
    // Only the first two families of mapping place the channels.
    return {
      channels,
      speakers: head[18]! <= 1 ? ownOrder(channels) : null,
      told: aboutOf(commentsIn(tags.subarray(8))),
    };
  }
  const channels = head[11] ?? 0;
  return { channels, speakers: ownOrder(channels), told: aboutOf(commentsIn(tags.subarray(7))) };
}
