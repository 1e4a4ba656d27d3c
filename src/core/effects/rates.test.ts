import { db, freeKernels, kernelOf, run } from '../../../test/support/render';
import { EFFECTS } from './registry';

const RATES = [8000, 11025, 16000, 22050, 32000, 44100, 48000, 88200, 96000, 192000];

/** A harmonic tone at 220 Hz and noise, half a second of it. */
function voiceLike(rate: number): Float32Array {
  let noise = 1;
  return Float32Array.from({ length: Math.round(0.5 * rate) }, (_, n) => {
    noise = (noise * 16807) % 2147483647;
    const t = (2 * Math.PI * 220 * n) / rate;
    return 0.3 * Math.sin(t) + 0.2 * Math.sin(2 * t) + 0.1 * Math.sin(3 * t) + 0.05 * (noise / 1073741824 - 1);
  });
}

const level = (sound: Float32Array) => db(Math.sqrt(sound.reduce((sum, x) => sum + x * x, 0) / sound.length));

describe.each(RATES)('at %i Hz', (rate) => {
  it.each(EFFECTS.map(({ id }) => id))('%s sounds, and is finite', (id) => {
    const kernel = kernelOf(id, {}, rate);
    if (id === 'synth') kernel.handleEvent!({ kind: 'noteOn', key: 57, velocity: 100, byHand: true }, 0);
    const { left, right } = run(kernel, voiceLike(rate));
    expect(left.every(Number.isFinite) && right.every(Number.isFinite)).toBe(true);
    expect(Math.max(level(left), level(right))).toBeGreaterThan(-40);
    freeKernels();
  });
});
