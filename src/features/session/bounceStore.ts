import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { BounceFacts } from '@/core/protocol/renders';
import type { RenderState } from '@/core/protocol/renderStates';
import type { RenderRequest } from '@/core/session/renderRequests';

/** A bounce of this browser: what was asked for, and what came of it. Times are milliseconds since 1970. */
export interface LocalBounce {
  readonly id: string;
  readonly sessionId: string;
  readonly fileName: string;
  readonly request: Extract<RenderRequest, { kind: 'bounce' }>;
  readonly askedAt: number;
  readonly state: Exclude<RenderState, 'cancelled'>;
  /** True while another window makes it. */
  readonly isElsewhere: boolean;
  /** 0 to 1. */
  readonly progress: number;
  /** Estimate of the time left; null until enough is done. */
  readonly secondsLeft: number | null;
  /** Seconds that it took. */
  readonly tookSeconds: number | null;
  readonly facts: BounceFacts | null;
  readonly bytes: number | null;
  readonly error: string | null;
}

interface Schema extends DBSchema {
  bounces: { key: string; value: LocalBounce; indexes: { session: string } };
  /** Sound files by bounce, apart: the list is read without them. Earlier versions kept their bytes. */
  files: { key: string; value: Blob | Uint8Array };
}

/** Bounces and their files, kept in the browser until they are removed. */
export class BounceStore {
  private readonly db: Promise<IDBPDatabase<Schema>> = openDB<Schema>('kinetikon-bounces', 1, {
    upgrade: (db) => {
      db.createObjectStore('bounces', { keyPath: 'id' }).createIndex('session', 'sessionId');
      db.createObjectStore('files');
    },
  });

  /** Bounces of a session, the newest first. */
  async list(sessionId: string): Promise<LocalBounce[]> {
    const all = await (await this.db).getAllFromIndex('bounces', 'session', sessionId);
    return all.sort((a, b) => b.askedAt - a.askedAt);
  }

  /** @param file its sound file, once that is there */
  async put(bounce: LocalBounce, file?: Blob): Promise<void> {
    const change = (await this.db).transaction(['bounces', 'files'], 'readwrite');
    await Promise.all([
      change.objectStore('bounces').put(bounce),
      file && change.objectStore('files').put(file, bounce.id),
      change.done,
    ]);
  }

  async file(id: string): Promise<Blob | Uint8Array | undefined> {
    return (await this.db).get('files', id);
  }

  async remove(id: string): Promise<void> {
    const change = (await this.db).transaction(['bounces', 'files'], 'readwrite');
    await Promise.all([change.objectStore('bounces').delete(id), change.objectStore('files').delete(id), change.done]);
  }
}
