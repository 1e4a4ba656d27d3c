import { createStore } from 'zustand/vanilla';
import { KinetikonError } from '@/core/errors';
import { newDocument } from '@/core/session/records/factories';
import { SoundAnalyses } from './soundAnalyses';
import type { StudioState } from './state';

interface Asked {
  readonly task: { readonly kind: string };
  readonly signal: AbortSignal;
  readonly onProgress?: (done: number) => void;
  readonly answer: (result: unknown) => void;
  readonly fail: (error: Error) => void;
}

/** Looks at sounds by a worker that answers when the test says so. */
function desk() {
  const store = createStore(
    () => ({ document: newDocument('Looks'), onsets: {}, pitches: {}, pitchSought: {} }) as unknown as StudioState,
  );
  const asked: Asked[] = [];
  const reported: [string, string][] = [];
  const looks = new SoundAnalyses({
    store,
    worker: {
      run: (task, { signal, onProgress } = {}) =>
        new Promise<never>((answer, fail) => {
          signal!.addEventListener('abort', () => fail(new KinetikonError('work.cancelled', 'Given up')));
          asked.push({ task, signal: signal!, ...(onProgress ? { onProgress } : {}), answer: answer as never, fail });
        }),
    },
    samplesOf: async () => [{ left: new Float32Array(4), right: new Float32Array(4) }] as never,
    report: (error, assetId) => void reported.push([(error as Error).message, assetId]),
  });
  const settle = async () => {
    for (let turn = 0; turn < 5; turn++) await Promise.resolve();
  };
  return { store, looks, asked, reported, settle };
}

const COURSE = { seconds: [0], hz: [220] };

describe('what is found out about sounds', () => {
  it('is found once for all who ask, and kept', async () => {
    const { store, looks, asked, settle } = desk();
    const [first, second] = [looks.onsets('a'), looks.onsets('a')];
    void looks.onsets('b');
    await settle();
    expect(asked.map(({ task }) => task.kind)).toEqual(['onsets', 'onsets']);
    asked[0]!.answer({ seconds: [0.5, 1] });
    await Promise.all([first, second]);
    expect(store.getState().onsets).toEqual({ a: [0.5, 1] });
    await looks.onsets('a');
    expect(asked).toHaveLength(2);
  });

  it('tells how far a pitch is, by whole per cent and never backwards', async () => {
    const { store, looks, asked, settle } = desk();
    const told: number[] = [];
    store.subscribe(({ pitchSought }) => told.push(pitchSought.a!));
    const search = looks.pitch('a');
    await settle();
    for (const done of [0.001, 0.011, 0.012, 0.3, 0.2, 0.999]) asked[0]!.onProgress!(done);
    asked[0]!.answer(COURSE);
    await search;
    expect(told).toEqual([0, 1, 30, 99, 99]);
    expect(store.getState().pitches).toEqual({ a: COURSE });
  });

  it('is asked for again after it failed, which is said, and after it was given up, which is not', async () => {
    const { store, looks, asked, reported, settle } = desk();
    const failing = looks.pitch('a');
    await settle();
    asked[0]!.fail(new Error('The worker is gone'));
    await failing;
    expect(reported).toEqual([['The worker is gone', 'a']]);
    const stopped = looks.pitch('a');
    await settle();
    expect(asked).toHaveLength(2);
    looks.giveUp('pitch', 'a');
    expect(asked[1]!.signal.aborted).toBe(true);
    const again = looks.pitch('a');
    await settle();
    await stopped;
    expect(asked).toHaveLength(3);
    asked[2]!.answer(COURSE);
    await again;
    expect(reported).toHaveLength(1);
    expect(store.getState().pitches).toEqual({ a: COURSE });
  });

  it('gives nothing up that nobody looks for', () => {
    expect(() => desk().looks.giveUp('onsets', 'nowhere')).not.toThrow();
  });
});
