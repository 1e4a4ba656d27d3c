import { thinned } from '../../../test/support/sweep';
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { KinetikonError } from '@/core/errors';
import type { SaveSessionRequest, StoredSession } from '@/core/protocol/http';
import { applyChanges, type Change } from '@/core/session/changes';
import { documentChecksum } from '@/core/session/checksum';
import { applyCommand, type Step } from '@/core/session/commands';
import { historyOf, redo, remember, undo } from '@/core/session/history';
import { EMPTY_HISTORY, type History } from '@/core/session/storedHistory';
import { newDocument } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';
import { Saver, type SessionStore } from './saver';

interface Row {
  document: SessionDocument;
  revision: number;
  saveId: string | null;
  steps: Map<number, Step>;
  cursor: number;
}

/** The document with changes; null where they do not fit. */
function applied(document: SessionDocument, changes: readonly Change[]): SessionDocument | null {
  try {
    return applyChanges(document, JSON.parse(JSON.stringify(changes)) as Change[]);
  } catch {
    return null;
  }
}

/** The rules of the server's repository, in memory. `server.test.ts` holds the repository itself to them. */
class Server {
  readonly sessions = new Map<string, Row>();

  add(id: string, document: SessionDocument, history: History): void {
    if (this.sessions.has(id)) return;
    const steps = [...history.past, ...history.future.toReversed()];
    this.sessions.set(id, {
      document,
      revision: 1,
      saveId: null,
      steps: new Map(steps.map((step, n) => [history.base + n, step])),
      cursor: history.base + history.past.length,
    });
  }

  wholes = 0;

  save(id: string, { revision, saveId, unanswered, changes, document, checksum, history }: SaveSessionRequest): number {
    const row = this.sessions.get(id)!;
    if (row.revision !== revision && !(row.saveId !== null && unanswered.includes(row.saveId))) {
      throw new KinetikonError('session.conflict', 'saved elsewhere');
    }
    if (document) this.wholes++;
    const next = document ?? applied(row.document, changes!);
    if (!next || documentChecksum(next) !== checksum) throw new KinetikonError('session.diverged', 'does not fit');
    for (const number of [...row.steps.keys()]) {
      if (number >= history.keep || number < history.first) row.steps.delete(number);
    }
    history.append.forEach((step, n) => row.steps.set(history.keep + n, step));
    Object.assign(row, { document: next, revision: row.revision + 1, saveId, cursor: history.cursor });
    return row.revision;
  }

  load(id: string): StoredSession {
    const row = this.sessions.get(id)!;
    const numbers = [...row.steps.keys()].sort((a, b) => a - b);
    const steps = numbers.map((number) => row.steps.get(number)!);
    return {
      id,
      revision: row.revision,
      saveId: row.saveId,
      document: row.document,
      history: historyOf(steps, numbers[0] ?? row.cursor, row.cursor),
    };
  }
}

/** Fate of one request: the time that it and its answer take, and whether either is lost. */
interface Fate {
  readonly outMs: number;
  readonly backMs: number;
  readonly lost: 'no' | 'request' | 'answer';
}

const later = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

function storeThrough(server: Server, fate: () => Fate): SessionStore & { under: number; most: number } {
  const through = async <T>(work: () => T): Promise<T> => {
    store.under++;
    store.most = Math.max(store.most, store.under);
    try {
      const { outMs, backMs, lost } = fate();
      await later(outMs);
      if (lost === 'request') throw new KinetikonError('database.failed', 'lost');
      const result = work();
      await later(backMs);
      if (lost === 'answer') throw new KinetikonError('database.failed', 'lost');
      return result;
    } finally {
      store.under--;
    }
  };
  const store = {
    under: 0,
    most: 0,
    save: (id: string, request: SaveSessionRequest) =>
      through(() => ({ revision: server.save(id, request), freeBytes: null })),
    create: (id: string, name: string, document: SessionDocument, history: History) =>
      through(() => {
        server.add(id, { ...document, session: { ...document.session, name } }, history);
        return server.load(id);
      }),
  };
  return store;
}

/** A window with a session open. */
function openWindow(server: Server, id: string, fate: () => Fate) {
  const stored = server.load(id);
  const window = {
    document: stored.document,
    history: stored.history,
    copies: 0,
    store: storeThrough(server, fate),
    saver: null as unknown as Saver,
    problems: 0,
    edit(value: number) {
      const { document, step } = applyCommand(
        window.document,
        { type: 'session.set', values: { tempoBpm: 60 + value } },
        'Tempo',
      );
      window.document = document;
      if (step.forward.length > 0) window.history = remember(window.history, step);
      window.saver.soon(500);
    },
    travel(way: typeof undo) {
      const there = way(window.document, window.history);
      if (!there) return;
      window.document = there.document;
      window.history = there.history;
      window.saver.soon(500);
    },
  };
  window.saver = new Saver(
    stored,
    window.store,
    {
      newest: () => ({ document: window.document, history: window.history }),
      onState: () => {},
      onRoom: () => {},
      onProblem: () => window.problems++,
      onCopied: (_id, name) => {
        window.copies++;
        window.document = { ...window.document, session: { ...window.document.session, name } };
      },
    },
    randomUUID,
  );
  return window;
}

const fates = fc.array(
  fc.record({
    outMs: fc.integer({ min: 0, max: 12000 }),
    backMs: fc.integer({ min: 0, max: 12000 }),
    lost: fc.constantFrom('no', 'no', 'request', 'answer') as fc.Arbitrary<Fate['lost']>,
  }),
  { minLength: 1, maxLength: 12 },
);
const acts = fc.array(
  fc.record({
    afterMs: fc.integer({ min: 0, max: 4000 }),
    act: fc.constantFrom('edit', 'edit', 'edit', 'undo', 'redo', 'save') as fc.Arbitrary<
      'edit' | 'undo' | 'redo' | 'save'
    >,
    value: fc.integer({ min: 0, max: 200 }),
  }),
  { minLength: 1, maxLength: 25 },
);
const GOOD: Fate = { outMs: 5, backMs: 5, lost: 'no' };

const fateFrom = (list: readonly Fate[]) => {
  let next = 0;
  return () => list[next++] ?? GOOD;
};

function act(window: ReturnType<typeof openWindow>, what: 'edit' | 'undo' | 'redo' | 'save', value: number): void {
  if (what === 'edit') window.edit(value);
  else if (what === 'undo') window.travel(undo);
  else if (what === 'redo') window.travel(redo);
  else void window.saver.now();
}

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

describe('saving', () => {
  it('with one window open never makes a copy, and ends with what the window has, whatever is late or lost', async () => {
    await fc.assert(
      fc.asyncProperty(fates, acts, async (list, things) => {
        const server = new Server();
        server.add('s', newDocument('Quay'), EMPTY_HISTORY);
        const window = openWindow(server, 's', fateFrom(list));
        for (const { afterMs, act: what, value } of things) {
          await jest.advanceTimersByTimeAsync(afterMs);
          act(window, what, value);
        }
        await jest.advanceTimersByTimeAsync(600000);
        expect(server.sessions.size).toBe(1);
        expect([window.store.most <= 1, window.copies, window.saver.saved]).toEqual([true, 0, true]);
        const there = server.load('s');
        expect(there.document).toEqual(window.document);
        expect(there.history).toEqual(window.history);
      }),
      { numRuns: thinned(150) },
    );
  });

  it('with another writer makes one copy and loses neither', async () => {
    await fc.assert(
      fc.asyncProperty(fates, fates, acts, acts, async (oneList, otherList, oneActs, otherActs) => {
        const server = new Server();
        server.add('s', newDocument('Quay'), EMPTY_HISTORY);
        const windows = [openWindow(server, 's', fateFrom(oneList)), openWindow(server, 's', fateFrom(otherList))];
        const turns = Math.max(oneActs.length, otherActs.length);
        for (let turn = 0; turn < turns; turn++) {
          for (const [n, things] of [oneActs, otherActs].entries()) {
            const thing = things[turn];
            if (!thing) continue;
            await jest.advanceTimersByTimeAsync(thing.afterMs);
            act(windows[n]!, thing.act, thing.value);
          }
        }
        await jest.advanceTimersByTimeAsync(900000);
        expect(server.sessions.size).toBe(1 + windows[0]!.copies + windows[1]!.copies);
        expect(windows[0]!.copies + windows[1]!.copies).toBeLessThanOrEqual(1);
        for (const window of windows) {
          if (window.history.past.length + window.history.future.length === 0) continue;
          const there = server.load(window.saver.sessionId);
          expect(there.document).toEqual(window.document);
          expect(there.history).toEqual(window.history);
        }
      }),
      { numRuns: thinned(100) },
    );
  });

  it('sends of a point moved in a lane of two thousand that point alone', () => {
    const points = Array.from({ length: 2000 }, (_, n) => ({
      beat: n,
      value: -n / 100,
      shape: 'straight' as const,
      bend: 0,
    }));
    const base = applyCommand(
      newDocument('Points'),
      {
        type: 'all',
        commands: [
          { type: 'track.add', id: 'voice', name: 'Voice' },
          {
            type: 'lane.add',
            lane: {
              id: 'l',
              ownerId: 'voice',
              parameter: 'gainDb',
              on: true,
              points,
              mirrorOf: null,
              mirrorAmount: 100,
            },
          },
        ],
      },
      '',
    ).document;
    const moved = points.map((point, n) => (n === 700 ? { ...point, value: -3 } : point));
    const { document, step } = applyCommand(base, { type: 'lane.set', id: 'l', values: { points: moved } }, 'Move');
    expect(JSON.stringify(step).length).toBeLessThan(400);
    const back = undo(document, remember(EMPTY_HISTORY, step))!;
    expect(back.document).toEqual(base);
    expect(redo(back.document, back.history)!.document).toEqual(document);
  });
});
