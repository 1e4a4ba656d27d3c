import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import { readCopiedClips, type CopiedClips } from '@/core/session/copiedClips';

interface Schema extends DBSchema {
  copied: { key: 'clips'; value: CopiedClips };
}

/** Copied clips, shared by all sessions in this browser; by this page alone if the browser refuses storage. */
export class Clipboard {
  private kept: CopiedClips | null = null;
  private db: Promise<IDBPDatabase<Schema> | null> | null = null;

  private open(): Promise<IDBPDatabase<Schema> | null> {
    this.db ??= openDB<Schema>('kinetikon-clipboard', 1, {
      upgrade: (db) => void db.createObjectStore('copied'),
    }).catch(() => null);
    return this.db;
  }

  async keepClips(clips: CopiedClips): Promise<void> {
    this.kept = clips;
    await (await this.open())?.put('copied', clips, 'clips').catch(() => undefined);
  }

  /** The clips that were copied last, here or in another page. */
  async clips(): Promise<CopiedClips | null> {
    const stored = await (await this.open())?.get('copied', 'clips').catch(() => undefined);
    return readCopiedClips(stored) ?? this.kept;
  }
}
