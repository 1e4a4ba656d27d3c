import { KinetikonError } from '../errors';
import { SeededRandom } from '../math/random';
import { broken, checkPcm, pcmFrames, readPcmFrames, sampleReader, unsupported, type PcmLayout } from './pcm';
import { PART_FRAMES, type SampleFormat, type Sound } from './sound';
import { containerOf } from './soundFormats';

const PCM = 1;
const FLOAT = 3;
export const EXTENSIBLE = 0xfffe;

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
export const OPEN = 0xffffffff;

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
 * Rounds samples of one channel, in order, to integers of `bits` bits. 16 bits get triangular dither of two steps peak to
 * peak (Lipshitz, Wannamaker and Vanderkooy, "Quantization and dither", 1992), seeded, so that the same sound gives the
 * same file.
 */
export class Quantizer {
  private readonly random: SeededRandom;
  private readonly scale: number;

  constructor(
    private readonly bits: 16 | 24,
    seed: number,
  ) {
    this.random = new SeededRandom(seed);
    this.scale = bits === 16 ? 32768 : 8388608;
  }

  /** @param samples the next of the channel */
  next(samples: Float32Array): Int32Array {
    const { scale, random } = this;
    const out = new Int32Array(samples.length);
    for (let i = 0; i < samples.length; i++) {
      const dither = this.bits === 16 ? random.uniform() + random.uniform() - 1 : 0;
      out[i] = Math.min(scale - 1, Math.max(-scale, Math.round(samples[i]! * scale + dither)));
    }
    return out;
  }
}

/** Behind the code of a format, what makes an identifier of it in an extensible header. */
const SUBFORMAT = [0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xaa, 0, 0x38, 0x9b, 0x71];

/** Bytes from which on the sizes of RIFF no longer hold a file. */
const RIFF_END = 2 ** 32;

/**
 * Writes WAV part by part: 16 bit with dither, 24 bit, or 32 bit floating point; over 4 GiB as RF64 (EBU Tech 3306). More
 * than two channels get an extensible header without places of speakers, as sound fields have it (AmbiX: Nachbar et al.,
 * 2011).
 */
export class WavWriter {
  private readonly quantizers: readonly Quantizer[];
  private readonly sampleBytes: number;
  readonly frameBytes: number;

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
    private readonly format: SampleFormat,
  ) {
    const bits = format === '16' ? 16 : 24;
    this.quantizers = Array.from({ length: channels }, (_, n) => new Quantizer(bits, n + 1));
    this.sampleBytes = format === '32f' ? 4 : bits / 8;
    this.frameBytes = channels * this.sampleBytes;
  }

  /** @returns the next frames as they stand in the file */
  body(channels: readonly Float32Array[]): Uint8Array {
    const { sampleBytes, frameBytes, format } = this;
    const frames = channels[0]!.length;
    const bytes = new Uint8Array(frames * frameBytes);
    const view = new DataView(bytes.buffer);
    channels.forEach((samples, channel) => {
      const integers = format === '32f' ? null : this.quantizers[channel]!.next(samples);
      for (let frame = 0; frame < frames; frame++) {
        const at = frame * frameBytes + channel * sampleBytes;
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

  /** Behind so many frames: a byte where those of the samples are odd in number. */
  end(frames: number): Uint8Array {
    return new Uint8Array((frames * this.frameBytes) & 1);
  }

  private get formatBytes(): number {
    return this.channels > 2 ? 40 : this.format === '32f' ? 18 : 16;
  }

  /** Bytes of a header of RIFF. */
  private get plainBytes(): number {
    return 28 + this.formatBytes + (this.format === '32f' ? 12 : 0);
  }

  /** True if so many frames do not fit into RIFF. */
  isLarge(frames: number): boolean {
    return this.plainBytes + frames * this.frameBytes + 1 - 8 >= RIFF_END;
  }

  /** Header of a file of so many frames. */
  head(frames: number, isLarge = this.isLarge(frames)): Uint8Array {
    const { channels, sampleBytes, frameBytes, sampleRateHz, format, formatBytes, plainBytes } = this;
    const extensible = channels > 2;
    const isFloat = format === '32f';
    const code = isFloat ? FLOAT : PCM;
    const dataBytes = frames * frameBytes;
    const bytes = new Uint8Array(plainBytes + (isLarge ? 36 : 0));
    const view = new DataView(bytes.buffer);
    let at = 0;
    const tag = (text: string) => {
      for (const letter of text) bytes[at++] = letter.charCodeAt(0);
    };
    const number = (value: number, size: 2 | 4 | 8) => {
      if (size === 2) view.setUint16(at, value, true);
      else view.setUint32(at, value % RIFF_END, true);
      if (size === 8) view.setUint32(at + 4, Math.floor(value / RIFF_END), true);
      at += size;
    };
    const riffBytes = bytes.length - 8 + dataBytes + (dataBytes & 1);
    tag(isLarge ? 'RF64' : 'RIFF');
    number(isLarge ? OPEN : riffBytes, 4);
    tag('WAVE');
    if (isLarge) {
      tag('ds64');
      number(28, 4);
      for (const size of [riffBytes, dataBytes, frames]) number(size, 8);
      number(0, 4);
    }
    tag('fmt ');
    number(formatBytes, 4);
    number(extensible ? EXTENSIBLE : code, 2);
    number(channels, 2);
    number(sampleRateHz, 4);
    number(sampleRateHz * frameBytes, 4);
    number(frameBytes, 2);
    number(sampleBytes * 8, 2);
    if (extensible) {
      number(22, 2);
      number(sampleBytes * 8, 2);
      number(0, 4);
      number(code, 2);
      bytes.set(SUBFORMAT, at);
      at += SUBFORMAT.length;
    } else if (isFloat) number(0, 2);
    if (isFloat) {
      tag('fact');
      number(4, 4);
      number(isLarge ? OPEN : frames, 4);
    }
    tag('data');
    number(isLarge ? OPEN : dataBytes, 4);
    return bytes;
  }
}

/** Writes a sound that is there as a whole. */
export function writeWav(sound: Sound, format: SampleFormat): Uint8Array {
  const frames = sound.channels[0]!.length;
  const writer = new WavWriter(sound.sampleRateHz, sound.channels.length, format);
  const head = writer.head(frames);
  const bytes = new Uint8Array(head.length + frames * writer.frameBytes + writer.end(frames).length);
  bytes.set(head);
  // No more is held twice than a part.
  for (let at = 0; at < frames; at += PART_FRAMES) {
    const part = sound.channels.map((channel) => channel.subarray(at, at + PART_FRAMES));
    bytes.set(writer.body(part), head.length + at * writer.frameBytes);
  }
  return bytes;
}
