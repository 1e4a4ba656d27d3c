import type { Plan } from '@/core/engine/plan';
import { planClip, planStrip } from '@/core/engine/plans';
import { PAGE_COUNTER, PAGE_FRAMES } from '@/core/pages/pagedSamples';
import type { FromPages, ToPages } from '@/core/protocol/pages';
import { PagesClient } from './pagesClient';

class FakeWorker {
  onmessage: ((event: { data: FromPages }) => void) | null = null;
  onerror: ((event: { message: string }) => void) | null = null;
  readonly posted: ToPages[] = [];
  ended = false;
  postMessage = (message: ToPages) => void this.posted.push(message);
  terminate = () => void (this.ended = true);
  give = (data: FromPages) => this.onmessage!({ data });
}

const table = (pages: number) => new Int32Array(new SharedArrayBuffer(4 * pages));
const settle = () => new Promise((resolve) => setTimeout(resolve, 0));

/** A clip of a long sound and one of a short one. */
const plan: Plan = {
  sampleRate: 48000,
  framesPerBeat: 24000,
  endFrame: 10 * PAGE_FRAMES,
  loop: null,
  strips: [
    planStrip('a', {
      clips: [
        planClip('c', 10 * PAGE_FRAMES, { assetId: 'long' }),
        planClip('d', 1000, { assetId: 'short', reversed: true }),
      ],
    }),
  ],
  edges: [],
};

function begun() {
  const worker = new FakeWorker();
  const memories: number[] = [];
  const problems: string[] = [];
  const pages = new PagesClient(
    new SharedArrayBuffer(64),
    {
      onMemory: ({ chunks }) => memories.push(chunks.length),
      onProblem: (error, soundId) => problems.push(`${soundId}: ${String(error)}`),
      onUnrolling: (done) => problems.push(`unrolled ${done}`),
      onLost: (error, soundId) => problems.push(`${soundId} lost: ${String(error)}`),
    },
    () => worker as unknown as Worker,
    async () => ({}) as WebAssembly.Module,
  );
  const open = async (sides: 1 | 2 = 1) => {
    const opening = pages.open('long', 'long.wav', 48000);
    await settle();
    worker.give({ kind: 'counters', counters: new Int32Array(1) });
    const sound = { frames: 10 * PAGE_FRAMES, sides, table: table(10 * sides) };
    worker.give({ kind: 'opened', soundId: 'long', sound });
    return (await opening)!;
  };
  return { worker, pages, memories, problems, open };
}

beforeAll(() => Object.assign(globalThis, { location: { href: 'http://localhost/' } }));

describe('long sounds', () => {
  it('start their worker with the first, which is told where the engine plays and what', async () => {
    const { worker, pages, memories, open } = begun();
    pages.setPlan(plan);
    expect(worker.posted).toEqual([]);
    expect([pages.isReady(0), pages.lateBlocks]).toEqual([true, 0]);
    const sound = await open();
    expect(worker.posted[0]).toMatchObject({ kind: 'begin' });
    expect(worker.posted.find(({ kind }) => kind === 'open')).toMatchObject({
      soundId: 'long',
      name: 'long.wav',
    });
    const clips = [{ assetId: 'long', startFrame: 0, offsetFrame: 0, lengthFrames: 10 * PAGE_FRAMES }];
    expect(worker.posted.at(-1)).toEqual({ kind: 'plan', plan: { clips, loop: null } });
    worker.give({ kind: 'chunk', chunk: new Float32Array(4) });
    expect([memories, sound.memory.chunks.length]).toEqual([[0, 1], 1]);
    sound.memory.counters[PAGE_COUNTER.late] = 3;
    expect(pages.lateBlocks).toBe(3);
  });

  it('tell their worker what is played when that changes, and not when an effect is moved', async () => {
    const { worker, pages, open } = begun();
    pages.setPlan(plan);
    await open();
    const plans = () => worker.posted.filter(({ kind }) => kind === 'plan').length;
    const before = plans();
    const strip = plan.strips[0]!;
    pages.setPlan({ ...plan, strips: [{ ...strip, gain: 0.5, clips: [...strip.clips] }] });
    expect(plans()).toBe(before);
    pages.setPlan({ ...plan, loop: { startFrame: 0, endFrame: 1000 } });
    expect(plans()).toBe(before + 1);
    pages.setPlan({ ...plan, strips: [{ ...strip, clips: [{ ...strip.clips[0]!, startFrame: 9 }] }] });
    expect(worker.posted.at(-1)).toMatchObject({ kind: 'plan', plan: { clips: [{ startFrame: 9 }], loop: null } });
  });

  it('are ready where their pages are, and are waited for no longer than is told', async () => {
    const { pages, open } = begun();
    pages.setPlan(plan);
    const sound = await open(2);
    expect(pages.isReady(0)).toBe(false);
    const began = performance.now();
    await pages.ready(() => 0, 60);
    expect(performance.now() - began).toBeGreaterThan(50);
    sound.table[0] = 1;
    expect([pages.isReady(0), pages.isReady(PAGE_FRAMES - 1000)]).toEqual([true, false]);
    const waiting = pages.ready(() => PAGE_FRAMES, 10000);
    sound.table[2] = 2;
    await waiting;
  });

  it('are asked for by drawings once each, again where they could not be had, and anew by a sound that is opened anew', async () => {
    const { worker, pages, open } = begun();
    await open();
    const asked = () => worker.posted.filter(({ kind }) => kind === 'page').length;
    const both = [pages.page('long', 2), pages.page('long', 2)];
    expect(asked()).toBe(1);
    const sides = [new Float32Array(4)];
    worker.give({ kind: 'page', soundId: 'long', page: 2, sides });
    expect(await Promise.all(both)).toEqual([sides, sides]);
    const torn = pages.page('long', 3);
    worker.give({ kind: 'page', soundId: 'long', page: 3, sides: null });
    expect(await torn).toBeNull();
    void pages.page('long', 3);
    expect(asked()).toBe(3);
    pages.close('long');
    void pages.page('long', 2);
    expect(asked()).toBe(4);
  });

  it('are fetched for a jump that is to come, which another one takes the place of', async () => {
    const { worker, pages, open } = begun();
    pages.setPlan(plan);
    const sound = await open();
    let isWanted = true;
    const reaching = pages.reach(5 * PAGE_FRAMES, 10000, () => isWanted);
    expect(worker.posted.at(-1)).toEqual({ kind: 'reach', frame: 5 * PAGE_FRAMES });
    isWanted = false;
    await reaching;
    sound.table[5] = 1;
    const posted = worker.posted.length;
    await pages.reach(5 * PAGE_FRAMES, 10000, () => true);
    expect(worker.posted.length).toBe(posted);
    pages.jumped();
    expect(worker.posted.at(-1)).toEqual({ kind: 'reach', frame: null });
  });

  it('may have to be read as a whole, may fail, and are told of when their worker dies', async () => {
    const { worker, pages, problems, open } = begun();
    await open();
    const whole = pages.open('song', 'song.mp3', 48000);
    const torn = pages.open('torn', 'torn.wav', 48000);
    await settle();
    const error = { code: 'file.broken' as const, message: 'torn', kept: undefined, next: undefined };
    worker.give({ kind: 'unrolling', done: 0.5 });
    worker.give({ kind: 'opened', soundId: 'song', sound: null });
    worker.give({ kind: 'failed', soundId: 'torn', error });
    expect(await whole).toBeNull();
    await expect(torn).rejects.toMatchObject({ code: 'file.broken' });
    worker.give({ kind: 'problem', soundId: 'long', error: { ...error, code: 'unexpected', message: 'far away' } });
    const lost = pages.open('late', 'late.wav', 48000);
    await settle();
    worker.onerror!({ message: 'out of memory' });
    await expect(lost).rejects.toThrow('out of memory');
    expect(problems).toEqual([
      'unrolled 0.5',
      'long: Error: far away',
      'long lost: KinetikonError: Reading long sounds stopped: out of memory.',
    ]);
    expect(worker.ended).toBe(true);
    // The next one starts it again.
    const again = await open();
    expect([again.memory.chunks, pages.isReady(0)]).toEqual([[], true]);
    pages.close('long');
    expect(worker.posted.at(-1)).toEqual({ kind: 'close', soundId: 'long' });
  });
});
