import type { FileSink } from '@/core/formats/fileSink';

/** Bytes that are handed to the browser at a time, which may lay them on disk. */
const PART_BYTES = 4 * 1024 * 1024;

/** A file that the browser keeps outside of this thread's memory. */
export class BlobSink implements FileSink {
  private readonly parts: Blob[] = [];
  private held: Uint8Array[] = [];
  private heldBytes = 0;
  /** Null until the file has ended. */
  file: Blob | null = null;

  write(bytes: Uint8Array): void {
    this.held.push(bytes);
    this.heldBytes += bytes.length;
    if (this.heldBytes >= PART_BYTES) this.handOn();
  }

  private handOn(): void {
    this.parts.push(new Blob(this.held as Uint8Array<ArrayBuffer>[]));
    this.held = [];
    this.heldBytes = 0;
  }

  end(head: Uint8Array): void {
    this.handOn();
    this.file = new Blob([head as Uint8Array<ArrayBuffer>, new Blob(this.parts).slice(head.length)]);
  }
}
