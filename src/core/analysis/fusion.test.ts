import { shippedStereo } from '../../../test/support/shipped';
import { beginningOf, fusionLimit, fusionOf } from './fusion';
import { findOnsets } from './onsets';

const RATE = 48000;

/** Tones that begin every half second and rise in a straight line. */
function risingIn(seconds: number, hz: number): Float32Array {
  return Float32Array.from({ length: 4 * RATE }, (_, n) => {
    const at = (n % (RATE / 2)) / RATE;
    return (
      Math.min(1, at / seconds) * Math.exp(-6 * Math.max(0, at - seconds)) * Math.sin((2 * Math.PI * hz * n) / RATE)
    );
  });
}
const starts = Array.from({ length: 7 }, (_, n) => n / 2 + 0.5);

describe('how late a copy may be', () => {
  it('is told by how a sound begins: how fast, and for how long it lasts', () => {
    for (const [seconds, hz] of [
      [0.005, 1000],
      [0.02, 1000],
      [0.05, 1000],
      [0.05, 180],
    ] as const) {
      const sound = risingIn(seconds, hz);
      const { attack, length } = beginningOf(sound, sound, RATE, starts)!;
      expect(Math.abs(attack / (0.8 * seconds) - 1)).toBeLessThan(0.15);
      // It falls to half by an exponential of a sixth of a second.
      expect(Math.abs(length / (0.9 * seconds + Math.LN2 / 6) - 1)).toBeLessThan(0.15);
    }
    const clicks = Float32Array.from({ length: 4 * RATE }, (_, n) => (n % (RATE / 2) === 0 ? 1 : 0));
    const click = beginningOf(clicks, clicks, RATE, starts)!;
    expect([click.attack < 0.001, click.length < 0.001]).toEqual([true, true]);
    expect(beginningOf(clicks, clicks, RATE, [])).toBeNull();
    expect(beginningOf(new Float32Array(RATE), new Float32Array(RATE), RATE, [0.2])).toBeNull();
  });

  it('lies between 5 ms for clicks and 50 ms for what begins softly, and has an edge', () => {
    expect(fusionLimit({ attack: 0.0001, length: 0.0005 })).toBeCloseTo(0.005, 9);
    expect(fusionLimit({ attack: 0.03, length: 0.4 })).toBeCloseTo(0.05, 9);
    expect(fusionLimit(null)).toBe(0.05);
    // A sharp beginning of something that lasts, and a soft one of something short, lie in the middle.
    expect(fusionLimit({ attack: 0.001, length: 0.1 })).toBeCloseTo(Math.sqrt(0.005 * 0.05), 9);
    expect(fusionLimit({ attack: 0.03, length: 0.001 })).toBeCloseTo(Math.sqrt(0.005 * 0.05), 9);
    expect([0.01, 0.018, 0.03].map((seconds) => fusionOf(seconds, 0.02))).toEqual(['fused', 'edge', 'echo']);
  });

  it('puts the sounds of the demo in order: tin before harp before a voice', async () => {
    const limit = async (name: string) => {
      const { left, right } = await shippedStereo(name);
      return fusionLimit(beginningOf(left, right, RATE, findOnsets(left, right, RATE).seconds));
    };
    const [tin, harp, voice] = [await limit('tin.flac'), await limit('harp.flac'), await limit('lamp-keeper.flac')];
    expect(tin).toBeLessThan(harp);
    expect(harp).toBeLessThan(voice);
    expect(voice).toBeGreaterThan(0.03);
  });
});
