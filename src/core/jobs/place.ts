import { KinetikonError } from '../errors';
import type { FileBytes } from '../formats/fileBytes';
import { inOneRun } from '../formats/parts';

/** A sound that is read by pages where the work is done, instead of coming along. */
export interface LongSound {
  /** Of the sound: the asset's, or with what is heard of it. */
  readonly assetId: string;
  /** Used in errors. */
  readonly name: string;
  readonly isLong: true;
}

/** A file that work makes, part by part. */
export interface FileSink {
  write(bytes: Uint8Array): void | Promise<void>;
  /** Ends the file; `head` is written over its beginning. */
  end(head: Uint8Array): void | Promise<void>;
}

/** What work needs of the place where it is done. */
export interface JobPlace {
  /**
   * The file of a long sound, in a format in which any stretch can be read.
   * @throws KinetikonError as reading it does
   */
  open(sound: LongSound): Promise<FileBytes>;
  /** Where the file goes that bounces and prints make. */
  readonly sink: FileSink;
}

/** A file in memory. */
export class BytesSink implements FileSink {
  private readonly parts: Uint8Array[] = [];
  private whole: Uint8Array | null = null;

  write(bytes: Uint8Array): void {
    this.parts.push(bytes);
  }

  end(head: Uint8Array): void {
    this.whole = inOneRun(this.parts);
    this.whole.set(head);
  }

  /** The file, once it has ended. */
  get bytes(): Uint8Array {
    return this.whole!;
  }
}

/** A place without long sounds, where what is made stays in memory. */
export const inMemory = (sink: FileSink = new BytesSink()): JobPlace => ({
  open: ({ name }) => Promise.reject(new KinetikonError('asset.missing', `${name} cannot be read here.`)),
  sink,
});
