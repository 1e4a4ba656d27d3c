import { inOneRun } from './parts';
import type { Sound } from './sound';

export interface WrittenEnd {
  /** Bytes behind those that were written. */
  readonly rest: Uint8Array;
  /** Final header: replaces as many bytes at the beginning of the file. */
  readonly head: Uint8Array;
}

/** Writes a sound file part by part. Only at the end is it known how long it is: then its head is written anew. */
export interface SoundWriter {
  /**
   * @param channels the next frames
   * @returns the next bytes of the file; what is still in the encoder comes later
   */
  write(channels: readonly Float32Array[]): Uint8Array;
  /** Called once, behind the last part; frees what the writer holds. */
  end(): WrittenEnd;
  /** For who gives up before the end. */
  free(): void;
}

/** The file of a sound that is there as a whole. */
export function writtenWhole(writer: SoundWriter, { channels }: Sound): Uint8Array {
  const body = writer.write(channels);
  const { rest, head } = writer.end();
  const bytes = inOneRun([body, rest]);
  bytes.set(head);
  return bytes;
}
