import { randomBytes } from 'node:crypto';
import { readFile, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { KinetikonError, messageOf } from '@/core/errors';
import { readMidi, type MidiSong } from '@/core/formats/midi';
import { openSound, readSound, soundPieces } from '@/core/formats/readSound';
import type { Sound } from '@/core/formats/sound';
import { HEAD_BYTES } from '@/core/formats/soundFormats';
import { diskFile } from '@/server/renders/diskFiles';

async function readable<T>(path: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const absent = (error as NodeJS.ErrnoException).code === 'ENOENT';
    throw new KinetikonError(
      'file.missing',
      absent ? `There is no file ${path}.` : `${path} cannot be read: ${messageOf(error)}.`,
      { cause: error },
    );
  }
}

const read = (path: string): Promise<Buffer> => readable(path, () => readFile(path));

/** A file of which parts are read. @throws KinetikonError file.missing */
export const openFile = (path: string) => readable(path, () => diskFile(path));

/** Facts about a sound file that was read to its end. */
export interface SoundFileFacts {
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly frames: number;
  /** As in `Sound`. */
  readonly unusable: number;
}

/**
 * Reads a sound file through, holding no more than a piece of it.
 * @param take given each piece, channel by channel, and its rate
 * @throws KinetikonError file.missing and those of `readSound`
 */
export async function readThrough(
  path: string,
  take: (piece: readonly Float32Array[], sampleRateHz: number) => void,
): Promise<SoundFileFacts> {
  const file = await openFile(path);
  try {
    const reader = openSound(await file.read(0, HEAD_BYTES), path);
    let [channels, frames] = [0, 0];
    try {
      for await (const piece of soundPieces(file, reader)) {
        channels = piece.length;
        frames += piece[0]!.length;
        take(piece, reader.sampleRateHz);
      }
    } finally {
      reader.free();
    }
    return { sampleRateHz: reader.sampleRateHz, channels, frames, unusable: reader.unusable };
  } finally {
    await file.close();
  }
}

/** @throws KinetikonError file.missing and those of `readSound` */
export async function readSoundFile(path: string): Promise<Sound> {
  return readSound(new Uint8Array(await read(path)), path);
}

/** @throws KinetikonError file.missing and those of `readMidi` */
export async function readSongFile(path: string): Promise<MidiSong> {
  return readMidi(new Uint8Array(await read(path)));
}

export async function readTextFile(path: string): Promise<string> {
  return (await read(path)).toString('utf8');
}

/**
 * Writes under a temporary name beside the target and renames when whole, so that a failure leaves nothing.
 * @throws KinetikonError file.unwritable
 */
export const writeWhole = (path: string, bytes: Uint8Array): Promise<void> =>
  madeWhole(path, (temporary) => unwritableAs(path, () => writeFile(temporary, bytes)));

/**
 * The same for work that writes a file at the path that it is given.
 * @throws KinetikonError file.unwritable, and what the work throws
 */
export async function madeWhole<T>(path: string, make: (temporary: string) => Promise<T>): Promise<T> {
  const target = resolve(path);
  const temporary = join(dirname(target), `.${randomBytes(6).toString('hex')}.part`);
  try {
    // Work that takes long finds out first whether it can be kept.
    await unwritableAs(path, () => writeFile(temporary, ''));
    const made = await make(temporary);
    await unwritableAs(path, () => rename(temporary, target));
    return made;
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  }
}

async function unwritableAs(path: string, work: () => Promise<void>): Promise<void> {
  try {
    await work();
  } catch (error) {
    throw new KinetikonError('file.unwritable', `${path} cannot be written: ${messageOf(error)}.`, {
      kept: 'Nothing was written.',
      cause: error,
    });
  }
}
