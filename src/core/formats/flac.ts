import { FLACDecoder } from '@wasm-audio-decoders/flac';
import { KinetikonError } from '../errors';
import { MAXIMUM_CHANNELS, MAXIMUM_RATE_HZ, MINIMUM_RATE_HZ, type Sound } from './sound';
import { quantize } from './wav';

/** Frames and rate as STREAMINFO states them (RFC 9639, section 8.2); null when the bytes are not FLAC. */
export function streamInfo(bytes: Uint8Array): { frames: number; bits: number } | null {
  if (bytes.length < 42 || String.fromCharCode(...bytes.subarray(0, 4)) !== 'fLaC') return null;
  const bits = (((bytes[20]! & 1) << 4) | (bytes[21]! >> 4)) + 1;
  const frames = (bytes[21]! & 15) * 2 ** 32 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(22);
  return { frames, bits };
}

/**
 * Reads FLAC, losslessly.
 * @param name used in errors
 * @throws KinetikonError file.broken, file.unsupported, file.empty
 */
export async function readFlac(bytes: Uint8Array, name: string): Promise<Sound> {
  const info = streamInfo(bytes);
  if (!info) throw new KinetikonError('file.broken', `${name} is not a FLAC file.`, { next: 'Bring in WAV or FLAC.' });
  const decoder = new FLACDecoder();
  try {
    await decoder.ready;
    const decoded = await decoder.decodeFile(bytes);
    checkFlac(
      {
        error: decoded.errors[0]?.message,
        stated: info.frames,
        frames: decoded.samplesDecoded,
        channels: decoded.channelData.length,
        sampleRateHz: decoded.sampleRate,
      },
      name,
    );
    // The decoder divides by 2^(bits-1) - 1; full scale here is 2^(bits-1).
    const steps = 2 ** (info.bits - 1);
    const channels = decoded.channelData.map((channel) => channel.map((x) => Math.round(x * (steps - 1)) / steps));
    return { sampleRateHz: decoded.sampleRate, channels };
  } finally {
    decoder.free();
  }
}

/**
 * Checks what came out of a decoder.
 * @throws KinetikonError file.broken, file.unsupported, file.empty
 */
export function checkFlac(
  found: { error: string | undefined; stated: number; frames: number; channels: number; sampleRateHz: number },
  name: string,
): void {
  const kept = { kept: 'Nothing was brought in.' };
  const { error, stated, frames, channels, sampleRateHz } = found;
  if (error !== undefined) throw new KinetikonError('file.broken', `${name} is damaged: ${error}.`, kept);
  if (frames === 0) throw new KinetikonError('file.empty', `${name} holds no sound.`, kept);
  if (stated > 0 && frames !== stated) {
    throw new KinetikonError(
      'file.broken',
      `${name} says ${stated} frames and holds ${frames}; the file was cut short.`,
      kept,
    );
  }
  if (channels > MAXIMUM_CHANNELS || sampleRateHz < MINIMUM_RATE_HZ || sampleRateHz > MAXIMUM_RATE_HZ) {
    throw new KinetikonError(
      'file.unsupported',
      `${name}: 1 to ${MAXIMUM_CHANNELS} channels at ${MINIMUM_RATE_HZ} to ${MAXIMUM_RATE_HZ} Hz can be read.`,
      kept,
    );
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
  const integers = sound.channels.map((channel, index) => quantize(channel, bits, index + 1));
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
