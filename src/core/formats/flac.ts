import { DecodingReader, type Decoder } from './decodingReader';
import { broken } from './pcm';
import type { Sound } from './sound';
import { joined } from './parts';
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

/** Writes FLAC of 16 bits with dither or 24 bits. */
export async function writeFlac(sound: Sound, bits: 16 | 24): Promise<Uint8Array> {
  const flac = (await import('libflacjs/dist/libflac.js')).default as unknown as FlacEncoder;
  if (!flac.isReady()) await new Promise<void>((resolve) => flac.on('ready', resolve));
  const channels = sound.channels.length;
  const frames = sound.channels[0]!.length;
  const encoder = flac.create_libflac_encoder(sound.sampleRateHz, channels, bits, 5, frames, 0);
  if (encoder === 0) throw new Error(`FLAC cannot hold ${channels} channels at ${sound.sampleRateHz} Hz`);
  const parts: Uint8Array[] = [];
  flac.init_encoder_stream(
    encoder,
    (part) => parts.push(part.slice()),
    () => {},
  );
  const integers = sound.channels.map((channel, index) => new Quantizer(bits, index + 1).next(channel));
  const CHUNK = 65536;
  for (let start = 0; start < frames; start += CHUNK) {
    const count = Math.min(CHUNK, frames - start);
    const woven = new Int32Array(count * channels);
    for (let i = 0; i < count; i++) {
      for (let channel = 0; channel < channels; channel++)
        woven[i * channels + channel] = integers[channel]![start + i]!;
    }
    if (!flac.FLAC__stream_encoder_process_interleaved(encoder, woven, count))
      throw new Error('The FLAC encoder failed');
  }
  flac.FLAC__stream_encoder_finish(encoder);
  flac.FLAC__stream_encoder_delete(encoder);
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
