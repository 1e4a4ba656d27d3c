import { KinetikonError } from '../errors';
import { aiffLayout } from './aiff';
import { bytesOf, type FileBytes } from './fileBytes';
import { FlacReader } from './flac';
import { Mp3Reader, OpusReader, VorbisReader } from './lossy';
import { PcmReader } from './pcmReader';
import { inOne } from './parts';
import type { Sound } from './sound';
import { AAC, CONTAINER_NAMES, containerOf, knownOf, type ContainerId } from './soundFormats';
import type { SoundReader } from './soundReader';
import { wavLayout } from './wav';

const READERS: Readonly<Record<ContainerId, (name: string) => SoundReader>> = {
  wav: (name) => new PcmReader('wav', name, wavLayout),
  aiff: (name) => new PcmReader('aiff', name, aiffLayout),
  flac: (name) => new FlacReader(name),
  mp3: (name) => new Mp3Reader(name),
  vorbis: (name) => new VorbisReader(name),
  opus: (name) => new OpusReader(name),
};

/** Bytes that are decoded at a time. */
const PIECE = 131072;

/**
 * A reader for a sound file, by its content, whatever its name says.
 * @param head its beginning, HEAD_BYTES of it or all that there is
 * @param name used in errors
 * @throws KinetikonError file.unsupported, file.empty
 */
export function openSound(head: Uint8Array, name: string): SoundReader {
  const container = containerOf(head);
  if (container) return READERS[container](name);
  if (head.length === 0)
    throw new KinetikonError('file.empty', `${name} is empty.`, { kept: 'Nothing was brought in.' });
  if (AAC.begins(head)) {
    throw new KinetikonError(
      'file.unsupported',
      `${name} is AAC or another sound in MP4, and AAC is read in a browser alone.`,
      {
        kept: 'Nothing was brought in.',
        next: 'Bring it in there, or save it as WAV or FLAC.',
      },
    );
  }
  const known = knownOf(head);
  const what = known ? `is ${known}, which is not read` : `is none of ${CONTAINER_NAMES}`;
  throw new KinetikonError('file.unsupported', `${name} ${what}.`, {
    kept: 'Nothing was brought in.',
    next: 'Save it as WAV or FLAC and bring it in again.',
  });
}

/** All of a file, some seconds at a time: each piece as its channels. It is checked at the end. */
export async function* soundPieces(
  { size, read }: FileBytes,
  reader: SoundReader,
): AsyncGenerator<readonly Float32Array[]> {
  for (let at = 0; at < size; at += PIECE) {
    const piece = await reader.push(await read(at, Math.min(size, at + PIECE)));
    if (piece.length > 0) yield piece;
  }
  const rest = await reader.end();
  // What comes at the end of a file that is cut short is not whole.
  reader.check();
  if (rest.length > 0) yield rest;
}

/**
 * Reads a sound file by its content, whatever its name says.
 * @throws KinetikonError file.unsupported, file.broken, file.empty
 */
export async function readSound(bytes: Uint8Array, name: string): Promise<Sound> {
  const reader = openSound(bytes, name);
  try {
    const pieces: (readonly Float32Array[])[] = [];
    for await (const piece of soundPieces(bytesOf(bytes), reader)) pieces.push(piece);
    const { sampleRateHz, unusable } = reader;
    return { sampleRateHz, channels: inOne(pieces), ...(unusable > 0 ? { unusable } : {}) };
  } finally {
    reader.free();
  }
}

/**
 * Reads a file that is damaged or cut short, as far as it can be read.
 * @throws KinetikonError as `readSound`, of a file of which nothing can be read
 */
export async function salvageSound(bytes: Uint8Array, name: string): Promise<Sound> {
  const reader = openSound(bytes, name);
  const pieces: (readonly Float32Array[])[] = [];
  try {
    for await (const piece of soundPieces(bytesOf(bytes), reader)) pieces.push(piece);
  } catch (error) {
    if (pieces.length === 0) throw error;
  } finally {
    reader.free();
  }
  return { sampleRateHz: reader.sampleRateHz, channels: inOne(pieces) };
}
