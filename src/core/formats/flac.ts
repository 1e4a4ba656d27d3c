import { FLACDecoder, type FLACDecodedAudio } from '@wasm-audio-decoders/flac';
import { KinetikonError } from '../errors';
import { MAXIMUM_CHANNELS, MAXIMUM_RATE_HZ, MINIMUM_RATE_HZ, type Sound } from './sound';
import { quantize } from './wav';

/** Bytes that are decoded at a time. */
const PIECE = 131072;

/** Fields of STREAMINFO (RFC 9639, section 8.2); null if the bytes are not FLAC. `frames` is 0 if it is not stated. */
export function streamInfo(
  bytes: Uint8Array,
): { frames: number; bits: number; channels: number; sampleRateHz: number } | null {
  if (bytes.length < 42 || String.fromCharCode(...bytes.subarray(0, 4)) !== 'fLaC') return null;
  return {
    sampleRateHz: (bytes[18]! << 12) | (bytes[19]! << 4) | (bytes[20]! >> 4),
    channels: ((bytes[20]! >> 1) & 7) + 1,
    bits: (((bytes[20]! & 1) << 4) | (bytes[21]! >> 4)) + 1,
    frames: (bytes[21]! & 15) * 2 ** 32 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(22),
  };
}

/**
 * Reads FLAC, losslessly.
 * @param name used in errors
 * @throws KinetikonError file.broken, file.unsupported, file.empty
 */
export async function readFlac(bytes: Uint8Array, name: string): Promise<Sound> {
  const pieces: (readonly Float32Array[])[] = [];
  const steps = flacPieces(bytes, name);
  for (;;) {
    const step = await steps.next();
    if (!step.done) {
      pieces.push(step.value);
      continue;
    }
    const { channels, frames, sampleRateHz } = step.value;
    const whole = Array.from({ length: channels }, () => new Float32Array(frames));
    let at = 0;
    for (const piece of pieces) {
      piece.forEach((samples, channel) => whole[channel]!.set(samples, at));
      at += piece[0]!.length;
    }
    return { sampleRateHz, channels: whole };
  }
}

/**
 * Reads FLAC a few seconds at a time: each piece as its channels. What it was in all comes at the end.
 * @param name used in errors
 * @throws KinetikonError file.broken, file.unsupported, file.empty
 */
export async function* flacPieces(
  bytes: Uint8Array,
  name: string,
): AsyncGenerator<readonly Float32Array[], { frames: number; channels: number; sampleRateHz: number }> {
  const info = streamInfo(bytes);
  if (!info) throw new KinetikonError('file.broken', `${name} is not a FLAC file.`, { next: 'Bring in WAV or FLAC.' });
  const decoder = new FLACDecoder();
  // The decoder divides by 2^(bits-1) - 1; full scale here is 2^(bits-1).
  const steps = 2 ** (info.bits - 1);
  const tally = new FlacTally();
  const take = (decoded: FLACDecodedAudio) =>
    tally.add(decoded).map((channel) => channel.map((x) => Math.round(x * (steps - 1)) / steps));
  try {
    await decoder.ready;
    for (let at = 0; at < bytes.length && tally.error === undefined; at += PIECE) {
      const piece = take(await decoder.decode(bytes.subarray(at, at + PIECE)));
      if (piece.length > 0) yield piece;
    }
    const rest = tally.error === undefined ? take(await decoder.flush()) : [];
    if (rest.length > 0) yield rest;
    tally.check(info.frames, name);
    return tally;
  } finally {
    decoder.free();
  }
}

/** Count of the decoded frames so far. */
export class FlacTally {
  error: string | undefined;
  frames = 0;
  channels = 0;
  sampleRateHz = 0;

  /** @returns the channels of what has just been decoded; none of nothing */
  add({ channelData, samplesDecoded, sampleRate, errors }: FLACDecodedAudio): readonly Float32Array[] {
    this.error ??= errors[0]?.message;
    if (samplesDecoded === 0) return [];
    this.frames += samplesDecoded;
    this.channels = channelData.length;
    this.sampleRateHz = sampleRate;
    return channelData;
  }

  /**
   * Checks all of it.
   * @param stated frames that the file says it holds; 0 where it does not say
   * @throws KinetikonError file.broken, file.unsupported, file.empty
   */
  check(stated: number, name: string): void {
    const kept = { kept: 'Nothing was brought in.' };
    const { error, frames, channels, sampleRateHz } = this;
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
