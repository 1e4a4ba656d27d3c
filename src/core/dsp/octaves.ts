import { cos, log } from '../math/elementary';
import { powerOfTwoFrom } from '../math/powerOfTwo';
import { FourierTransform } from './fft';
import { OCTAVES_HZ } from './octaveBands';

/** Width of an octave's edges, in octaves: they lie inside it, so that nothing of its neighbours gets in. */
const EDGE_OCTAVES = 1 / 3;
/** Silence after the sound, into which the edges of the lowest octave ring. */
const RING_SECONDS = 0.25;

/** The octaves that a sample rate holds whole. */
export function octavesAt(sampleRate: number): number[] {
  return OCTAVES_HZ.filter((centre) => centre * Math.SQRT2 < 0.49 * sampleRate);
}

/** Gain of an octave at a frequency: 1 inside, raised cosines to its edges, 0 beyond. */
function octaveGain(hz: number, centreHz: number): number {
  const inside = (0.5 - Math.abs(log(hz / centreHz)) / Math.LN2) / EDGE_OCTAVES;
  return inside <= 0 ? 0 : inside >= 1 ? 1 : 0.5 - 0.5 * cos(Math.PI * inside);
}

/**
 * Octaves of a sound, by its spectrum and without shifting phases: neighbours may die away at quite other speeds, which a
 * filter of a few poles would let through once the octave itself has faded.
 * @param channels one or more of the same length
 * @returns by octave, then by channel, as long as the sound
 */
export function splitOctaves(
  channels: readonly ArrayLike<number>[],
  centresHz: readonly number[],
  sampleRate: number,
): Float64Array[][] {
  if (channels.length > 2) {
    const [first, rest] = [channels.slice(0, 2), channels.slice(2)].map((some) =>
      splitOctaves(some, centresHz, sampleRate),
    );
    return first!.map((bands, n) => [...bands, ...rest![n]!]);
  }
  const length = channels[0]!.length;
  const { re, im, transform } = spectrumOf(channels, sampleRate);
  const { size } = transform;
  return centresHz.map((centre) => {
    const bandRe = new Float64Array(size);
    const bandIm = new Float64Array(size);
    for (const [bin, gain] of binsOf(centre, size, sampleRate)) {
      for (const at of [bin, size - bin]) {
        bandRe[at] = (gain / size) * re[at]!;
        bandIm[at] = (gain / size) * im[at]!;
      }
    }
    // The inverse is the forward transform with both parts exchanged.
    transform.forward(bandIm, bandRe);
    const parts = [bandRe.slice(0, length)];
    if (channels[1]) parts.push(bandIm.slice(0, length));
    return parts;
  });
}

/** Energy of octaves of a sound, all channels together, by octave. */
export function octaveEnergies(
  channels: readonly ArrayLike<number>[],
  centresHz: readonly number[],
  sampleRate: number,
): number[] {
  const sums = centresHz.map(() => 0);
  for (let n = 0; n < channels.length; n += 2) {
    const { re, im, transform } = spectrumOf(channels.slice(n, n + 2), sampleRate);
    const { size } = transform;
    centresHz.forEach((centre, octave) => {
      for (const [bin, gain] of binsOf(centre, size, sampleRate)) {
        for (const at of [bin, size - bin]) {
          sums[octave] = sums[octave]! + (gain * gain * (re[at]! * re[at]! + im[at]! * im[at]!)) / size;
        }
      }
    });
  }
  return sums;
}

/** Two channels share a transform, one as its real part and one as its imaginary one: gains of bins keep them apart. */
function spectrumOf([first, second]: readonly ArrayLike<number>[], sampleRate: number) {
  const size = powerOfTwoFrom(first!.length + Math.ceil(RING_SECONDS * sampleRate));
  const transform = new FourierTransform(size);
  const re = new Float64Array(size);
  const im = new Float64Array(size);
  re.set(first!);
  if (second) im.set(second);
  transform.forward(re, im);
  return { re, im, transform };
}

/** Bins of an octave with their gains, without the mirrored ones. */
function* binsOf(centreHz: number, size: number, sampleRate: number): Generator<[bin: number, gain: number]> {
  const binHz = sampleRate / size;
  const last = Math.min(size / 2 - 1, Math.floor((centreHz * Math.SQRT2) / binHz));
  for (let bin = Math.max(1, Math.ceil((centreHz * Math.SQRT1_2) / binHz)); bin <= last; bin++) {
    yield [bin, octaveGain(bin * binHz, centreHz)];
  }
}
