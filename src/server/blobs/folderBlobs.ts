import { createReadStream } from 'node:fs';
import { mkdir, open, readdir, rename, rm, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { BlobHome, BlobWriter } from './blobHome';

const UNFINISHED = '.part';

function isMissing(error: unknown): boolean {
  return (error as NodeJS.ErrnoException).code === 'ENOENT';
}

/** Blobs as files of a folder, which several machines may share. */
export class FolderBlobs implements BlobHome {
  readonly name: string;

  constructor(private readonly folder: string) {
    this.name = `folder ${folder}`;
  }

  private path(id: string): string {
    return join(this.folder, id.slice(0, 2), id);
  }

  /** A file under a temporary name, which `finish` renames once it is on the disk. */
  async write(id: string): Promise<BlobWriter> {
    const path = this.path(id);
    const draft = path + UNFINISHED;
    await mkdir(dirname(path), { recursive: true });
    const file = await open(draft, 'w');
    let finished = false;
    return {
      append: async (piece) => {
        await file.writeFile(piece);
      },
      finish: async () => {
        await file.sync();
        await file.close();
        await rename(draft, path);
        finished = true;
        // The new name is on the disk once the folder is.
        const folder = await open(dirname(path), 'r');
        await folder.sync().finally(() => folder.close());
      },
      abandon: async () => {
        if (finished) return;
        await file.close().catch(() => undefined);
        await rm(draft, { force: true });
      },
    };
  }

  async *read(id: string, from: number, to: number): AsyncGenerator<Uint8Array> {
    if (from >= to) return;
    try {
      yield* createReadStream(this.path(id), { start: from, end: to - 1 }) as AsyncIterable<Uint8Array>;
    } catch (error) {
      if (!isMissing(error)) throw error;
    }
  }

  async size(id: string): Promise<number | null> {
    try {
      return (await stat(this.path(id))).size;
    } catch (error) {
      if (isMissing(error)) return null;
      throw error;
    }
  }

  async remove(ids: readonly string[]): Promise<void> {
    for (const path of ids.map((id) => this.path(id))) {
      await rm(path, { force: true });
      await rm(path + UNFINISHED, { force: true });
    }
  }

  async sweep(olderThanMs: number): Promise<void> {
    const files = await readdir(this.folder, { recursive: true, withFileTypes: true }).catch(() => []);
    for (const file of files) {
      if (!file.isFile() || !file.name.endsWith(UNFINISHED)) continue;
      const path = join(file.parentPath, file.name);
      const changed = await stat(path).then(
        ({ mtimeMs }) => mtimeMs,
        () => Infinity,
      );
      if (Date.now() - changed > olderThanMs) await rm(path, { force: true });
    }
  }

  async works(): Promise<boolean> {
    await mkdir(this.folder, { recursive: true });
    return true;
  }
}
