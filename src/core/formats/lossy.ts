import { DecodingReader, type Decoder } from './decodingReader';
import { mpegHead, OWN_DELAY, type MpegHead } from './mpeg';
import { OggPages } from './ogg';
import { broken } from './pcm';
import { joined, LONGEST_HEAD, NOTHING } from './parts';

/** Places of the channels in the order of WAV, by their number, in files of Vorbis and of Opus (RFC 7845, section 5.1.1.2). */
const ORDERS: Readonly<Record<number, readonly number[]>> = {
  3: [0, 2, 1],
  5: [0, 2, 1, 3, 4],
  6: [0, 2, 1, 5, 3, 4],
  7: [0, 2, 1, 6, 5, 3, 4],
  8: [0, 2, 1, 7, 5, 6, 3, 4],
};

const ordered = (channels: readonly Float32Array[]) =>
  ORDERS[channels.length]?.map((from) => channels[from]!) ?? channels;

/** Reads Ogg Vorbis, cut to its own length. Source: Vorbis I specification, appendix A. */
export class VorbisReader extends DecodingReader {
  readonly format = 'vorbis';
  private readonly pages = new OggPages(this.name);

  protected async load(): Promise<Decoder> {
    const { OggVorbisDecoder } = await import('@wasm-audio-decoders/ogg-vorbis');
    return new OggVorbisDecoder();
  }

  protected look(bytes: Uint8Array): void {
    this.pages.push(bytes);
  }

  protected own(channels: readonly Float32Array[]): readonly Float32Array[] {
    return ordered(channels);
  }

  protected checkLength(): void {
    this.pages.end();
  }
}

/** Reads Opus in Ogg at 48 kHz, in its place to the sample. Source: RFC 7845. */
export class OpusReader extends DecodingReader {
  readonly format = 'opus';
  private readonly pages = new OggPages(this.name);
  private head: Uint8Array = new Uint8Array();
  /** Frames that the encoder put in front; the decoder leaves them out. */
  private skipped = 0;
  /** Decoded and not handed on: it may lie beyond the end. */
  private rest: readonly Float32Array[] = NOTHING;

  protected async load(): Promise<Decoder> {
    const { OggOpusDecoder } = await import('ogg-opus-decoder');
    return new OggOpusDecoder();
  }

  protected look(bytes: Uint8Array): void {
    this.pages.push(bytes);
    if (this.head.length >= 40) return;
    this.head = joined(this.head, bytes.subarray(0, 40));
    if (this.head.length >= 40) this.skipped = new DataView(this.head.buffer, this.head.byteOffset).getUint16(38, true);
  }

  /** No page goes further than its position, less what was skipped (section 4.4). */
  protected own(channels: readonly Float32Array[], isLast: boolean): readonly Float32Array[] {
    const before = this.rest;
    const all = channels.length === 0 ? before : channels.map((one, n) => (before[n] ? joined(before[n], one) : one));
    const room = Math.max(0, this.pages.granule - this.skipped - this.frames);
    this.rest = isLast ? NOTHING : all.map((one) => one.slice(room));
    return ordered(all.map((one) => one.subarray(0, room)));
  }

  protected checkLength(): void {
    this.pages.end();
  }
}

/**
 * Reads MP3. Where its first frame tells the delay and the padding of the encoder, both are cut, so that the sound is in its
 * place to the sample; else the decoder's own delay of 529 samples alone.
 * Source: ISO/IEC 11172-3 and 13818-3, layer III.
 */
export class Mp3Reader extends DecodingReader {
  readonly format = 'mp3';
  private unread: Uint8Array = new Uint8Array();
  private about: MpegHead | null = null;
  /** Frames that are still to be cut from the beginning. */
  private ahead = 0;

  protected async load(): Promise<Decoder> {
    const { MPEGDecoder } = await import('mpg123-decoder');
    return new MPEGDecoder();
  }

  protected look(bytes: Uint8Array): void {
    if (this.about) return;
    this.unread = joined(this.unread, bytes);
    this.about = mpegHead(this.unread, this.name);
    if (!this.about && this.unread.length > LONGEST_HEAD)
      throw broken(this.name, 'its first frame does not begin in the first 16 MiB.');
    if (!this.about) return;
    this.unread = new Uint8Array();
    this.stated = this.about.frames;
    this.ahead = this.about.isGapless ? 0 : OWN_DELAY;
  }

  protected own(channels: readonly Float32Array[]): readonly Float32Array[] {
    const cut = Math.min(this.ahead, channels[0]?.length ?? 0);
    this.ahead -= cut;
    // The decoder gives the one channel twice.
    const kept = this.about?.isMono ? channels.slice(0, 1) : channels;
    return cut === 0 ? kept : kept.map((one) => one.subarray(cut));
  }

  protected checkLength(): void {
    const { name, frames, stated } = this;
    if (stated !== null && frames < stated)
      throw broken(name, `it says ${stated} frames and holds ${frames}; the file was cut short.`);
  }
}
