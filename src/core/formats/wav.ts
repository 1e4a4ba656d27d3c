import { KinetikonError } from '../errors';
import { SeededRandom } from '../math/random';
import { MAXIMUM_CHANNELS, MAXIMUM_RATE_HZ, MINIMUM_RATE_HZ, type SampleFormat, type Sound } from './sound';

const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;

const broken = (name: string, reason: string) =>
  new KinetikonError('file.broken', `${name}: ${reason}`, { kept: 'Nothing was brought in.' });

/** Layout of the samples in a WAV file. */
export interface WavLayout {
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly frameBytes: number;
  /** Offset of the first sample, in bytes. */
  readonly start: number;
  /** Bytes of samples as the file says; null where a streaming writer left that open. */
  readonly size: number | null;
  /** Reads one sample; null when this kind is not read. */
  readonly sampleAt: (view: DataView, at: number) => number;
  readonly sampleBytes: number;
}

/**
 * Finds the samples of a WAV file.
 * @param bytes the file, or as much of its beginning as there is
 * @returns null when the samples have not begun yet
 * @throws KinetikonError file.notWav, file.broken, file.unsupported
 */
export function wavLayout(bytes: Uint8Array, name: string): WavLayout | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const tag = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (bytes.length < 12 || tag(0) !== 'RIFF' || tag(8) !== 'WAVE') {
    throw new KinetikonError('file.notWav', `${name} is not a WAV file.`, { next: 'Bring in WAV or FLAC.' });
  }
  let format: { code: number; channels: number; rate: number; bits: number; frameBytes: number } | null = null;
  let data: { start: number; size: number | null } | null = null;
  for (let at = 12; at + 8 <= bytes.length && !data;) {
    const id = tag(at);
    const size = view.getUint32(at + 4, true);
    const start = at + 8;
    if (id === 'fmt ') {
      if (size < 16) throw broken(name, 'its format chunk is cut short.');
      if (start + size > bytes.length) return null;
      let code = view.getUint16(start, true);
      if (code === EXTENSIBLE) {
        if (size < 40) throw broken(name, 'its extensible format chunk is cut short.');
        code = view.getUint16(start + 24, true);
      }
      format = {
        code,
        channels: view.getUint16(start + 2, true),
        rate: view.getUint32(start + 4, true),
        frameBytes: view.getUint16(start + 12, true),
        bits: view.getUint16(start + 14, true),
      };
    } else if (id === 'data') {
      data = { start, size: size === 0 || size === 0xffffffff ? null : size };
    }
    at = start + size + (size & 1);
  }
  if (!data) return null;
  if (!format) throw broken(name, 'it has no format chunk.');
  const { channels, rate, bits, code, frameBytes } = format;
  if (channels < 1 || channels > MAXIMUM_CHANNELS)
    throw broken(name, `it says ${channels} channels; 1 to ${MAXIMUM_CHANNELS} can be read.`);
  if (rate < MINIMUM_RATE_HZ || rate > MAXIMUM_RATE_HZ) {
    throw broken(name, `it says ${rate} Hz; ${MINIMUM_RATE_HZ} to ${MAXIMUM_RATE_HZ} Hz can be read.`);
  }
  const sampleAt = reader(code, bits);
  if (!sampleAt) {
    throw new KinetikonError(
      'file.unsupported',
      `${name} holds a kind of WAV that is not read (code ${code}, ${bits} bits).`,
      {
        kept: 'Nothing was brought in.',
        next: 'Save it as 16, 24 or 32 bit integer or floating point.',
      },
    );
  }
  const sampleBytes = bits / 8;
  if (frameBytes !== channels * sampleBytes)
    throw broken(
      name,
      `a frame is said to take ${frameBytes} bytes, which does not fit ${channels} channels of ${bits} bits.`,
    );
  return { sampleRateHz: rate, channels, frameBytes, ...data, sampleAt, sampleBytes };
}

/** Highest sample that is taken for sound: +120 dBFS, room for files that count in integers. */
const LOUDEST = 1e6;

/** Samples that are not numbers or lie above +120 dBFS are silence, and counted. */
export function readWavFrames(
  layout: WavLayout,
  bytes: Uint8Array,
  start: number,
  frames: number,
): { channels: Float32Array[]; unusable: number } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const { frameBytes, sampleBytes, sampleAt } = layout;
  let unusable = 0;
  const channels = Array.from({ length: layout.channels }, (_, channel) => {
    const samples = new Float32Array(frames);
    for (let frame = 0; frame < frames; frame++) {
      const value = sampleAt(view, start + frame * frameBytes + channel * sampleBytes);
      if (Math.abs(value) <= LOUDEST) samples[frame] = value;
      else unusable++;
    }
    return samples;
  });
  return { channels, unusable };
}

const empty = (name: string) =>
  new KinetikonError('file.empty', `${name} holds no sound.`, { kept: 'Nothing was brought in.' });

/**
 * Frames in a file.
 * @param held bytes of samples in the file
 * @throws KinetikonError file.broken if they are fewer than stated, file.empty
 */
export function wavFrames({ size, frameBytes }: WavLayout, held: number, name: string): number {
  if (size !== null && size > held) {
    throw broken(name, `it says ${size} bytes of sound and holds ${held}; the file was cut short.`);
  }
  const frames = Math.floor((size ?? held) / frameBytes);
  if (frames === 0) throw empty(name);
  return frames;
}

/**
 * Reads RIFF/WAVE: 16, 24 and 32 bit integers, 32 and 64 bit floating point, plain or extensible. Sizes that streaming
 * writers left at 0 or 0xFFFFFFFF are taken from the file's length.
 * Source: Multimedia Programming Interface and Data Specifications 1.0 (1991); WAVEFORMATEXTENSIBLE.
 * @param name used in errors
 * @throws KinetikonError file.notWav, file.broken, file.unsupported, file.empty
 */
export function readWav(bytes: Uint8Array, name: string): Sound {
  const layout = wavLayout(bytes, name);
  if (!layout) throw broken(name, 'it has no data chunk, or is cut short before it.');
  const frames = wavFrames(layout, bytes.length - layout.start, name);
  const { channels, unusable } = readWavFrames(layout, bytes, layout.start, frames);
  return { sampleRateHz: layout.sampleRateHz, channels, ...(unusable > 0 ? { unusable } : {}) };
}

function reader(code: number, bits: number): ((view: DataView, at: number) => number) | null {
  if (code === PCM && bits === 16) return (view, at) => view.getInt16(at, true) / 32768;
  if (code === PCM && bits === 24)
    return (view, at) => (view.getUint16(at, true) + view.getInt8(at + 2) * 65536) / 8388608;
  if (code === PCM && bits === 32) return (view, at) => view.getInt32(at, true) / 2147483648;
  if (code === FLOAT && bits === 32) return (view, at) => view.getFloat32(at, true);
  if (code === FLOAT && bits === 64) return (view, at) => view.getFloat64(at, true);
  return null;
}

/**
 * Rounds samples to integers of `bits` bits. 16 bits get triangular dither of two steps peak to peak (Lipshitz,
 * Wannamaker and Vanderkooy, "Quantization and dither", 1992), seeded, so that the same sound gives the same file.
 */
export function quantize(samples: Float32Array, bits: 16 | 24, seed: number): Int32Array {
  const scale = bits === 16 ? 32768 : 8388608;
  const random = new SeededRandom(seed);
  const out = new Int32Array(samples.length);
  for (let i = 0; i < samples.length; i++) {
    const dither = bits === 16 ? random.uniform() + random.uniform() - 1 : 0;
    out[i] = Math.min(scale - 1, Math.max(-scale, Math.round(samples[i]! * scale + dither)));
  }
  return out;
}

/** Behind the code of a format, what makes an identifier of it in an extensible header. */
const SUBFORMAT = [0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xaa, 0, 0x38, 0x9b, 0x71];

/**
 * Writes RIFF/WAVE: 16 bit with dither, 24 bit, or 32 bit floating point. More than two channels get an extensible header
 * without places of speakers, as sound fields have it (AmbiX: Nachbar et al., 2011).
 */
export function writeWav(sound: Sound, format: SampleFormat): Uint8Array {
  const channels = sound.channels.length;
  const frames = sound.channels[0]!.length;
  const sampleBytes = format === '16' ? 2 : format === '24' ? 3 : 4;
  const extensible = channels > 2;
  const code = format === '32f' ? FLOAT : PCM;
  const formatBytes = extensible ? 40 : format === '32f' ? 18 : 16;
  const headerBytes = 28 + formatBytes + (format === '32f' ? 12 : 0);
  const dataBytes = frames * channels * sampleBytes;
  const bytes = new Uint8Array(headerBytes + dataBytes + (dataBytes & 1));
  const view = new DataView(bytes.buffer);
  const tag = (at: number, text: string) =>
    bytes.set(
      [...text].map((letter) => letter.charCodeAt(0)),
      at,
    );
  tag(0, 'RIFF');
  view.setUint32(4, bytes.length - 8, true);
  tag(8, 'WAVE');
  tag(12, 'fmt ');
  view.setUint32(16, formatBytes, true);
  view.setUint16(20, extensible ? EXTENSIBLE : code, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, sound.sampleRateHz, true);
  view.setUint32(28, sound.sampleRateHz * channels * sampleBytes, true);
  view.setUint16(32, channels * sampleBytes, true);
  view.setUint16(34, sampleBytes * 8, true);
  if (extensible) {
    view.setUint16(36, 22, true);
    view.setUint16(38, sampleBytes * 8, true);
    view.setUint16(44, code, true);
    bytes.set(SUBFORMAT, 46);
  }
  if (format === '32f') {
    tag(20 + formatBytes, 'fact');
    view.setUint32(24 + formatBytes, 4, true);
    view.setUint32(28 + formatBytes, frames, true);
  }
  tag(headerBytes - 8, 'data');
  view.setUint32(headerBytes - 4, dataBytes, true);
  sound.channels.forEach((samples, channel) => {
    const integers = format === '32f' ? null : quantize(samples, format === '16' ? 16 : 24, channel + 1);
    for (let frame = 0; frame < frames; frame++) {
      const at = headerBytes + (frame * channels + channel) * sampleBytes;
      if (format === '32f') view.setFloat32(at, samples[frame]!, true);
      else if (format === '16') view.setInt16(at, integers![frame]!, true);
      else {
        view.setUint16(at, integers![frame]! & 0xffff, true);
        view.setInt8(at + 2, integers![frame]! >> 16);
      }
    }
  });
  return bytes;
}
