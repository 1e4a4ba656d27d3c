import { readFileSync } from 'node:fs';
import { readSound } from '../formats/readSound';
import { stereoOf } from '../formats/sound';
import { attackOf, fusionLimit, fusionOf } from './fusion';
import { findOnsets } from './onsets';

const RATE = 48000;

/** Tones that begin every half second and rise in a straight line. */
function risingIn(seconds: number): Float32Array {
  return Float32Array.from({ length: 4 * RATE }, (_, n) => {
    const at = (n % (RATE / 2)) / RATE;
    return (
      Math.min(1, at / seconds) * Math.exp(-6 * Math.max(0, at - seconds)) * Math.sin((2 * Math.PI * 1000 * n) / RATE)
    );
  });
}
const starts = Array.from({ length: 7 }, (_, n) => n / 2 + 0.5);

describe('how late a copy may be', () => {
  it('is told by how fast a sound begins: the time from a tenth to nine tenths', () => {
    for (const seconds of [0.005, 0.02, 0.05]) {
      const sound = risingIn(seconds);
      expect(Math.abs(attackOf(sound, sound, RATE, starts)! / (0.8 * seconds) - 1)).toBeLessThan(0.15);
    }
    const clicks = Float32Array.from({ length: 4 * RATE }, (_, n) => (n % (RATE / 2) === 0 ? 1 : 0));
    expect(attackOf(clicks, clicks, RATE, starts)!).toBeLessThan(0.001);
    expect(attackOf(clicks, clicks, RATE, [])).toBeNull();
    expect(attackOf(new Float32Array(RATE), new Float32Array(RATE), RATE, [0.2])).toBeNull();
  });

  it('lies between 5 ms for clicks and 50 ms for what begins softly, and has an edge', () => {
    expect(fusionLimit(0.0001)).toBeCloseTo(0.005, 9);
    expect(fusionLimit(0.03)).toBeCloseTo(0.05, 9);
    expect(fusionLimit(0.2)).toBeCloseTo(0.05, 9);
    expect(fusionLimit(Math.sqrt(0.001 * 0.03))).toBeCloseTo(Math.sqrt(0.005 * 0.05), 9);
    expect([0.01, 0.018, 0.03].map((seconds) => fusionOf(seconds, 0.02))).toEqual(['fused', 'edge', 'echo']);
  });

  it('puts the sounds of the demo in order: tin before harp before a voice', async () => {
    const attack = async (name: string) => {
      const { left, right } = stereoOf(await readSound(new Uint8Array(readFileSync(`demo/sounds/${name}`)), name));
      return attackOf(left, right, RATE, findOnsets(left, right, RATE).seconds)!;
    };
    const [tin, harp, voice] = [await attack('tin.flac'), await attack('harp.flac'), await attack('lamp-keeper.flac')];
    expect(tin).toBeLessThan(harp);
    expect(harp).toBeLessThan(voice);
  });
});
