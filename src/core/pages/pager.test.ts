import { SeededRandom } from '../math/random';
import { neededPages, type PagePlan } from './neededPages';
import { CHUNK_PAGES, PAGE_COUNTER, PAGE_FRAMES, readPages, type PagedSamples } from './pagedSamples';
import { Pager, type PageReading } from './pager';

const P = PAGE_FRAMES;
const plan = (clips: PagePlan['clips'], loop: PagePlan['loop'] = null): PagePlan => ({ clips, loop });
const clip = (assetId: string, startFrame: number, offsetFrame: number, lengthFrames: number, reversed?: true) => ({
  assetId,
  startFrame,
  offsetFrame,
  lengthFrames,
  ...(reversed ? { reversed } : {}),
});
const lengths = new Map([
  ['a', 100 * P],
  ['b', 3 * P],
]);
const pagesOf = (of: PagePlan, position: number, ahead: number) =>
  neededPages(of, lengths, position, ahead).map(({ soundId, page }) => `${soundId}${page}`);

describe('the pages that are needed', () => {
  it('are those within reach, soonest first', () => {
    const two = plan([clip('a', 0, 10 * P, 50 * P), clip('b', P / 2, 0, 9 * P)]);
    expect(pagesOf(two, 0, 2 * P)).toEqual(['a10', 'b0', 'a11', 'b1']);
    expect(pagesOf(two, 20 * P, P)).toEqual(['a30', 'a31'].slice(0, 1));
    expect(pagesOf(two, 0, 1)).toEqual(['a10']);
  });

  it('run backwards for reversed clips, and end where the sound does', () => {
    expect(pagesOf(plan([clip('b', 0, 0, 3 * P, true)]), 0, 2 * P)).toEqual(['b2', 'b1']);
    expect(pagesOf(plan([clip('b', 0, 2 * P, 5 * P, true)]), 0, 5 * P)).toEqual(['b2']);
    expect(pagesOf(plan([clip('b', 0, 2 * P, 5 * P)]), 2 * P, 3 * P)).toEqual([]);
  });

  it('go on at the beginning of the loop', () => {
    const looped = plan([clip('a', 0, 0, 90 * P)], { startFrame: 4 * P, endFrame: 8 * P });
    expect(pagesOf(looped, 7 * P, 2 * P)).toEqual(['a7', 'a4']);
    expect(pagesOf(looped, 9 * P, P)).toEqual(['a9']);
    expect(pagesOf(looped, 0, P)).toEqual(['a0']);
  });

  it('of random clips hold every frame that is played', () => {
    const random = new SeededRandom(9);
    const below = (end: number) => Math.floor(random.uniform() * end);
    for (let n = 0; n < 200; n++) {
      const one = clip('a', below(3 * P), below(98 * P), 1 + below(5 * P), below(2) === 0 ? true : undefined);
      const [position, ahead] = [below(6 * P), 1 + below(3 * P)];
      const needed = new Set(pagesOf(plan([one]), position, ahead));
      for (let m = 0; m < 50; m++) {
        const place = position + below(ahead) - one.startFrame;
        if (place < 0 || place >= one.lengthFrames) continue;
        const at = one.offsetFrame + (one.reversed ? one.lengthFrames - 1 - place : place);
        if (at < 100 * P) expect(needed.has(`a${Math.floor(at / P)}`)).toBe(true);
      }
    }
  });
});

/** A sound whose samples tell where they stand, its pages given out when the test says so, or at once. */
function reading(pages: number, sides: 1 | 2, atOnce = true) {
  const waiting: { page: number; give: () => void; fail: () => void }[] = [];
  const asked: number[] = [];
  const value = (page: number, side: number) => page + 0.25 * side + 0.125;
  const one: PageReading & { waiting: typeof waiting; asked: number[]; freed: number } = {
    frames: pages * P,
    sides,
    waiting,
    asked,
    freed: 0,
    free: () => void one.freed++,
    page: (page) =>
      new Promise((resolve, reject) => {
        asked.push(page);
        const give = () =>
          resolve(Array.from({ length: sides }, (_, side) => new Float32Array(P).fill(value(page, side))));
        if (atOnce) give();
        else waiting.push({ page, give, fail: () => reject(new Error('torn')) });
      }),
  };
  return one;
}

const settle = async () => {
  for (let n = 0; n < 200; n++) await Promise.resolve();
};

function pagerOf(mostPages?: number) {
  const chunks: Float32Array[] = [];
  const problems: string[] = [];
  const clock = { ms: 0 };
  const events = {
    onChunk: (chunk: Float32Array) => void chunks.push(chunk),
    onProblem: (soundId: string, error: unknown) => void problems.push(`${soundId}: ${String(error)}`),
  };
  return { pager: new Pager(events, () => clock.ms, mostPages), chunks, problems, clock };
}

const heard = (sound: PagedSamples, page: number) => {
  const [left, right] = [new Float32Array(1), new Float32Array(1)];
  readPages(sound, page * P + 5, 1, left, right);
  return [left[0], right[0]];
};

describe('the pager', () => {
  it('gets what is needed, a page of each sound at a time, and grows by chunks', async () => {
    const { pager, chunks } = pagerOf();
    const [a, b] = [reading(100, 2), reading(3, 1)];
    const sounds = { a: pager.open('a', a), b: pager.open('b', b) };
    pager.setPlan(plan([clip('a', 0, 10 * P, 50 * P), clip('b', 0, 0, 3 * P)]));
    pager.look(0, 2 * P);
    await settle();
    expect([heard(sounds.a, 10), heard(sounds.a, 11), heard(sounds.b, 1)]).toEqual([
      [10.125, 10.375],
      [11.125, 11.375],
      [1.125, 1.125],
    ]);
    expect([a.asked, b.asked, chunks.length]).toEqual([[10, 11], [0, 1], 1]);
    expect(pager.memory.counters[PAGE_COUNTER.late]).toBe(0);
    expect(heard(sounds.a, 12)).toEqual([0, 0]);
    expect(pager.memory.counters[PAGE_COUNTER.late]).toBe(1);
  });

  it('takes the memory of what is no longer needed, and never of what is', async () => {
    const { pager, chunks } = pagerOf(CHUNK_PAGES);
    const a = reading(400, 2);
    const sound = pager.open('a', a);
    pager.setPlan(plan([clip('a', 0, 0, 400 * P)]));
    for (let position = 0; position < 300; position += 7) {
      pager.look(position * P, 8 * P);
      await settle();
      for (let page = position; page < position + 8; page++)
        expect(heard(sound, page)).toEqual([page + 0.125, page + 0.375]);
    }
    expect(chunks).toHaveLength(1);
    // More is needed than there is room for: what comes first is there.
    pager.look(0, 60 * P);
    await settle();
    for (let page = 0; page < 30; page++) expect(heard(sound, page)[0]).toBe(page + 0.125);
    // As many pages as there is memory for, and no place holds two.
    const places = [...sound.table].filter((place) => place > 0);
    expect([places.length, new Set(places).size]).toEqual([CHUNK_PAGES, CHUNK_PAGES]);
  });

  it('follows a jump: what was asked for before comes in, what is needed now is asked for next', async () => {
    const { pager } = pagerOf();
    const a = reading(100, 1, false);
    const sound = pager.open('a', a);
    pager.setPlan(plan([clip('a', 0, 0, 100 * P)]));
    pager.look(0, 3 * P);
    pager.look(50 * P, 2 * P);
    expect(a.asked).toEqual([0]);
    a.waiting[0]!.give();
    await settle();
    expect(a.asked).toEqual([0, 50]);
    a.waiting[1]!.give();
    await settle();
    expect([heard(sound, 0)[0], heard(sound, 50)[0]]).toEqual([0.125, 50.125]);
  });

  it('tells what failed, leaves it alone for a while and tries again', async () => {
    const { pager, problems, clock } = pagerOf();
    const a = reading(10, 1, false);
    pager.open('a', a);
    pager.setPlan(plan([clip('a', 0, 0, 10 * P)]));
    pager.look(0, P);
    a.waiting[0]!.fail();
    await settle();
    pager.look(0, P);
    expect([problems, a.asked]).toEqual([['a: Error: torn'], [0]]);
    clock.ms = 3000;
    pager.look(0, P);
    expect(a.asked).toEqual([0, 0]);
  });

  it('gives drawings a page once nothing that is played is waited for', async () => {
    const { pager } = pagerOf();
    const a = reading(100, 2, false);
    pager.open('a', a);
    pager.setPlan(plan([clip('a', 0, 0, 100 * P)]));
    pager.look(0, 2 * P);
    const drawn = [pager.page('a', 40), pager.page('a', 41)];
    for (const expected of [
      [0, 1],
      [0, 1, 40],
      [0, 1, 40, 41],
    ]) {
      a.waiting.at(-1)!.give();
      await settle();
      expect(a.asked).toEqual(expected);
    }
    a.waiting.at(-1)!.give();
    const given = (await Promise.all(drawn)).map((sides) => sides!.map((side) => side[0]));
    expect(given).toEqual([
      [40.125, 40.375],
      [41.125, 41.375],
    ]);
    expect(await pager.page('b', 0)).toBeNull();
  });

  it('gives drawings nothing of a sound that goes, and tells of a page that cannot be had', async () => {
    const { pager } = pagerOf();
    const a = reading(100, 1, false);
    pager.open('a', a);
    const torn = pager.page('a', 3);
    const waits = pager.page('a', 4);
    a.waiting[0]!.fail();
    await expect(torn).rejects.toThrow('torn');
    pager.close('a');
    a.waiting[1]!.give();
    expect((await waits)![0]![0]).toBe(4.125);
    expect(a.freed).toBe(1);
  });

  it('lets a sound go with its pages, also while one is on its way', async () => {
    const { pager } = pagerOf();
    const a = reading(10, 1, false);
    const sound = pager.open('a', a);
    pager.setPlan(plan([clip('a', 0, 0, 10 * P)]));
    pager.look(0, P);
    pager.close('a');
    expect(a.freed).toBe(0);
    a.waiting[0]!.give();
    await settle();
    expect([a.freed, [...sound.table]]).toEqual([1, new Array(10).fill(0)]);
    pager.look(0, P);
    expect(a.asked).toEqual([0]);
  });
});
