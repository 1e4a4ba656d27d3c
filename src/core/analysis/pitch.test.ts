import { shippedSound } from '../../../test/support/shipped';
import { SeededRandom } from '../math/random';
import { SECONDS_PER_BEAT, SONG, pitchOf } from '../../../demo/score';
import { pitchCourse } from './pitch';

const cents = (hz: number, of: number) => 1200 * Math.log2(hz / of);

describe('the pitch of a sound', () => {
  it.each([44100, 48000, 96000])('is right within 5 cents on clean tones, at %d Hz', (rate) => {
    for (const hz of [65, 98, 174.6, 330, 587, 990]) {
      const sound = Float32Array.from({ length: rate * 0.4 }, (_, n) => {
        const phase = (2 * Math.PI * hz * n) / rate;
        return 0.3 * Math.sin(phase) + 0.2 * Math.sin(2 * phase + 1) + 0.1 * Math.sin(3 * phase + 2);
      });
      const { hz: found } = pitchCourse(sound, rate);
      const inner = [...found].slice(5, -5);
      expect(inner.filter((one) => Math.abs(cents(one, hz)) < 5).length / inner.length).toBeGreaterThan(0.99);
    }
  });

  it('is none in noise and silence, and begins and ends where the voice does', () => {
    const random = new SeededRandom(4);
    const sound = Float32Array.from({ length: 96000 }, (_, n) =>
      n > 33600 && n < 67200 ? 0.4 * Math.sin((2 * Math.PI * 220 * n) / 48000) : 0.0003 * random.bipolar(),
    );
    const { hz } = pitchCourse(sound, 48000);
    const first = hz.findIndex((one) => one > 0);
    const last = hz.findLastIndex((one) => one > 0);
    expect(Math.abs(first - 70)).toBeLessThan(3);
    expect(Math.abs(last - 140)).toBeLessThan(3);
    const noise = pitchCourse(
      Float32Array.from({ length: 48000 }, () => 0.4 * random.bipolar()),
      48000,
    ).hz;
    expect(noise.filter((one) => one > 0).length / noise.length).toBeLessThan(0.03);
    expect(pitchCourse(new Float32Array(0), 48000).hz).toHaveLength(0);
  });

  it('of the demo’s voice is what its score says: gross errors under 1 %, octaves told apart', async () => {
    const { channels, sampleRateHz } = await shippedSound('lamp-keeper.flac');
    const { hz, hopSeconds } = pitchCourse(channels[0]!, sampleRateHz, 80, 800);
    let [looks, gross, octaves] = [0, 0, 0];
    hz.forEach((one, n) => {
      const beat = (n * hopSeconds) / SECONDS_PER_BEAT;
      // The middle of each note: at its ends the voice is on its way.
      const note = SONG.find(([, start, beats]) => beat > start + 0.3 * beats && beat < start + 0.75 * beats);
      if (!note || one === 0) return;
      looks++;
      const off = cents(one, 440 * 2 ** ((pitchOf(note[3]) - 69) / 12));
      if (Math.abs(Math.abs(off) - 1200) < 150) octaves++;
      // A fifth of an octave is the usual measure of a gross error.
      else if (Math.abs(off) > 240) gross++;
    });
    expect(looks).toBeGreaterThan(900);
    expect(gross / looks).toBeLessThan(0.01);
    expect(octaves / looks).toBeLessThan(0.01);
  });
});
