import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { Savable } from './saver';

/** The unsaved document and history of a session in one tab. */
export interface Draft extends Savable {
  /** The tab and the session. */
  readonly key: string;
  readonly sessionId: string;
  /** The revision it was made from, and saves since then whose answers have not come. */
  readonly revision: number;
  readonly unanswered: readonly string[];
  /** When it was kept, in milliseconds since 1970. */
  readonly keptAt: number;
}

interface Schema extends DBSchema {
  drafts: { key: string; value: Draft; indexes: { session: string } };
}

const TAB_KEY = 'kinetikon.tab';
const LOCK = 'kinetikon.tab.';

/** The number of this tab, which a reload keeps. A copied tab, in which the number is taken already, gets its own. */
export async function thisTab(newId: () => string): Promise<string> {
  const known = sessionStorage.getItem(TAB_KEY);
  const tab = known !== null && (await holdLock(LOCK + known)) ? known : newId();
  if (tab !== known) {
    await holdLock(LOCK + tab);
    sessionStorage.setItem(TAB_KEY, tab);
  }
  return tab;
}

/** Locks between tabs; undefined where there are none: there every tab counts as gone. */
export const tabLocks = (): LockManager | undefined => (typeof navigator === 'undefined' ? undefined : navigator.locks);

/** Locks that this page holds until it goes. */
const held = new Set<string>();

/** Holds a lock for as long as the page lives; false when another page has it. */
function holdLock(name: string): Promise<boolean> {
  const locks = tabLocks();
  if (held.has(name) || !locks) return Promise.resolve(true);
  return new Promise((resolve) => {
    void locks.request(name, { ifAvailable: true }, (lock) => {
      resolve(lock !== null);
      if (lock === null) return;
      held.add(name);
      return new Promise(() => {});
    });
  });
}

async function tabsAlive(): Promise<ReadonlySet<string>> {
  const held = (await tabLocks()?.query())?.held ?? [];
  return new Set(held.map(({ name }) => (name ?? '').replace(LOCK, '')));
}

/** Unsaved work, kept in the browser so that it outlasts a reload, a crash and a server that is away. */
export class Drafts {
  private readonly db: Promise<IDBPDatabase<Schema>>;

  constructor(private readonly tab: string) {
    this.db = openDB<Schema>('kinetikon', 1, {
      upgrade: (db) => db.createObjectStore('drafts', { keyPath: 'key' }).createIndex('session', 'sessionId'),
    });
  }

  keyOf(sessionId: string): string {
    return `${this.tab}/${sessionId}`;
  }

  async put(draft: Draft): Promise<void> {
    await (await this.db).put('drafts', draft);
  }

  async remove(key: string): Promise<void> {
    await (await this.db).delete('drafts', key);
  }

  /** Drafts of a session that this tab has left or that tabs have which are gone, the newest first. */
  async left(sessionId: string): Promise<Draft[]> {
    const [drafts, alive] = [await (await this.db).getAllFromIndex('drafts', 'session', sessionId), await tabsAlive()];
    return drafts
      .filter(({ key }) => {
        const tab = key.split('/')[0]!;
        return tab === this.tab || !alive.has(tab);
      })
      .sort((a, b) => b.keptAt - a.keptAt);
  }
}
