import { fieldOf, type CrossSpectra } from './stereoField';
import { PATHS, type PathId } from '../effects/midside/spec';
import { pathTransfer, type Complex, type Figure } from '../effects/midside/transfer';

/** Decibels from which on a fault is told. */
const LEAN_DB = 1.5;
const HOLLOW_DB = 3;
const MONO_DB = 3;

/** What a setting does to the field that its user may not want, in words. */
export interface Advice {
  readonly kind: 'leans' | 'hollow' | 'mono';
  readonly text: string;
  /** The path that does it; null where no single one does. */
  readonly path: PathId | null;
}

/** The spectra of a sound behind the matrix of some paths; those left out are as they come. */
export function throughPaths(
  spectra: CrossSpectra,
  figure: Figure,
  sampleRateHz: number,
  without: PathId | null = null,
): CrossSpectra {
  const bins = spectra.left.length;
  const out = {
    binHz: spectra.binHz,
    left: new Float64Array(bins),
    right: new Float64Array(bins),
    re: new Float64Array(bins),
    im: new Float64Array(bins),
  };
  for (let bin = 1; bin < bins; bin++) {
    const [mm, ss, ms, sm] = PATHS.map(({ id, from, to }, n): Complex =>
      id === without
        ? { re: from === to ? 1 : 0, im: 0 }
        : pathTransfer(PATHS[n]!.id, figure, bin * spectra.binHz, sampleRateHz),
    ) as [Complex, Complex, Complex, Complex];
    // To mid and to side from left and right.
    const half = (a: Complex, b: Complex, sign: number): Complex => ({
      re: (a.re + sign * b.re) / 2,
      im: (a.im + sign * b.im) / 2,
    });
    const [midL, midR] = [half(mm, sm, 1), half(mm, sm, -1)];
    const [sideL, sideR] = [half(ms, ss, 1), half(ms, ss, -1)];
    const add = (a: Complex, b: Complex, sign: number): Complex => ({ re: a.re + sign * b.re, im: a.im + sign * b.im });
    const [ll, lr] = [add(midL, sideL, 1), add(midR, sideR, 1)];
    const [rl, rr] = [add(midL, sideL, -1), add(midR, sideR, -1)];
    const [pl, pr] = [spectra.left[bin]!, spectra.right[bin]!];
    const c = { re: spectra.re[bin]!, im: spectra.im[bin]! };
    // Powers of a·left + b·right, and what two such have in common.
    const common = (a: Complex, b: Complex, d: Complex, e: Complex): Complex => {
      const terms = [scaled(byConjugate(a, d), pl), scaled(byConjugate(b, e), pr)];
      terms.push(product(byConjugate(a, e), c), product(byConjugate(b, d), { re: c.re, im: -c.im }));
      return terms.reduce((sum, one) => ({ re: sum.re + one.re, im: sum.im + one.im }));
    };
    out.left[bin] = Math.max(0, common(ll, lr, ll, lr).re);
    out.right[bin] = Math.max(0, common(rl, rr, rl, rr).re);
    const both = common(ll, lr, rl, rr);
    out.re[bin] = both.re;
    out.im[bin] = both.im;
  }
  return out;
}

const scaled = (a: Complex, by: number): Complex => ({ re: a.re * by, im: a.im * by });
const byConjugate = (a: Complex, b: Complex): Complex => ({
  re: a.re * b.re + a.im * b.im,
  im: a.im * b.re - a.re * b.im,
});
const product = (a: Complex, b: Complex): Complex => ({ re: a.re * b.re - a.im * b.im, im: a.re * b.im + a.im * b.re });

/** Power of the middle, left and right as they are heard. */
function middle({ left, right, re }: CrossSpectra): number {
  let sum = 0;
  for (let bin = 1; bin < left.length; bin++) sum += (left[bin]! + right[bin]! + 2 * re[bin]!) / 4;
  return sum;
}

/** How much of each fault there is, in decibels. */
function faultsOf(before: CrossSpectra, after: CrossSpectra): Record<Advice['kind'], number> {
  const [was, is] = [fieldOf(before), fieldOf(after)];
  const lean = (is.tiltDb ?? 0) - (was.tiltDb ?? 0);
  const lost = 10 * Math.log10((middle(before) + 1e-12) / (middle(after) + 1e-12));
  return { leans: lean, hollow: lost, mono: (is.monoLossDb ?? 0) - (was.monoLossDb ?? 0) };
}

/**
 * Says in words when a setting makes the field lean, hollows its middle or loses much in mono, for a sound, and which
 * path does it: the one without which there is least of it.
 * @param spectra of what comes in
 */
export function adviceOn(spectra: CrossSpectra, figure: Figure, sampleRateHz: number): Advice[] {
  if (fieldOf(spectra).monoLossDb === null) return [];
  const faults = faultsOf(spectra, throughPaths(spectra, figure, sampleRateHz));
  const without = PATHS.map(
    ({ id }) => [id, faultsOf(spectra, throughPaths(spectra, figure, sampleRateHz, id))] as const,
  );
  const told = (kind: Advice['kind'], from: number, say: (by: string, name: string) => string): Advice[] => {
    const much = Math.abs(faults[kind]);
    if (kind === 'leans' ? much < from : faults[kind] < from) return [];
    const [path, rest] = without.reduce((best, one) => (Math.abs(one[1][kind]) < Math.abs(best[1][kind]) ? one : best));
    const guilty = Math.abs(rest[kind]) < much - from / 2 ? path : null;
    const name = PATHS.find(({ id }) => id === guilty)?.name.toLowerCase();
    return [{ kind, path: guilty, text: say(much.toFixed(1), name ? `: ${name} does it` : '') }];
  };
  return [
    ...told(
      'leans',
      LEAN_DB,
      (by, name) => `The field leans to the ${faults.leans > 0 ? 'left' : 'right'} by ${by} dB${name}.`,
    ),
    ...told('hollow', HOLLOW_DB, (by, name) => `The middle loses ${by} dB${name}.`),
    ...told('mono', MONO_DB, (by, name) => `In mono ${by} dB more are lost than before${name}.`),
  ];
}
