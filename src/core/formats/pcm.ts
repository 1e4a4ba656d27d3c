import { KinetikonError } from '../errors';
import { MAXIMUM_CHANNELS, MAXIMUM_RATE_HZ, MINIMUM_RATE_HZ } from './sound';

/** Number format of a sample. Unsigned ones have silence at half of their range. */
export type SampleKind = 'signed' | 'unsigned' | 'float';

/** Reads one sample of a file, full scale 1. */
type SampleReader = (view: DataView, at: number) => number;

/** Where and how the samples of an uncompressed file are written. */
export interface PcmLayout {
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly frameBytes: number;
  readonly sampleBytes: number;
  readonly sampleAt: SampleReader;
  /** Offset of the first sample, in bytes. */
  readonly start: number;
  /** Bytes of samples as the file says; null where a streaming writer left that open. */
  readonly size: number | null;
}

export const broken = (name: string, reason: string) =>
  new KinetikonError('file.broken', `${name}: ${reason}`, { kept: 'Nothing was brought in.' });

export const empty = (name: string) =>
  new KinetikonError('file.empty', `${name} holds no sound.`, { kept: 'Nothing was brought in.' });

/** Why a kind of sample is refused that other programs read. */
export const unsupported = (name: string, what: string) =>
  new KinetikonError('file.unsupported', `${name} ${what}.`, {
    kept: 'Nothing was brought in.',
    next: 'Save it as 16, 24 or 32 bit integer or floating point.',
  });

/** @returns null for a kind that is not read */
export function sampleReader(kind: SampleKind, bits: number, littleEndian: boolean): SampleReader | null {
  if (kind === 'float' && bits === 32) return (view, at) => view.getFloat32(at, littleEndian);
  if (kind === 'float' && bits === 64) return (view, at) => view.getFloat64(at, littleEndian);
  if (kind === 'unsigned' && bits === 8) return (view, at) => (view.getUint8(at) - 128) / 128;
  if (kind !== 'signed') return null;
  if (bits === 8) return (view, at) => view.getInt8(at) / 128;
  if (bits === 16) return (view, at) => view.getInt16(at, littleEndian) / 32768;
  if (bits === 24) {
    const [low, high] = littleEndian ? [0, 2] : [1, 0];
    return (view, at) => (view.getUint16(at + low, littleEndian) + view.getInt8(at + high) * 65536) / 8388608;
  }
  if (bits === 32) return (view, at) => view.getInt32(at, littleEndian) / 2147483648;
  return null;
}

/** @throws KinetikonError file.broken for what no file of ours may say */
export function checkPcm(name: string, channels: number, rateHz: number): void {
  if (channels < 1 || channels > MAXIMUM_CHANNELS)
    throw broken(name, `it says ${channels} channels; 1 to ${MAXIMUM_CHANNELS} can be read.`);
  if (!(rateHz >= MINIMUM_RATE_HZ && rateHz <= MAXIMUM_RATE_HZ))
    throw broken(name, `it says ${rateHz} Hz; ${MINIMUM_RATE_HZ} to ${MAXIMUM_RATE_HZ} Hz can be read.`);
}

/** Highest sample that is taken for sound: +120 dBFS, room for files that count in integers. */
const LOUDEST = 1e6;

/** Samples that are not numbers or lie above +120 dBFS are silence, and counted. */
export function readPcmFrames(
  layout: PcmLayout,
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

/**
 * Frames in a file.
 * @param held bytes of samples in the file
 * @throws KinetikonError file.broken if they are fewer than stated, file.empty
 */
export function pcmFrames({ size, frameBytes }: PcmLayout, held: number, name: string): number {
  if (size !== null && size > held) {
    throw broken(name, `it says ${size} bytes of sound and holds ${held}; the file was cut short.`);
  }
  const frames = Math.floor((size ?? held) / frameBytes);
  if (frames === 0) throw empty(name);
  return frames;
}
