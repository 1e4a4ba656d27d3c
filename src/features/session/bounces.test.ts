import 'fake-indexeddb/auto';
import { applyCommand } from '@/core/session/commands';
import { newDocument } from '@/core/session/records/factories';
import { EMPTY_HISTORY } from '@/core/session/storedHistory';
import type { Done } from '@/core/jobs/kinds';
import { cancelled, KinetikonError } from '@/core/errors';
import { Bounces, secondsLeftOf, type BounceHost } from './bounces';
import { BounceStore } from './bounceStore';
import { initialState, type StudioState } from './state';

interface Run {
  readonly options: { readonly onProgress: (share: number) => void };
  readonly finish: (result: Made) => void;
  readonly fail: (error: unknown) => void;
}

type Made = Done<'bounce', Blob>;

const made = (first: number): Made => ({
  file: new Blob([Uint8Array.of(first, 2, 3)]),
  seconds: 2,
  levels: {} as Made['levels'],
  clipped: 0,
});
const settle = async () => {
  for (let turn = 0; turn < 40; turn++) await new Promise((resolve) => setImmediate(resolve));
};

const { document } = applyCommand(newDocument('Tide'), { type: 'track.add', id: 't', name: 'One' }, '');
const request = {
  kind: 'bounce',
  document,
  delivery: 'speakers',
  fromBeat: 0,
  toBeat: 4,
  tailSeconds: 0,
  format: '24',
  gainDb: 0,
} as const;

/** A session as one page after another opens it, each with the same store. */
function page(sessionId = 's', store: BounceStore | null = new BounceStore()) {
  let state: StudioState = initialState({ id: sessionId, saveId: null, revision: 1, document, history: EMPTY_HISTORY });
  const runs: Run[] = [];
  const problems: unknown[] = [];
  const cancels: (() => void)[] = [];
  const delivered: (readonly [string, number])[] = [];
  const host: BounceHost = {
    sessionId,
    get state() {
      return state;
    },
    set: (part) => {
      state = { ...state, ...part };
    },
    renderer: {
      run: ((_task: unknown, options: Run['options'] & { signal: AbortSignal }) =>
        new Promise((finish, fail) => {
          runs.push({ options, finish, fail } as never);
          options.signal.addEventListener('abort', () => fail(cancelled()));
        })) as never,
    },
    sounds: { playedOf: async () => [] },
    jobs: {
      track: (_label, work) => {
        const controller = new AbortController();
        const cancel = () => controller.abort();
        cancels.push(cancel);
        return work({ signal: controller.signal, progress: () => {}, cancel });
      },
    },
    messages: { report: (error) => problems.push(error) },
    deliver: (fileName, { size }) => delivered.push([fileName, size]),
  };
  const bounces = new Bounces(host, store);
  return { bounces, host, runs, problems, cancels, delivered, states: () => state.bounces.map((one) => one.state) };
}

/** Locks as windows of one browser share them. */
function sharedLocks(): Pick<LockManager, 'request'> {
  const lines = new Map<string, Promise<unknown>>();
  return {
    request: (async (
      name: string,
      options: { ifAvailable?: boolean; signal?: AbortSignal },
      work: (lock: unknown) => unknown,
    ) => {
      if (options.ifAvailable && lines.has(name)) return work(null);
      await lines.get(name);
      if (options.signal?.aborted) throw new DOMException('given up', 'AbortError');
      const own = Promise.resolve(work({ name }));
      lines.set(name, own);
      await own.catch(() => {});
      lines.delete(name);
      return own;
    }) as never,
  };
}

it('the time left follows from the part that is done, once that says something', () => {
  expect(secondsLeftOf(0.25, 10)).toBe(30);
  expect([secondsLeftOf(0.01, 10), secondsLeftOf(0.5, 0.5), secondsLeftOf(1, 9)]).toEqual([null, null, 0]);
});

describe('bounces of a browser', () => {
  beforeEach(() => {
    indexedDB = new IDBFactory();
  });

  it('are made one after another, as the session was, and keep their file across pages', async () => {
    const first = page();
    await first.bounces.add(request, 'Tide.wav');
    await first.bounces.add({ ...request, gainDb: 3 }, 'Tide loud.wav');
    await settle();
    expect([first.runs.length, first.states()]).toEqual([1, ['waiting', 'running']]);
    expect(first.bounces.isBusy).toBe(true);
    first.runs[0]!.options.onProgress(0.5);
    expect(first.host.state.bounces[1]!.progress).toBe(0.5);
    first.runs[0]!.finish(made(1));
    await settle();
    first.runs[1]!.finish(made(9));
    await settle();
    expect([first.states(), first.bounces.isBusy, first.problems]).toEqual([['done', 'done'], false, []]);
    expect(first.delivered).toEqual([
      ['Tide.wav', 3],
      ['Tide loud.wav', 3],
    ]);
    const later = page();
    await later.bounces.open();
    expect(later.host.state.bounces.map(({ fileName, bytes }) => [fileName, bytes])).toEqual([
      ['Tide loud.wav', 3],
      ['Tide.wav', 3],
    ]);
    const file = await later.bounces.file(later.host.state.bounces[0]!.id);
    expect([new Uint8Array(await file.arrayBuffer())[0], file.type]).toEqual([9, 'audio/wav']);
    expect([later.runs.length, later.delivered.length]).toEqual([0, 0]);
    const other = page('another');
    await other.bounces.open();
    expect(other.states()).toEqual([]);
  });

  it('begin again where their page was closed, also the one that waited', async () => {
    const first = page();
    await first.bounces.add(request, 'a.wav');
    await first.bounces.add(request, 'b.wav');
    await settle();
    first.bounces.close();
    first.runs[0]!.fail(cancelled());
    await settle();
    expect(first.runs).toHaveLength(1);
    const later = page();
    await later.bounces.open();
    await settle();
    later.runs[0]!.finish(made(1));
    await settle();
    later.runs[1]!.finish(made(2));
    await settle();
    expect(later.states()).toEqual(['done', 'done']);
  });

  it('leave the list and the browser when they are cancelled or removed', async () => {
    const { bounces, runs, cancels, states } = page();
    await bounces.add(request, 'a.wav');
    const { id } = await bounces.add(request, 'b.wav');
    const { id: third } = await bounces.add(request, 'c.wav');
    await settle();
    await bounces.remove(id);
    cancels[0]!();
    await settle();
    expect([runs.length, states()]).toEqual([2, ['running']]);
    runs[1]!.finish(made(1));
    await settle();
    await bounces.remove(third);
    await expect(bounces.file(third)).rejects.toMatchObject({ code: 'render.missing' });
    const later = page();
    await later.bounces.open();
    expect(later.states()).toEqual([]);
  });

  it('say why they failed, and do not hold up the next one', async () => {
    const { bounces, runs, host, states } = page();
    await bounces.add(request, 'a.wav');
    await bounces.add(request, 'b.wav');
    await settle();
    runs[0]!.fail(new KinetikonError('asset.missing', 'words.wav could not be loaded.'));
    await settle();
    runs[1]!.finish(made(1));
    await settle();
    expect(states()).toEqual(['done', 'failed']);
    expect(host.state.bounces[1]!.error).toContain('words.wav could not be loaded.');
  });

  it('refuse a session whose rate has changed since', async () => {
    const { bounces, runs, host } = page();
    const { session } = host.state.document;
    host.set({ document: { ...host.state.document, session: { ...session, sampleRateHz: 96000 } } });
    await bounces.add(request, 'a.wav');
    await settle();
    expect([runs.length, host.state.bounces[0]!.state]).toEqual([0, 'failed']);
    expect(host.state.bounces[0]!.error).toContain('sample rate');
  });

  it('are kept five at most, the newest', async () => {
    const { bounces, runs, host } = page();
    for (let n = 0; n < 7; n++) {
      await bounces.add(request, `${n}.wav`);
      await settle();
      runs[n]!.finish(made(n));
      await settle();
    }
    expect(host.state.bounces.map(({ fileName }) => fileName)).toEqual(['6.wav', '5.wav', '4.wav', '3.wav', '2.wav']);
  });

  it('are there while the page is open where the browser has no room', async () => {
    const store = new BounceStore();
    store.put = async () => {
      throw new DOMException('no room', 'QuotaExceededError');
    };
    const { bounces, runs, problems, states } = page('s', store);
    const { id } = await bounces.add(request, 'a.wav');
    await settle();
    runs[0]!.finish(made(7));
    await settle();
    expect([states(), (problems[0] as KinetikonError).code]).toEqual([['done'], 'storage.full']);
    expect(new Uint8Array(await (await bounces.file(id)).arrayBuffer())[0]).toBe(7);
  });

  describe('with two windows', () => {
    beforeEach(() => Object.assign(globalThis, { navigator: { locks: sharedLocks() } }));
    afterEach(() => Object.assign(globalThis, { navigator: undefined }));

    const elsewhere = ({ host }: ReturnType<typeof page>) => host.state.bounces.map((one) => one.isElsewhere);

    it('are made in one, and shown in the other once they are done', async () => {
      const [first, second] = [page(), page()];
      await first.bounces.add(request, 'a.wav');
      await first.bounces.add(request, 'b.wav');
      await settle();
      await second.bounces.open();
      await settle();
      expect([second.runs.length, elsewhere(second), second.bounces.isBusy]).toEqual([0, [true, true], false]);
      first.runs[0]!.finish(made(1));
      await settle();
      first.runs[1]!.finish(made(2));
      await settle();
      expect([second.runs.length, second.states(), elsewhere(second)]).toEqual([0, ['done', 'done'], [false, false]]);
    });

    it('are taken over when their window is closed, and leave when they are removed there', async () => {
      const [first, second] = [page(), page()];
      await first.bounces.add(request, 'a.wav');
      const { id } = await first.bounces.add(request, 'b.wav');
      await settle();
      await second.bounces.open();
      await first.bounces.remove(id);
      first.bounces.close();
      first.runs[0]!.fail(cancelled());
      await settle();
      expect([second.runs.length, second.states(), elsewhere(second)]).toEqual([1, ['running'], [false]]);
    });
  });
});
