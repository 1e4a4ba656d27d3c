import 'fake-indexeddb/auto';
import { KinetikonError } from '@/core/errors';
import type { StoredSession } from '@/core/protocol/http';
import { applyCommand } from '@/core/session/commands';
import { remember } from '@/core/session/history';
import { EMPTY_HISTORY } from '@/core/session/storedHistory';
import { newDocument } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';
import { DraftKeeper } from './draftKeeper';
import { Drafts, type Draft } from './drafts';
import { openWithDrafts } from './recovery';

const base = newDocument('Tide');
const edited = applyCommand(base, { type: 'track.add', id: 't', name: 'One' }, 'Add a track');
const unsaved = { document: edited.document, history: remember(EMPTY_HISTORY, edited.step) };

const draft = (more: Partial<Draft> = {}): Draft => ({
  key: 'tab/s',
  sessionId: 's',
  revision: 3,
  unanswered: [],
  keptAt: 1,
  ...unsaved,
  ...more,
});

const stored = (more: Partial<StoredSession> = {}): StoredSession => ({
  id: 's',
  revision: 3,
  saveId: null,
  document: base,
  history: EMPTY_HISTORY,
  ...more,
});

/** Opens a session of which drafts are left. */
async function opened(left: readonly Draft[], session: StoredSession | Error) {
  const drafts = new Drafts('tab');
  for (const one of left) await drafts.put(one);
  const made: { name: string; document: SessionDocument }[] = [];
  const opening = await openWithDrafts(
    's',
    async () => {
      if (session instanceof Error) throw session;
      return session;
    },
    async (id, name, document, history) => {
      made.push({ name, document });
      return { id, revision: 1, saveId: null, document, history };
    },
    drafts,
    () => 'new',
  );
  const kept = (await drafts.left('s')).map(({ key }) => key);
  for (const key of kept) await drafts.remove(key);
  return { ...opening, made, kept };
}

describe('unsaved work that was left behind', () => {
  it('goes on in the session that it was made from, and is kept until it is saved', async () => {
    const { unsaved: back, draftKey, kept, made, notes } = await opened([draft()], stored());
    expect(back).toEqual(unsaved);
    expect([draftKey, kept, made, notes.length]).toEqual(['tab/s', ['tab/s'], [], 1]);
  });

  it('goes on where a save of its own has arrived without an answer', async () => {
    const there = stored({ revision: 4, saveId: 'mine' });
    expect((await opened([draft({ unanswered: ['mine'] })], there)).unsaved).toEqual(unsaved);
  });

  it('is forgotten where it has arrived', async () => {
    const { unsaved: back, kept, notes } = await opened([draft()], stored({ document: edited.document }));
    expect([back, kept, notes]).toEqual([null, [], []]);
  });

  it('becomes a session of its own where the session has gone on, or gone', async () => {
    const later = await opened([draft()], stored({ revision: 5 }));
    expect([later.unsaved, later.stored.id, later.kept]).toEqual([null, 's', []]);
    expect(later.made).toEqual([{ name: 'Tide, unsaved', document: edited.document }]);
    const gone = await opened([draft()], new KinetikonError('session.missing', 'gone'));
    expect([gone.stored.id, gone.made.length]).toEqual(['new', 1]);
  });

  it('stays where the server does not answer', async () => {
    await expect(opened([draft()], new KinetikonError('database.failed', 'away'))).rejects.toThrow('away');
    expect((await new Drafts('tab').left('s')).length).toBe(1);
    await new Drafts('tab').remove('tab/s');
  });

  it('is found from a tab that is gone, newest first, and once in a session', async () => {
    const two = [draft({ key: 'gone/s', keptAt: 5 }), draft({ keptAt: 2 })];
    const { draftKey, made } = await opened(two, stored());
    expect([draftKey, made.length]).toEqual(['gone/s', 1]);
  });

  it('is dropped when it is damaged, and said', async () => {
    const damaged = draft({ document: { ...base, version: 'x' } as unknown as SessionDocument });
    const { unsaved: back, kept, notes } = await opened([damaged], stored());
    expect([back, kept]).toEqual([null, []]);
    expect(notes[0]!.message).toContain('damaged');
  });
});

describe('the keeper of unsaved work', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());

  function keeper() {
    const calls: string[] = [];
    const state = { unsaved: true, fails: false };
    const problems: unknown[] = [];
    const put = async (one: Draft) => {
      if (state.fails) throw new Error('no room');
      calls.push(`put ${one.key}`);
    };
    const remove = async (key: string) => void calls.push(`remove ${key}`);
    const { sessionId, revision, unanswered } = draft();
    const now = () => (state.unsaved ? { sessionId, revision, unanswered, ...unsaved } : null);
    const it = new DraftKeeper({ put, remove }, 'tab/s', false, now, (error) => problems.push(error));
    return { it, calls, state, problems };
  }

  it('keeps a change soon, and drops it once all is saved', async () => {
    const { it, calls, state } = keeper();
    it.soon();
    it.soon();
    await jest.advanceTimersByTimeAsync(400);
    expect(calls).toEqual(['put tab/s']);
    state.unsaved = false;
    it.saved();
    await jest.advanceTimersByTimeAsync(0);
    expect(calls).toEqual(['put tab/s', 'remove tab/s']);
  });

  it('keeps nothing of what has been saved in time', async () => {
    const { it, calls } = keeper();
    it.soon();
    it.saved();
    await jest.advanceTimersByTimeAsync(400);
    expect(calls).toEqual([]);
  });

  it('says once that it cannot, and goes on trying', async () => {
    const { it, calls, state, problems } = keeper();
    state.fails = true;
    it.keep();
    it.keep();
    await jest.advanceTimersByTimeAsync(0);
    expect(problems).toHaveLength(1);
    state.fails = false;
    it.keep();
    await jest.advanceTimersByTimeAsync(0);
    expect(calls).toEqual(['put tab/s']);
  });
});
