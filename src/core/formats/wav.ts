import { KinetikonError } from '../errors';
import { SeededRandom } from '../math/random';
import { broken, checkPcm, pcmFrames, readPcmFrames, sampleReader, unsupported, type PcmLayout } from './pcm';
import type { SampleFormat, Sound } from './sound';
import { containerOf } from './soundFormats';

const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;

/** Kinds that are refused, by their own names. */
const NAMES: Readonly<Record<number, string>> = {
  2: 'ADPCM',
  6: 'A-law',
  7: 'mu-law',
  17: 'IMA ADPCM',
  80: 'MPEG audio in WAV',
  85: 'MP3 in WAV',
};

/** Sizes of chunks from here on stand elsewhere, or nowhere. */
const OPEN = 0xffffffff;

/**
 * Finds the samples of a WAV file: 8 to 32 bit integers, 32 and 64 bit floating point, plain or extensible, in RIFF or,
 * over 4 GiB, in RF64 or BW64. Sizes that streaming writers left at 0 or 0xFFFFFFFF are open.
 * Source: Multimedia Programming Interface and Data Specifications 1.0 (1991); WAVEFORMATEXTENSIBLE; EBU Tech 3306 (RF64);
 * ITU-R BS.2088 (BW64).
 * @param bytes the file, or as much of its beginning as there is
 * @returns null when the samples have not begun yet
 * @throws KinetikonError file.notWav, file.broken, file.unsupported
 */
export function wavLayout(bytes: Uint8Array, name: string): PcmLayout | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const tag = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (bytes.length < 12 || containerOf(bytes) !== 'wav') {
    throw new KinetikonError('file.notWav', `${name} is not a WAV file.`, { next: 'Bring in WAV or FLAC.' });
  }
  const isLarge = tag(0) !== 'RIFF';
  let format: { code: number; channels: number; rate: number; bits: number; frameBytes: number } | null = null;
  let largeSize: number | null = null;
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
    } else if (id === 'ds64' && isLarge) {
      if (size < 28) throw broken(name, 'its chunk of sizes is cut short.');
      if (start + 16 > bytes.length) return null;
      largeSize = view.getUint32(start + 8, true) + view.getUint32(start + 12, true) * 2 ** 32;
    } else if (id === 'data') {
      data = { start, size: size === OPEN ? largeSize : size === 0 ? null : size };
    }
    at = start + size + (size & 1);
  }
  if (!data) return null;
  if (!format) throw broken(name, 'it has no format chunk.');
  const { channels, rate, bits, code, frameBytes } = format;
  checkPcm(name, channels, rate);
  if (code !== PCM && code !== FLOAT)
    throw unsupported(name, `holds ${NAMES[code] ?? `a kind of WAV that is not read (code ${code}, ${bits} bits)`}`);
  // Bits that fill no bytes, as 20, stand in the upper part of the next larger number.
  const held = 8 * Math.ceil(bits / 8);
  const kind = code === FLOAT ? 'float' : held === 8 ? 'unsigned' : 'signed';
  const sampleAt = sampleReader(kind, held, true);
  if (!sampleAt) throw unsupported(name, `holds a kind of WAV that is not read (code ${code}, ${bits} bits)`);
  const sampleBytes = held / 8;
  if (frameBytes !== channels * sampleBytes)
    throw broken(
      name,
      `a frame is said to take ${frameBytes} bytes, which does not fit ${channels} channels of ${bits} bits.`,
    );
  return { sampleRateHz: rate, channels, frameBytes, ...data, sampleAt, sampleBytes };
}

/**
 * Reads a WAV file that is there as a whole.
 * @param name used in errors
 * @throws KinetikonError file.notWav, file.broken, file.unsupported, file.empty
 */
export function readWav(bytes: Uint8Array, name: string): Sound {
  const layout = wavLayout(bytes, name);
  if (!layout) throw broken(name, 'it has no data chunk, or is cut short before it.');
  const frames = pcmFrames(layout, bytes.length - layout.start, name);
  const { channels, unusable } = readPcmFrames(layout, bytes, layout.start, frames);
  return { sampleRateHz: layout.sampleRateHz, channels, ...(unusable > 0 ? { unusable } : {}) };
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
