import { KinetikonError } from '../errors';
import { BytesSink, type FileSink } from '../formats/fileSink';
import type { SeekableSound } from '../formats/seekable/seekableSound';

/** A sound that is read by pages where the work is done, instead of coming along. */
export interface LongSound {
  /** Sound id: an asset's id, or one with a choice of channels (`soundIdOf`). */
  readonly assetId: string;
  /** Used in errors. */
  readonly name: string;
  readonly isLong: true;
}

/** Access to long sounds and storage in the thread that runs a job. */
export interface JobPlace {
  /**
   * A long sound, which the work frees.
   * @throws KinetikonError as reading it does
   */
  open(sound: LongSound): Promise<SeekableSound>;
  /** Receives the sound file of a bounce or print. */
  readonly sink: FileSink;
}

/** A place without long sounds, where what is made stays in memory. */
export const inMemory = (sink: FileSink = new BytesSink()): JobPlace => ({
  open: ({ name }) => Promise.reject(new KinetikonError('asset.missing', `${name} cannot be read here.`)),
  sink,
});
