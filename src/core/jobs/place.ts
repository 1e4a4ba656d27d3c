import { KinetikonError } from '../errors';
import { BytesSink, type FileSink } from '../formats/fileSink';
import type { SeekableSound } from '../formats/seekable/seekableSound';

/** A sound that is read by pages where the work is done, instead of coming along. */
export interface LongSound {
  /** Of the sound: the asset's, or with what is heard of it. */
  readonly assetId: string;
  /** Used in errors. */
  readonly name: string;
  readonly isLong: true;
}

/** What work needs of the place where it is done. */
export interface JobPlace {
  /**
   * A long sound, which the work frees.
   * @throws KinetikonError as reading it does
   */
  open(sound: LongSound): Promise<SeekableSound>;
  /** Where the file goes that bounces and prints make. */
  readonly sink: FileSink;
}

/** A place without long sounds, where what is made stays in memory. */
export const inMemory = (sink: FileSink = new BytesSink()): JobPlace => ({
  open: ({ name }) => Promise.reject(new KinetikonError('asset.missing', `${name} cannot be read here.`)),
  sink,
});
