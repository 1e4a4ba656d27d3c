import { PATHS, type PathId } from '../effects/midside/spec';
import { pathTransfer, type Figure } from '../effects/midside/transfer';
import { conjugate, plus, times, type Complex } from '../math/complex';
import { fieldOf, noSpectra, type CrossSpectra } from './stereoField';

/** Decibels from which on a fault is told. */
const LEAN_DB = 1.5;
const HOLLOW_DB = 3;
const MONO_DB = 3;

/** A warning about a side effect of a setting on the stereo field. */
export interface Advice {
  readonly kind: 'leans' | 'hollow' | 'mono';
  readonly text: string;
  /** The path that does it; null where no single one does. */
  readonly path: PathId | null;
}

/** Response of each path by bin, in the order of the paths. */
type Responses = readonly (readonly Complex[])[];

function responsesOf({ binHz, left }: CrossSpectra, figure: Figure, sampleRateHz: number): Responses {
  return PATHS.map(({ id }) => {
    const transfer = pathTransfer(id, figure, sampleRateHz);
    return Array.from(left, (_, bin) => transfer(bin * binHz));
  });
}

/** The same with one path as it comes. */
const without = (responses: Responses, path: PathId): Responses =>
  responses.map((response, n) => {
    const { id, from, to } = PATHS[n]!;
    return id === path ? response.map(() => ({ re: from === to ? 1 : 0, im: 0 })) : response;
  });

const power = ({ re, im }: Complex) => re * re + im * im;

/** The spectra of a sound behind the matrix of some responses. */
function behind({ binHz, left, right, re, im }: CrossSpectra, [mms, sss, mss, sms]: Responses): CrossSpectra {
  const out = noSpectra(binHz, left.length);
  for (let bin = 1; bin < left.length; bin++) {
    const [mm, ss, ms, sm] = [mms![bin]!, sss![bin]!, mss![bin]!, sms![bin]!];
    // Input powers of mid and side, and mid times the conjugate of side.
    const mid = (left[bin]! + right[bin]! + 2 * re[bin]!) / 4;
    const side = (left[bin]! + right[bin]! - 2 * re[bin]!) / 4;
    const both = { re: (left[bin]! - right[bin]!) / 4, im: -im[bin]! / 2 };
    // And the same of what goes out.
    const midOut = power(mm) * mid + power(sm) * side + 2 * times(times(mm, conjugate(sm)), both).re;
    const sideOut = power(ms) * mid + power(ss) * side + 2 * times(times(ms, conjugate(ss)), both).re;
    const own = times(mm, conjugate(ms));
    const other = times(sm, conjugate(ss));
    const bothOut = plus(
      { re: own.re * mid + other.re * side, im: own.im * mid + other.im * side },
      plus(times(times(mm, conjugate(ss)), both), times(times(sm, conjugate(ms)), conjugate(both))),
    );
    out.left[bin] = Math.max(0, midOut + sideOut + 2 * bothOut.re);
    out.right[bin] = Math.max(0, midOut + sideOut - 2 * bothOut.re);
    out.re[bin] = midOut - sideOut;
    out.im[bin] = -2 * bothOut.im;
    out.inStep[bin] = Math.sqrt(out.left[bin]! * out.right[bin]!);
  }
  return out;
}

/** The spectra of a sound behind the matrix, as it is set. */
export const throughPaths = (spectra: CrossSpectra, figure: Figure, sampleRateHz: number): CrossSpectra =>
  behind(spectra, responsesOf(spectra, figure, sampleRateHz));

/** Power of the middle, left and right as they are heard. */
function middle({ left, right, re }: CrossSpectra): number {
  let sum = 0;
  for (let bin = 1; bin < left.length; bin++) sum += (left[bin]! + right[bin]! + 2 * re[bin]!) / 4;
  return sum;
}

/** A sound as faults are told from it. */
const heardAs = (spectra: CrossSpectra) => ({ field: fieldOf(spectra), middle: middle(spectra) });
type Heard = ReturnType<typeof heardAs>;

/** Extent of each fault, in decibels. */
function faultsOf(before: Heard, after: Heard): Record<Advice['kind'], number> {
  const [was, is] = [before.field, after.field];
  return {
    leans: (is.tiltDb ?? 0) - (was.tiltDb ?? 0),
    hollow: 10 * Math.log10((before.middle + 1e-12) / (after.middle + 1e-12)),
    mono: (is.monoLossDb ?? 0) - (was.monoLossDb ?? 0),
  };
}

/**
 * Says in words when a setting makes the field lean, hollows its middle or loses much in mono, for a sound, and which
 * path does it: the one without which there is least of it.
 * @param spectra of what comes in
 */
export function adviceOn(spectra: CrossSpectra, figure: Figure, sampleRateHz: number): Advice[] {
  const before = heardAs(spectra);
  if (before.field.monoLossDb === null) return [];
  const responses = responsesOf(spectra, figure, sampleRateHz);
  const faultsWith = (paths: Responses) => faultsOf(before, heardAs(behind(spectra, paths)));
  const faults = faultsWith(responses);
  const rests = PATHS.map(({ id }) => [id, faultsWith(without(responses, id))] as const);
  const told = (kind: Advice['kind'], from: number, say: (by: string, name: string) => string): Advice[] => {
    const much = Math.abs(faults[kind]);
    if (kind === 'leans' ? much < from : faults[kind] < from) return [];
    const [path, rest] = rests.reduce((best, one) => (Math.abs(one[1][kind]) < Math.abs(best[1][kind]) ? one : best));
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
