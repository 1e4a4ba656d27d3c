import { inOneRun } from './parts';

/** A file that is written part by part. */
export interface FileSink {
  write(bytes: Uint8Array): void | Promise<void>;
  /** Ends the file; `head` is written over its beginning. */
  end(head: Uint8Array): void | Promise<void>;
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
