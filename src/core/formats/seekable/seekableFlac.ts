import { messageOf } from '../../errors';
import type { FileBytes } from '../fileBytes';
import { exact, STREAM_INFO, streamInfo } from '../flac';
import { flacBlocks } from '../flacBlocks';
import { joined } from '../parts';
import { broken, checkPcm } from '../pcm';
import { frameHead, LONGEST_FRAME_HEAD } from './flacFrames';
import type { SeekableSound } from './seekableSound';

/** Bytes that are read at a time: enough for two frames of most files. */
const WINDOW = 65536;
/** Decoders, each of which goes on from where it is: clips play one sound in several places. */
const MOST_DECODERS = 8;
/** Places of frames that are remembered. */
const MOST_PLACES = 4096;
/** Looks for a place before the file is taken for damaged. */
const MOST_LOOKS = 60;

/** A frame of the file: where it lies, and what it holds. */
interface Frame {
  readonly at: number;
  readonly first: number;
  readonly frames: number;
}

interface Decoder {
  readonly ready: Promise<void>;
  reset(): Promise<void>;
  decodeFrames(frames: Uint8Array[]): Promise<{
    channelData: Float32Array[];
    samplesDecoded: number;
    errors: readonly { readonly message: string }[];
  }>;
  free(): void;
}

/**
 * FLAC in any place. Its frames tell where they belong, so a place is found by looking between two that are known, nearer
 * with each look; a seek table is not needed. Source: RFC 9639.
 */
export class SeekableFlac implements SeekableSound {
  /** Beginnings of frames by the sample they begin with, in order. */
  private readonly known: { first: number; at: number }[];
  /** Each with the sample that it takes for the next, the one used last at the end. */
  private readonly decoders: { readonly decoder: Decoder; next: number }[] = [];

  private constructor(
    private readonly file: FileBytes,
    private readonly name: string,
    private readonly info: ReturnType<typeof streamInfo>,
    begin: number,
  ) {
    this.known = [{ first: 0, at: begin }];
  }

  /**
   * @returns null for a file that does not tell how long it is
   * @throws KinetikonError file.broken
   */
  static async open(file: FileBytes, name: string): Promise<SeekableFlac | null> {
    const head = await file.read(0, STREAM_INFO);
    if (head.length < STREAM_INFO) throw broken(name, 'it is cut short in its head.');
    const info = streamInfo(head);
    checkPcm(name, info.channels, info.sampleRateHz);
    if (info.frames === 0) return null;
    const { end } = await flacBlocks(file);
    if (end === null) throw broken(name, 'it is cut short before its sound.');
    return new SeekableFlac(file, name, info, end);
  }

  get sampleRateHz(): number {
    return this.info.sampleRateHz;
  }

  get channels(): number {
    return this.info.channels;
  }

  get frames(): number {
    return this.info.frames;
  }

  /**
   * The frames in some bytes of the file; of the last one its end is not known unless the file ends there.
   * @param isBegin true if one begins with the first byte
   */
  private framesIn(bytes: Uint8Array, at: number, isBegin: boolean): Frame[] {
    const { blockFrames, frames: total } = this.info;
    const isEnd = at + bytes.length >= this.file.size;
    const found: Frame[] = [];
    /** What looks like the head of a frame, and is one if another goes on where that frame ends. */
    const likely: Frame[] = [];
    const last = bytes.length - (isEnd ? 1 : LONGEST_FRAME_HEAD);
    for (let n = 0; n < last; n++) {
      if (bytes[n] !== 255) continue;
      const head = frameHead(bytes, n, blockFrames);
      if (!head || head.first >= total) continue;
      const frame = { at: at + n, ...head };
      const goesOn = (before: Frame | undefined) => before && frame.first === before.first + before.frames;
      if (found.length > 0 ? goesOn(found.at(-1)) : isBegin && n === 0) found.push(frame);
      else if (found.length === 0) {
        const before = likely.find(goesOn);
        if (before) found.push(before, frame);
        else likely.push(frame);
      }
    }
    return found;
  }

  /** The last frame at or before a sample of which it is known where it lies. */
  private nearest(sample: number): number {
    const { known } = this;
    let [low, high] = [0, known.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (known[middle]!.first <= sample) low = middle;
      else high = middle - 1;
    }
    return low;
  }

  private remember({ first, at }: Frame): void {
    const { known } = this;
    const place = this.nearest(first);
    if (known[place]!.first === first) return;
    if (known.length >= MOST_PLACES) known.splice(1 + ((place + MOST_PLACES / 2) % (MOST_PLACES - 1)), 1);
    known.splice(this.nearest(first) + 1, 0, { first, at });
  }

  /** A place at or shortly before the frame that holds a sample. */
  private async find(sample: number): Promise<number> {
    const { info, file } = this;
    const bytesPerSample = file.size / info.frames;
    for (let look = 0; look < MOST_LOOKS; look++) {
      const place = this.nearest(sample);
      const low = this.known[place]!;
      const high = this.known[place + 1] ?? { first: info.frames, at: file.size };
      // From here on reading is quicker than looking.
      if ((sample - low.first) * bytesPerSample < WINDOW || high.at - low.at < WINDOW) return low.at;
      const share = (sample - low.first) / (high.first - low.first);
      const guess = low.at + share * (high.at - low.at) - WINDOW / 4;
      const at = Math.min(high.at - WINDOW / 2, Math.max(low.at + WINDOW / 4, Math.floor(guess)));
      const found = this.framesIn(await file.read(at, at + WINDOW), at, false);
      const begin = found[0];
      if (!begin || begin.first < low.first || begin.first > high.first) break;
      this.remember(begin);
      const last = found.at(-1)!;
      if (last.first <= sample) this.remember(last);
    }
    return this.known[this.nearest(sample)]!.at;
  }

  async read(from: number, to: number): Promise<readonly Float32Array[]> {
    const begin = await this.find(from);
    let bytes: Uint8Array = new Uint8Array();
    let frames: Frame[] = [];
    const likely = ((to - from) * this.file.size) / this.info.frames;
    const step = Math.max(WINDOW, Math.ceil(1.2 * likely));
    // The frame behind the last one is needed too: it tells where that ends.
    for (let end = begin; (frames.at(-1)?.first ?? -1) < to && end < this.file.size;) {
      const more = await this.file.read(end, end + step);
      if (more.length === 0) break;
      bytes = joined(bytes, more);
      end += more.length;
      frames = this.framesIn(bytes, begin, true);
    }
    const damaged = () => broken(this.name, `it is damaged near ${(from / this.info.sampleRateHz).toFixed(1)} s.`);
    const isEnd = begin + bytes.length >= this.file.size;
    const ends = [...frames.slice(1).map(({ at }) => at), ...(isEnd ? [begin + bytes.length] : [])];
    const wanted = ends
      .map((end, n) => ({ ...frames[n]!, end }))
      .filter(({ first, frames: count }) => first + count > from && first < to);
    const first = wanted[0];
    const last = wanted.at(-1);
    if (!first || !last || first.first > from || last.first + last.frames < to) throw damaged();
    const parts = wanted.map(({ at, end }) => bytes.slice(at - begin, end - begin));
    const channels = await this.decoded(parts, first.first, last.first + last.frames);
    if (channels[0]!.length < to - first.first) throw damaged();
    this.remember(last);
    return channels.map((channel) => exact(channel.subarray(from - first.first, to - first.first), this.info.bits));
  }

  /**
   * @param first sample of the first frame
   * @param next the sample behind the last
   */
  private async decoded(frames: Uint8Array[], first: number, next: number): Promise<readonly Float32Array[]> {
    const { FLACDecoder } = await import('@wasm-audio-decoders/flac');
    const { decoders } = this;
    // A decoder misses frames where they do not follow one another.
    const goesOn = decoders.findIndex((one) => one.next === first);
    const taken = decoders.splice(goesOn >= 0 ? goesOn : 0, goesOn >= 0 || decoders.length >= MOST_DECODERS ? 1 : 0)[0];
    try {
      const decoder = taken?.decoder ?? (new FLACDecoder() as Decoder);
      if (taken && goesOn < 0) await decoder.reset();
      await decoder.ready;
      const { channelData, errors } = await decoder.decodeFrames(frames);
      if (errors[0]) throw new Error(errors[0].message);
      decoders.push({ decoder, next });
      return channelData;
    } catch (error) {
      // After a trap its memory is of no use: it is not taken back.
      throw broken(this.name, `it is damaged (${messageOf(error)}).`);
    }
  }

  free(): void {
    for (const { decoder } of this.decoders.splice(0)) decoder.free();
  }
}
