import { cos, sin, tan } from '../math/elementary';
import { over, plus, times, type Complex } from '../math/complex';

/** The highest edge, as a part of the rate. */
const HIGHEST = 0.47;

/** One section of a band-pass: (1 - z^-2) / (1 + a1 z^-1 + a2 z^-2). */
export interface Section {
  readonly a1: number;
  readonly a2: number;
}

export interface BandPass {
  readonly sections: readonly Section[];
  /** Gain that makes it 0 dB at its centre. */
  readonly gain: number;
}

const scaled = ({ re, im }: Complex, by: number): Complex => ({ re: re * by, im: im * by });
const less = (a: Complex, b: Complex): Complex => plus(a, scaled(b, -1));

function root({ re, im }: Complex): Complex {
  const length = Math.hypot(re, im);
  const real = Math.sqrt(Math.max(0, (length + re) / 2));
  const imaginary = Math.sqrt(Math.max(0, (length - re) / 2));
  return { re: real, im: im < 0 ? -imaginary : imaginary };
}

const ONE: Complex = { re: 1, im: 0 };
/** The bilinear transform. */
const toDisc = (s: Complex): Complex => over(plus(ONE, s), less(ONE, s));

/** The section of two poles that are one another's mirror image, or both real. */
const sectionOf = (a: Complex, b: Complex): Section => ({ a1: -(a.re + b.re), a2: times(a, b).re });

/**
 * A Butterworth band-pass of even order: poles of the low-pass carried over to the band and by the bilinear transform to the
 * disc, with both edges, where it is 3 dB down, in their places (Oppenheim and Schafer, "Discrete-Time Signal Processing").
 * @param lowHz,highHz edges, from above 0 to 0.47 of the rate (clamped); a band that lies above that lets nothing through
 * @param order 2, 4, 6 or 8: slopes of 6 dB an octave for every two
 */
export function designBandPass(lowHz: number, highHz: number, order: number, sampleRate: number): BandPass {
  const inside = (hz: number) => tan((Math.PI * Math.min(HIGHEST * sampleRate, hz)) / sampleRate);
  const high = inside(highHz);
  const low = Math.min(0.999 * high, inside(lowHz));
  const [middle, width] = [low * high, high - low];
  const count = order / 2;
  const sections: Section[] = [];
  for (let k = 1; k <= Math.ceil(count / 2); k++) {
    const angle = (Math.PI * (2 * k + count - 1)) / (2 * count);
    const single = 2 * k - 1 === count;
    const half = scaled(single ? { re: -1, im: 0 } : { re: cos(angle), im: sin(angle) }, width / 2);
    const apart = root(less(times(half, half), { re: middle, im: 0 }));
    const poles = [plus(half, apart), less(half, apart)].map(toDisc);
    if (single) sections.push(sectionOf(poles[0]!, poles[1]!));
    else for (const pole of poles) sections.push(sectionOf(pole, { re: pole.re, im: -pole.im }));
  }
  const centre = Math.sqrt(middle);
  const z = over({ re: 1, im: centre }, { re: 1, im: -centre });
  return { sections, gain: lowHz < HIGHEST * sampleRate ? 1 / magnitudeAt(sections, z) : 0 };
}

function magnitudeAt(sections: readonly Section[], z: Complex): number {
  const back = over(ONE, z);
  const twice = times(back, back);
  let magnitude = 1;
  for (const { a1, a2 } of sections) {
    const above = less(ONE, twice);
    const below = plus(plus(ONE, scaled(back, a1)), scaled(twice, a2));
    magnitude *= Math.hypot(above.re, above.im) / Math.hypot(below.re, below.im);
  }
  return magnitude;
}

/** Magnitude response of a band-pass at a frequency. */
export function bandPassAt({ sections, gain }: BandPass, hz: number, sampleRate: number): number {
  const turn = (2 * Math.PI * hz) / sampleRate;
  return gain * magnitudeAt(sections, { re: cos(turn), im: sin(turn) });
}
