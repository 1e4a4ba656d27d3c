import { DecodingReader, type Decoder } from './decodingReader';
import { broken } from './pcm';
import { PART_FRAMES, type Sound } from './sound';
import { inOneRun, joined } from './parts';
import { writtenWhole, type SoundWriter, type WrittenEnd } from './soundWriter';
import { Quantizer } from './wav';

/** Bytes from the beginning of a file to the end of its first block, which says what it holds. */
export const STREAM_INFO = 42;

/**
 * Fields of STREAMINFO (RFC 9639, section 8.2). `frames` is 0 if it is not stated; `blockFrames` counts where all frames of
 * the file but the last have as many.
 */
export const streamInfo = (bytes: Uint8Array) => ({
  blockFrames: (bytes[8]! << 8) | bytes[9]!,
  sampleRateHz: (bytes[18]! << 12) | (bytes[19]! << 4) | (bytes[20]! >> 4),
  channels: ((bytes[20]! >> 1) & 7) + 1,
  bits: (((bytes[20]! & 1) << 4) | (bytes[21]! >> 4)) + 1,
  frames: (bytes[21]! & 15) * 2 ** 32 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(22),
});

/** Samples of a decoder that divides by one step less than full scale has here. */
export function exact(samples: Float32Array, bits: number): Float32Array {
  const steps = 2 ** (bits - 1);
  return samples.map((x) => Math.round(x * (steps - 1)) / steps);
}

/** Reads FLAC, losslessly. Source: RFC 9639. */
export class FlacReader extends DecodingReader {
  readonly format = 'flac';
  private head: Uint8Array = new Uint8Array();
  private bits = 0;

  protected async load(): Promise<Decoder> {
    const { FLACDecoder } = await import('@wasm-audio-decoders/flac');
    return new FLACDecoder();
  }

  protected look(bytes: Uint8Array): void {
    if (this.bits > 0) return;
    this.head = joined(this.head, bytes.subarray(0, STREAM_INFO));
    if (this.head.length < STREAM_INFO) return;
    const { frames, bits, channels, sampleRateHz } = streamInfo(this.head);
    this.bits = bits;
    this.channels = channels;
    this.sampleRateHz = sampleRateHz;
    this.stated = frames > 0 ? frames : null;
  }

  protected own(channels: readonly Float32Array[]): readonly Float32Array[] {
    return channels.map((channel) => exact(channel, this.bits));
  }

  protected checkLength(): void {
    const { name, frames, stated } = this;
    if (stated !== null && frames !== stated)
      throw broken(name, `it says ${stated} frames and holds ${frames}; the file was cut short.`);
  }
}

interface FlacEncoder {
  isReady(): boolean;
  on(event: 'ready', listener: () => void): void;
  create_libflac_encoder(
    rate: number,
    channels: number,
    bits: number,
    level: number,
    total: number,
    verify: number,
  ): number;
  init_encoder_stream(encoder: number, write: (bytes: Uint8Array) => void, metadata: () => void): number;
  FLAC__stream_encoder_process_interleaved(encoder: number, samples: Int32Array, frames: number): boolean;
  FLAC__stream_encoder_finish(encoder: number): boolean;
  FLAC__stream_encoder_delete(encoder: number): void;
}

/** Writes FLAC of 16 bits with dither or 24 bits, part by part. */
export class FlacWriter implements SoundWriter {
  private readonly quantizers: readonly Quantizer[];
  private readonly encoder: number;
  /** Encoded bytes that have not been returned yet. */
  private parts: Uint8Array[] = [];
  private head: Uint8Array = new Uint8Array();
  private frames = 0;
  private isFreed = false;

  private constructor(
    private readonly flac: FlacEncoder,
    sampleRateHz: number,
    private readonly channels: number,
    bits: 16 | 24,
  ) {
    this.quantizers = Array.from({ length: channels }, (_, n) => new Quantizer(bits, n + 1));
    this.encoder = flac.create_libflac_encoder(sampleRateHz, channels, bits, 5, 0, 0);
    if (this.encoder === 0) throw new Error(`FLAC cannot hold ${channels} channels at ${sampleRateHz} Hz`);
    flac.init_encoder_stream(
      this.encoder,
      (part) => this.parts.push(part.slice()),
      () => {},
    );
  }

  static async open(sampleRateHz: number, channels: number, bits: 16 | 24): Promise<FlacWriter> {
    const flac = (await import('libflacjs/dist/libflac.js')).default as unknown as FlacEncoder;
    if (!flac.isReady()) await new Promise<void>((resolve) => flac.on('ready', resolve));
    return new FlacWriter(flac, sampleRateHz, channels, bits);
  }

  write(channels: readonly Float32Array[]): Uint8Array {
    const frames = channels[0]!.length;
    for (let start = 0; start < frames; start += PART_FRAMES) {
      const integers = channels.map((one, n) => this.quantizers[n]!.next(one.subarray(start, start + PART_FRAMES)));
      const count = integers[0]!.length;
      const woven = new Int32Array(count * this.channels);
      integers.forEach((side, channel) => {
        for (let i = 0; i < count; i++) woven[i * this.channels + channel] = side[i]!;
      });
      if (!this.flac.FLAC__stream_encoder_process_interleaved(this.encoder, woven, count))
        throw new Error('The FLAC encoder failed');
    }
    this.frames += frames;
    return this.taken();
  }

  private taken(): Uint8Array {
    const bytes = inOneRun(this.parts);
    this.parts = [];
    if (this.head.length < STREAM_INFO) this.head = joined(this.head, bytes.subarray(0, STREAM_INFO));
    return bytes;
  }

  end(): WrittenEnd {
    this.flac.FLAC__stream_encoder_finish(this.encoder);
    const rest = this.taken();
    const head = this.head.slice(0, STREAM_INFO);
    // The number of frames, in 36 bits, is known now (RFC 9639, section 8.2).
    head[21] = (head[21]! & 0xf0) | Math.floor(this.frames / 2 ** 32);
    new DataView(head.buffer).setUint32(22, this.frames % 2 ** 32);
    this.free();
    return { rest, head };
  }

  free(): void {
    if (!this.isFreed) this.flac.FLAC__stream_encoder_delete(this.encoder);
    this.isFreed = true;
  }
}

/** Writes a sound that is there as a whole. */
export async function writeFlac(sound: Sound, bits: 16 | 24): Promise<Uint8Array> {
  return writtenWhole(await FlacWriter.open(sound.sampleRateHz, sound.channels.length, bits), sound);
}
