import { KinetikonError } from '@/core/errors';
import { MOST_UNANSWERED, type SavedResponse, type SaveSessionRequest, type StoredSession } from '@/core/protocol/http';
import { documentChanges } from '@/core/session/changes';
import { documentChecksum } from '@/core/session/checksum';
import { historyChange } from '@/core/session/history';
import type { History } from '@/core/session/storedHistory';
import type { SessionDocument } from '@/core/session/records/document';
import { cutText } from '@/core/text';
import type { SaveState } from './state';

const RETRY_AFTER_MS = 3000;

/** A document with its history. */
export interface Savable {
  readonly document: SessionDocument;
  readonly history: History;
}

/** The server as saving needs it. */
export interface SessionStore {
  save(id: string, request: SaveSessionRequest): Promise<SavedResponse>;
  create(id: string, name: string, document: SessionDocument, history: History): Promise<StoredSession>;
}

export interface SaverListener {
  /** The newest document and its history. */
  newest(): Savable;
  onState(state: SaveState): void;
  onProblem(error: unknown): void;
  /** Bytes that the server's disk has left. */
  onRoom(freeBytes: number): void;
  /** Somebody else saved in between: what was here goes on as a session of its own. */
  onCopied(copyId: string, name: string): void;
}

/**
 * Keeps a session stored: one save is under way at a time, and at most one waits behind it, which takes what is newest
 * when its turn comes. A save whose answer is lost may have arrived; the next one says so, and is not taken for another
 * writer's. When there is another writer, this version becomes one session of its own, whatever gets lost meanwhile.
 */
export class Saver {
  private timer: ReturnType<typeof setTimeout> | null = null;
  private running: Promise<void> | null = null;
  private waiting = false;
  private failing = false;
  private unanswered: string[] = [];
  /** The server's copy differs from ours: the next save carries the whole document. */
  private whole = false;
  /** Id of the copy that is being made, kept until it is there. */
  private copyId: string | null = null;
  private id: string;
  private revision: number;
  private stored: Savable;

  constructor(
    session: StoredSession,
    private readonly store: SessionStore,
    private readonly listener: SaverListener,
    private readonly newId: () => string,
  ) {
    this.id = session.id;
    this.revision = session.revision;
    this.stored = session;
  }

  get sessionId(): string {
    return this.id;
  }

  /** Unsaved work, with the revision it is based on; null when all is saved. */
  get unsaved(): {
    sessionId: string;
    revision: number;
    unanswered: readonly string[];
    document: SessionDocument;
    history: History;
  } | null {
    if (this.saved) return null;
    const { id: sessionId, revision, unanswered } = this;
    return { sessionId, revision, unanswered, ...this.listener.newest() };
  }

  get saved(): boolean {
    return this.running === null && this.stored.document === this.listener.newest().document;
  }

  /** Saves after a while; called again, after a while from then on. */
  soon(delayMs: number): void {
    if (this.running === null) this.listener.onState(this.failing ? 'failing' : 'waiting');
    if (this.timer) clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.now(), delayMs);
  }

  /** Saves what is there now, or after the save under way; done when that has been tried. */
  now(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    if (this.running) {
      this.waiting = true;
      return this.running;
    }
    this.running = this.run();
    return this.running;
  }

  private async run(): Promise<void> {
    try {
      do {
        this.waiting = false;
        await this.once();
      } while (this.waiting && !this.failing);
    } finally {
      this.running = null;
    }
    if (this.failing) this.soon(RETRY_AFTER_MS);
    else if (this.timer === null && !this.saved) this.soon(0);
    else this.listener.onState(this.saved ? 'saved' : 'waiting');
  }

  private async once(): Promise<void> {
    const { document, history } = this.listener.newest();
    this.listener.onState('saving');
    const saveId = this.newId();
    const unanswered = this.unanswered;
    this.unanswered = [...unanswered, saveId].slice(-MOST_UNANSWERED);
    try {
      if (this.copyId !== null) {
        await this.copy(this.copyId);
        return;
      }
      const { revision, freeBytes } = await this.store.save(this.id, {
        revision: this.revision,
        saveId,
        unanswered,
        ...(this.whole ? { document } : { changes: documentChanges(this.stored.document, document) }),
        checksum: documentChecksum(document),
        history: historyChange(this.stored.history, history),
      });
      this.revision = revision;
      this.stored = { document, history };
      if (freeBytes !== null) this.listener.onRoom(freeBytes);
      this.unanswered = [];
      this.failing = false;
      this.whole = false;
    } catch (error) {
      if (error instanceof KinetikonError && error.code === 'session.diverged' && !this.whole) {
        this.whole = true;
        // Sent whole in the same go.
        this.waiting = true;
        return;
      }
      if (error instanceof KinetikonError && error.code === 'session.conflict') {
        this.copyId = this.newId();
        // The copy is made in the same go.
        this.waiting = true;
        return;
      }
      if (!this.failing) this.listener.onProblem(error);
      this.failing = true;
    }
  }

  private async copy(copyId: string): Promise<void> {
    const { document, history } = this.listener.newest();
    const name = `${cutText(document.session.name, 100)}, kept copy`;
    const copy = await this.store.create(copyId, name, document, history);
    this.id = copy.id;
    this.revision = copy.revision;
    this.unanswered = [];
    this.copyId = null;
    this.failing = false;
    // Steps of an attempt whose answer was lost may be there: all are written anew with the next save.
    this.stored = { document, history: { past: [], future: [], base: history.base } };
    this.listener.onCopied(copy.id, name);
  }

  close(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    if (!this.saved) void this.now();
  }
}
