import { BEATS_PER_BAR, CHORDS, ORGAN, HARP, SECONDS_PER_BEAT } from '../../../demo/score';
import { shipped } from '../../../test/support/shipped';
import { MODE_STEPS, scaleOn, type Scale } from '../effects/scaleKeys';
import { hzOfKey } from '../math/keys';
import { SeededRandom } from '../math/random';
import { findChords, voiced, type FoundChord, type Stretch } from './chordFinder';

const D_DORIAN = scaleOn(2, MODE_STEPS.dorian);

function found(samples: Float32Array, rate: number, stretches: readonly Stretch[], scale: Scale) {
  const steps = findChords(samples, rate, stretches, scale);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    expect(step.value).toBeGreaterThanOrEqual(0);
    expect(step.value).toBeLessThan(1);
  }
}

const sorted = (chord: FoundChord | null) => [...(chord?.steps ?? [])].sort((a, b) => a - b).join(' ');

/** Keys with falling harmonics. */
function sounding(keys: readonly number[], rate: number, seconds: number): Float32Array {
  const sound = new Float32Array(Math.round(rate * seconds));
  for (const [voice, key] of keys.entries()) {
    for (let k = 1; k <= 8; k++) {
      const step = (2 * Math.PI * hzOfKey(key) * k) / rate;
      for (let n = 0; n < sound.length; n++) sound[n]! += (0.1 / k) * Math.sin(step * n + voice + k);
    }
  }
  return sound;
}

describe('chords of a sound', () => {
  it('are the triads that sound, in any mode, inversion, register and rate', () => {
    const random = new SeededRandom(12);
    const modes = Object.values(MODE_STEPS);
    for (let round = 0; round < 60; round++) {
      const scale = scaleOn(Math.floor(12 * random.uniform()), modes[Math.floor(modes.length * random.uniform())]!);
      const degree = Math.floor(7 * random.uniform());
      const steps = [0, 2, 4].map((above) => scale[(degree + above) % 7]!);
      // Each of its tones in an octave of its own.
      const keys = steps.map((step) => 48 + step + 12 * Math.floor(2 * random.uniform()));
      const rate = [44100, 48000, 96000][round % 3]!;
      const [chord] = found(sounding(keys, rate, 0.8), rate, [{ from: 0, to: 0.8 }], scale);
      expect([keys, sorted(chord!)]).toEqual([keys, [...steps].sort((a, b) => a - b).join(' ')]);
      expect(chord!.likeness).toBeGreaterThan(0.5);
    }
  });

  it('follow one another without running into their neighbours', () => {
    const chords = [
      [50, 53, 57],
      [55, 59, 62],
      [48, 52, 55],
    ];
    const sound = new Float32Array(3 * 48000);
    chords.forEach((keys, n) => sound.set(sounding(keys, 48000, 1), n * 48000));
    const bars = chords.map((_, n) => ({ from: n, to: n + 1 }));
    expect(found(sound, 48000, bars, D_DORIAN).map(sorted)).toEqual(['2 5 9', '2 7 11', '0 4 7']);
  });

  it('are none in silence, and nothing is said of stretches beyond the end', () => {
    expect(found(new Float32Array(48000), 48000, [{ from: 0, to: 1 }], D_DORIAN)).toEqual([null]);
    expect(found(sounding([50], 48000, 0.5), 48000, [{ from: 2, to: 3 }], D_DORIAN)).toEqual([null]);
    expect(found(new Float32Array(0), 48000, [], D_DORIAN)).toEqual([]);
  });

  it.each([
    ['reed-organ.flac', ORGAN],
    ['harp.flac', HARP],
  ])('of the demo’s %s are those that its score has', async (file, notes) => {
    const sound = await shipped(file);
    const bar = BEATS_PER_BAR * SECONDS_PER_BEAT;
    const chords = found(
      sound,
      48000,
      CHORDS.map((_, n) => ({ from: n * bar, to: (n + 1) * bar })),
      D_DORIAN,
    );
    const right = chords.filter((chord, n) => {
      const inBar = notes.filter(({ beat }) => Math.floor(beat / BEATS_PER_BAR) === n);
      return chord && inBar.every(({ pitch }) => chord.steps.includes(pitch % 12));
    });
    expect(right.length).toBe(CHORDS.length);
  });

  it('are voiced in close position, their root near a key', () => {
    for (let near = 40; near < 70; near++) {
      for (let root = 0; root < 12; root++) {
        const keys = voiced({ steps: [root, (root + 3) % 12, (root + 7) % 12], likeness: 1 }, near);
        expect(keys.map((key) => key - keys[0])).toEqual([0, 3, 7]);
        expect(keys[0] % 12).toBe(root);
        expect(Math.abs(keys[0] - near)).toBeLessThanOrEqual(6);
      }
    }
  });
});
