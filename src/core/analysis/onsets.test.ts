import { shippedSound } from '../../../test/support/shipped';
import { HARP, SECONDS_PER_BEAT, SONG } from '../../../demo/score';
import { SeededRandom } from '../math/random';
import { findOnsets } from './onsets';

const NEAR_SECONDS = 0.015;

/** Counts of true onsets found and of false ones. */
function compare(found: readonly number[], truth: readonly number[]) {
  const left = new Set(found);
  let hits = 0;
  for (const time of truth) {
    const hit = [...left].find((one) => Math.abs(one - time) <= NEAR_SECONDS);
    if (hit === undefined) continue;
    left.delete(hit);
    hits++;
  }
  return { hits, falseOnes: left.size };
}

const demo = async (name: string) => {
  const { channels, sampleRateHz } = await shippedSound(`${name}.flac`);
  return findOnsets(channels[0]!, channels[0]!, sampleRateHz).seconds;
};

describe('onsets', () => {
  it('of the words and of the plucked strings of the demo lie where the score has them', async () => {
    const words = SONG.map(([, beat]) => beat * SECONDS_PER_BEAT);
    const notes = HARP.map(({ beat }) => beat * SECONDS_PER_BEAT);
    const voice = compare(await demo('lamp-keeper'), words);
    const harp = compare(await demo('harp'), notes);
    expect(voice.hits / words.length).toBeGreaterThanOrEqual(0.95);
    expect(harp.hits / notes.length).toBeGreaterThanOrEqual(0.95);
    const all = voice.hits + harp.hits;
    const falseOnes = voice.falseOnes + harp.falseOnes;
    expect(all / (words.length + notes.length)).toBeGreaterThanOrEqual(0.95);
    expect(falseOnes / (all + falseOnes)).toBeLessThanOrEqual(0.05);
  });

  it.each([44100, 48000, 96000])('of random plucks and hummed notes are found at %s Hz', (rate) => {
    const random = new SeededRandom(rate);
    const seconds = 12;
    const sound = new Float32Array(seconds * rate);
    const truth: number[] = [];
    for (let time = 0.3; time < seconds - 1; time += 0.25 + 0.4 * (0.5 + 0.5 * random.bipolar())) {
      truth.push(time);
      const hz = 110 * 2 ** (2 * (0.5 + 0.5 * random.bipolar()));
      const hummed = random.bipolar() > 0;
      const level = 0.1 + 0.1 * (1 + random.bipolar());
      for (let n = 0; n < 0.9 * rate; n++) {
        const t = n / rate;
        const course = hummed ? Math.min(1, t / 0.015) * Math.min(1, Math.max(0, (0.24 - t) / 0.05)) : Math.exp(-6 * t);
        let x = 0;
        for (let k = 1; k <= 12; k++) x += Math.sin(2 * Math.PI * hz * k * t) / k;
        const at = Math.round(time * rate) + n;
        if (at < sound.length) sound[at]! += level * course * x;
      }
    }
    const { hits, falseOnes } = compare(findOnsets(sound, sound, rate).seconds, truth);
    expect(hits / truth.length).toBeGreaterThanOrEqual(0.95);
    expect(falseOnes / truth.length).toBeLessThanOrEqual(0.05);
  });

  it('a vowel that follows a held hiss is none, and a tone after a short one is', () => {
    const rate = 48000;
    const after = (hissed: (t: number) => number) => {
      const random = new SeededRandom(9);
      let before = 0;
      const sound = Float32Array.from({ length: rate }, (_, n) => {
        const t = n / rate - 0.3;
        const noise = random.bipolar();
        const high = noise - before;
        before = noise;
        let tone = 0;
        for (let k = 1; k <= 20; k++) tone += Math.sin(2 * Math.PI * 160 * k * t) / k;
        return t < 0 ? 0 : t < 0.11 ? 0.04 * hissed(t) * high : 0.2 * tone;
      });
      // It ends without a fade.
      return findOnsets(sound, sound, rate).seconds.filter((one) => one < 0.9);
    };
    expect(after(() => 1)).toEqual([expect.closeTo(0.3, 1)]);
    expect(after((t) => 8 * Math.exp(-t / 0.02))).toEqual([expect.closeTo(0.3, 1), expect.closeTo(0.41, 1)]);
  });

  it('are none in silence, in a steady tone and in its vibrato', () => {
    const rate = 48000;
    expect(findOnsets(new Float32Array(rate), new Float32Array(rate), rate).seconds).toEqual([]);
    expect(findOnsets(new Float32Array(0), new Float32Array(0), rate).seconds).toEqual([]);
    const swaying = Float32Array.from({ length: 4 * rate }, (_, n) => {
      const t = n / rate;
      let x = 0;
      for (let k = 1; k <= 8; k++) x += Math.sin(2 * Math.PI * k * (220 * t + 0.6 * Math.sin(2 * Math.PI * 5 * t))) / k;
      return 0.2 * x;
    });
    const inside = findOnsets(swaying, swaying, rate).seconds.filter((one) => one > 0.1 && one < 3.9);
    expect(inside).toEqual([]);
  });
});
