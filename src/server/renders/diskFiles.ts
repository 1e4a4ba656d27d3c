import { closeSync, openSync, writeSync } from 'node:fs';
import { open } from 'node:fs/promises';
import type { FileBytes } from '@/core/formats/fileBytes';
import type { FileSink } from '@/core/formats/fileSink';

/** Writes a file on disk. The caller removes one that did not come to its end. */
export class DiskSink implements FileSink {
  private file: number | null = null;
  /** Bytes written. */
  size = 0;

  constructor(private readonly path: string) {}

  write(bytes: Uint8Array): void {
    this.file ??= openSync(this.path, 'w');
    for (let at = 0; at < bytes.length;) at += writeSync(this.file, bytes, at);
    this.size += bytes.length;
  }

  end(head: Uint8Array): void {
    this.write(new Uint8Array());
    writeSync(this.file!, head, 0, head.length, 0);
    this.close();
  }

  close(): void {
    if (this.file !== null) closeSync(this.file);
    this.file = null;
  }
}

/** A file on disk; `close` when nothing is read of it any more. */
export async function diskFile(path: string): Promise<FileBytes & { close(): Promise<void> }> {
  const file = await open(path);
  const { size } = await file.stat();
  return {
    size,
    read: async (from, to) => {
      const bytes = new Uint8Array(Math.max(0, Math.min(to, size) - from));
      const { bytesRead } = await file.read(bytes, 0, bytes.length, from);
      return bytes.subarray(0, bytesRead);
    },
    close: () => file.close(),
  };
}
