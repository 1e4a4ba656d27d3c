import { thinned } from '../../../test/support/sweep';
import fc from 'fast-check';
import { FADE_SHAPES, fadeLevel } from '../math/fades';
import { Noise } from '../dsp/noise';
import { ClipSource } from './clipSource';
import { planClip } from './plans';
import type { PlanClip, Samples } from './plan';

const LENGTH = 3000;
const noise = new Noise(3);
const sound: Samples = {
  left: Float32Array.from({ length: LENGTH }, () => 0.5 * noise.white()),
  right: Float32Array.from({ length: LENGTH }, () => 0.5 * noise.white()),
};

/** Plays a clip from its track's beginning in blocks of given sizes. */
function play(clip: PlanClip, frames: number, blocks: readonly number[] = [128]): Float32Array {
  const source = new ClipSource(new Map([['sound', sound]]));
  source.setClips([clip], 0, false);
  const out = new Float32Array(frames);
  for (let at = 0, n = 0; at < frames; n++) {
    const size = Math.min(frames - at, blocks[n % blocks.length]!);
    const left = new Float32Array(size);
    source.render(left, new Float32Array(size), size, at, true);
    out.set(left, at);
    at += size;
  }
  return out;
}

const clip = (more: Partial<PlanClip> = {}) => planClip('sound', 1000, { startFrame: 200, offsetFrame: 500, ...more });

describe('a clip', () => {
  it('that is reversed plays its piece from the end, however the blocks are cut', () => {
    const reversed = sound.left.slice(500, 1500).reverse();
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 512 }), { minLength: 1, maxLength: 6 }), (blocks) => {
        const out = play(clip({ reversed: true }), 1400, blocks);
        expect(out.subarray(200, 1200)).toEqual(reversed);
        expect(out[199]).toBe(0);
        expect(out[1200]).toBe(0);
      }),
      { numRuns: thinned(30) },
    );
  });

  it('reaches beyond its sound in silence, also reversed', () => {
    const beyond = play(clip({ offsetFrame: 2600, reversed: true }), 1400);
    expect(beyond.subarray(200, 800)).toEqual(new Float32Array(600));
    expect(beyond.subarray(800, 1200)).toEqual(sound.left.slice(2600).reverse());
  });

  it.each(FADE_SHAPES)('fades in and out in the shape %s', (shape) => {
    const out = play(clip({ fadeInFrames: 300, fadeOutFrames: 200, fadeInShape: shape, fadeOutShape: shape }), 1400);
    for (let n = 0; n < 1000; n++) {
      const level = n < 300 ? fadeLevel(shape, n / 300) : n > 800 ? fadeLevel(shape, (1000 - n) / 200) : 1;
      expect(out[200 + n]).toBeCloseTo(sound.left[500 + n]! * level, 6);
    }
  });
});

describe('fades', () => {
  it('run from nothing to all without a step back, each in its own shape', () => {
    for (const shape of FADE_SHAPES) {
      expect([fadeLevel(shape, 0), fadeLevel(shape, 1)]).toEqual([0, 1]);
      for (let t = 0.01; t <= 1; t += 0.01) expect(fadeLevel(shape, t)).toBeGreaterThan(fadeLevel(shape, t - 0.01));
    }
    expect(FADE_SHAPES.map((shape) => fadeLevel(shape, 0.25))).toEqual([0.15625, 0.25, 0.5, 0.0625]);
    // Early is of equal power against its opposite.
    expect(fadeLevel('early', 0.3) ** 2 + fadeLevel('early', 0.7) ** 2).toBeCloseTo(1, 12);
  });
});
