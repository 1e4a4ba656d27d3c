import { rm } from 'node:fs/promises';
import { inBlocks } from '@/core/formats/inBlocks';
import { openSeekable } from '@/core/formats/seekable/seekable';
import type { SeekableSound } from '@/core/formats/seekable/seekableSound';
import { unroll } from '@/core/formats/seekable/unroll';
import type { FileBytes } from '@/core/formats/fileBytes';
import type { LongSound } from '@/core/jobs/place';
import { LONG_SECONDS } from '@/core/pages/pagedSamples';
import { assetOfSound } from '@/core/session/records/sounds';
import { diskFile, DiskSink } from './diskFiles';
import type { FileOf } from './renderMessages';

/** Bytes from which on a file may hold a long sound. */
const LONG_BYTES = 512 * 1024;

interface NamedFile {
  readonly name: string;
  readonly file: FileBytes;
}

/** The long sounds of a render. Those that can only be read from their beginning are unrolled beside its output. */
export class LongSounds {
  /** By asset. */
  private readonly files = new Map<string, NamedFile>();
  private readonly unrolled: { readonly path: string; close(): Promise<void> }[] = [];

  constructor(
    private readonly fileOf: FileOf,
    private readonly output: string,
  ) {}

  /**
   * Looks whether a sound is long.
   * @returns null for one that is decoded as a whole
   * @throws KinetikonError as reading it does
   */
  async find(soundId: string): Promise<LongSound | null> {
    const { assetId } = assetOfSound(soundId);
    const known = this.files.get(assetId) ?? (await this.look(assetId));
    if (!known) return null;
    this.files.set(assetId, known);
    return { assetId: soundId, name: known.name, isLong: true };
  }

  private async look(assetId: string): Promise<NamedFile | null> {
    const { name, ...bytes } = await this.fileOf(assetId);
    if (bytes.size < LONG_BYTES) return null;
    let file = inBlocks(bytes);
    let sound = await openSeekable(file, name);
    if (!sound) {
      file = await this.unrolledOf(file, name);
      sound = (await openSeekable(file, name))!;
    }
    const seconds = sound.frames / sound.sampleRateHz;
    sound.free();
    return seconds > LONG_SECONDS ? { name, file } : null;
  }

  /** A file as one in which any place can be read. */
  private async unrolledOf(file: FileBytes, name: string): Promise<FileBytes> {
    const path = `${this.output}.${this.unrolled.length}`;
    const sink = new DiskSink(path);
    try {
      for await (const done of unroll(file, name, sink)) void done;
      const whole = await diskFile(path);
      this.unrolled.push({ path, close: () => whole.close() });
      return whole;
    } catch (error) {
      sink.close();
      await rm(path, { force: true });
      throw error;
    }
  }

  /** One that was found, to be freed. */
  async open(soundId: string): Promise<SeekableSound> {
    const { name, file } = this.files.get(assetOfSound(soundId).assetId)!;
    return (await openSeekable(file, name))!;
  }

  /** Removes what was unrolled. */
  async close(): Promise<void> {
    for (const { path, close } of this.unrolled) {
      await close();
      await rm(path, { force: true });
    }
  }
}
