import { SEED, drawn } from '../../../../test/support/sweep';
import { amplitudeAt, db, freeKernels, kernelOf, run } from '../../../../test/support/render';
import { alone } from '../../../../test/support/harmony';
import { SeededRandom } from '../../math/random';

const RATE = 48000;
const SECONDS = 1.9;
/** Comparison begins once the make-up gain has settled. */
const SETTLED = 1.4;

/** Amplitudes of the partials of a note, the first of them its fundamental. */
type Timbre = (hz: number) => readonly number[];

const TIMBRES: Record<string, Timbre> = {
  sine: () => [1],
  triangle: (hz) => Array.from({ length: Math.floor(12000 / hz) }, (_, n) => (n % 2 === 0 ? 1 / (n + 1) ** 2 : 0)),
  organ: () => [1, 0.8, 0.6, 0.5, 0, 0.4, 0, 0.35],
  vowel: (hz) =>
    Array.from({ length: Math.floor(6000 / hz) }, (_, n) => {
      const at = (n + 1) * hz;
      return (
        [700, 1220, 2600].reduce((sum, f) => sum + 1 / Math.hypot(1 - (at / f) ** 2, (0.12 * at) / f), 0) / (n + 1)
      );
    }),
};

/** Notes at these frequencies together, each partial at a phase of its own, with an RMS of about -20 dBFS. */
function chord(timbre: string, notes: readonly number[]): Float32Array {
  const random = new SeededRandom(1);
  const sound = new Float64Array(Math.round(SECONDS * RATE));
  for (const hz of notes) {
    TIMBRES[timbre]!(hz).forEach((amplitude, k) => {
      if (amplitude === 0 || (k + 1) * hz > 0.45 * RATE) return;
      const [phase, turn] = [Math.PI * random.bipolar(), (2 * Math.PI * (k + 1) * hz) / RATE];
      for (let n = 0; n < sound.length; n++) sound[n] = sound[n]! + amplitude * Math.sin(phase + turn * n);
    });
  }
  const gain = 0.1 / rms(sound);
  return Float32Array.from(sound, (x) => gain * x);
}

function rms(sound: ArrayLike<number>, from = 0, to = sound.length): number {
  let sum = 0;
  for (let n = from; n < to; n++) sum += sound[n]! * sound[n]!;
  return Math.sqrt(sum / (to - from));
}

/** Level of one voice at an interval against the source, in dB. */
function change(sound: Float32Array, interval: number, method: string): number {
  const { left } = run(kernelOf('harmony', alone({ method, 'voices.1.interval': interval }), RATE), sound);
  freeKernels();
  return db(rms(left, SETTLED * RATE) / rms(sound, SETTLED * RATE));
}

const CHORD = [0, 4, 7];
const ROOTS = [110, 220, 440, 880];

describe('the level of a harmony', () => {
  const random = new SeededRandom(SEED);
  /** Two intervals of each case, so that all of them come up: the test is long otherwise. */
  const cases = Object.keys(TIMBRES).flatMap((timbre) =>
    ROOTS.flatMap((root) => [
      [timbre, root, -1 - Math.floor(6 + 6 * random.bipolar())] as const,
      [timbre, root, 1 + Math.floor(6 + 6 * random.bipolar())] as const,
    ]),
  );

  it.each([...drawn('levels of chords', cases), ['triangle', 220, 12], ['sine', 440, 12]] as const)(
    'by the spectrum is within 3 dB of the source: a chord of %s on %i Hz, %i semitones',
    (timbre, root, interval) => {
      const sound = chord(
        timbre,
        CHORD.map((key) => root * 2 ** (key / 12)),
      );
      expect(Math.abs(change(sound, interval, 'polyphonic'))).toBeLessThan(3);
    },
  );

  it.each(['voice', 'polyphonic'])('of a pure sine is within 3 dB of it, by the method %s', (method) => {
    for (const hz of [110, 880]) {
      for (const interval of [-5, 7, 12]) {
        expect([hz, interval, Math.abs(change(chord('sine', [hz]), interval, method)) < 3]).toEqual([
          hz,
          interval,
          true,
        ]);
      }
    }
  });

  it.each(['voice', 'polyphonic'])('of an organ’s note is within 3 dB of it, by the method %s', (method) => {
    for (const interval of [-12, -5, 5, 9, 12]) {
      expect([interval, Math.abs(change(chord('organ', [220]), interval, method)) < 3]).toEqual([interval, true]);
    }
  });

  it('keeps the balance of the notes of a chord within 6 dB', () => {
    const notes = CHORD.map((key) => 220 * 2 ** (key / 12));
    const sound = chord('triangle', notes);
    for (const interval of [-5, 3, 7, 12]) {
      const { left } = run(kernelOf('harmony', alone({ method: 'polyphonic', 'voices.1.interval': interval })), sound);
      const levels = notes.map((hz) => db(amplitudeAt(left.subarray(SETTLED * RATE), hz * 2 ** (interval / 12), RATE)));
      expect([interval, Math.max(...levels) - Math.min(...levels) < 6]).toEqual([interval, true]);
    }
  });
});
