import { planClip } from '../engine/plans';
import { ClipSource } from '../engine/clipSource';
import type { PlanClip, SoundSource } from '../engine/plan';
import { FADE_SHAPES } from '../math/fades';
import { SeededRandom } from '../math/random';
import { pagedOf } from '../../../test/support/pages';
import { PAGE_COUNTER, PAGE_FRAMES, readPages } from './pagedSamples';

const noise = (frames: number, seed: number) => {
  const random = new SeededRandom(seed);
  return Float32Array.from({ length: frames }, () => random.uniform() - 0.5);
};

const FRAMES = 3 * PAGE_FRAMES + 1000;
const left = noise(FRAMES, 1);
const right = noise(FRAMES, 2);

describe('reading pages', () => {
  it.each([1, 2] as const)('gives the frames of the sound, %d sides, across pages and beyond its ends', (sides) => {
    const sound = pagedOf([left, right].slice(0, sides));
    const random = new SeededRandom(3);
    const [a, b] = [new Float32Array(128), new Float32Array(128)];
    const edges = [-200, -5, 0, PAGE_FRAMES - 64, PAGE_FRAMES, 2 * PAGE_FRAMES - 1, FRAMES - 64, FRAMES, FRAMES + 9];
    for (let n = 0; n < 200; n++) {
      const from = edges[n] ?? Math.floor(random.uniform() * FRAMES);
      const count = 1 + Math.floor(random.uniform() * 128);
      readPages(sound, from, count, a, b);
      const there = (side: Float32Array) => Float32Array.from({ length: count }, (_, i) => side[from + i] ?? 0);
      expect(a.subarray(0, count)).toEqual(there(left));
      expect(b.subarray(0, count)).toEqual(there(sides === 1 ? left : right));
    }
    expect(sound.memory.counters[PAGE_COUNTER.late]).toBe(0);
  });

  it('is silent where a page is missing, and counts the block once', () => {
    const sound = pagedOf([left, right]);
    Atomics.store(sound.table, 1 * 2 + 1, 0);
    const [a, b] = [new Float32Array(64), new Float32Array(64)];
    readPages(sound, PAGE_FRAMES - 32, 64, a, b);
    expect(a).toEqual(left.slice(PAGE_FRAMES - 32, PAGE_FRAMES + 32));
    expect(b.subarray(0, 32)).toEqual(right.slice(PAGE_FRAMES - 32, PAGE_FRAMES));
    expect([...b.subarray(32)].every((x) => x === 0)).toBe(true);
    expect(sound.memory.counters[PAGE_COUNTER.late]).toBe(1);
  });
});

describe('clips by pages', () => {
  /** Plays clips in blocks of any length, with jumps, edits and stops. */
  function played(sound: SoundSource, seed: number): Float32Array {
    const random = new SeededRandom(seed);
    const below = (end: number) => Math.floor(random.uniform() * end);
    const shape = () => FADE_SHAPES[below(FADE_SHAPES.length)]!;
    const clips = (): PlanClip[] =>
      Array.from({ length: 1 + below(3) }, (_, n) =>
        planClip(`c${n}`, 1 + below(PAGE_FRAMES), {
          assetId: 'sound',
          startFrame: below(2000),
          offsetFrame: below(FRAMES),
          gain: random.uniform(),
          fadeInFrames: below(300),
          fadeOutFrames: below(300),
          fadeInShape: shape(),
          fadeOutShape: shape(),
          ...(below(2) === 0 ? { reversed: true as const } : {}),
          ...(below(3) === 0 ? { gainCurve: { frames: [0, 1500], values: [0, 1] } } : {}),
        }),
      );
    const source = new ClipSource(new Map([['sound', sound]]));
    let position = 0;
    let isPlaying = true;
    source.setClips(clips(), 0, false);
    const out: number[] = [];
    for (let block = 0; block < 60; block++) {
      const frames = 1 + below(128);
      const [a, b] = [new Float32Array(128), new Float32Array(128)];
      switch (below(8)) {
        case 0:
          source.leave(position);
          position = below(PAGE_FRAMES);
          source.enter(position);
          break;
        case 1:
          source.setClips(clips(), position, isPlaying);
          break;
        case 2:
          if (isPlaying) source.leave(position);
          else source.enter(position);
          isPlaying = !isPlaying;
      }
      source.render(a, b, frames, position, isPlaying);
      if (isPlaying) position += frames;
      out.push(...a.subarray(0, frames), ...b.subarray(0, frames));
    }
    return Float32Array.from(out);
  }

  it.each([1, 2] as const)('sound the very bits of the whole sound, %d sides', (sides) => {
    const whole = { left, right: sides === 1 ? left : right };
    let heard = 0;
    for (let seed = 0; seed < 60; seed++) {
      const expected = played(whole, seed);
      expect(played(pagedOf([left, right].slice(0, sides)), seed)).toEqual(expected);
      if (expected.some((x) => x !== 0)) heard++;
    }
    expect(heard).toBeGreaterThan(40);
  });
});
