import { PLAIN_TIMING } from '../../noteValues';
import { OFFSET_TAIL_SECONDS, OffsetFilter } from '../../../dsp/offsetFilter';
import { KinetikonError } from '../../../errors';
import type { SeededRandom } from '../../../math/random';
import { choice, number, type Parameter } from '../../spec';
import type { ParameterValues } from '../../values';
import { resolveValue } from '../../resolve';

/** Impulse responses: one for both sides alike, one a side, or left to left, left to right, right to left, right to right. */
export type Paths = readonly Float32Array[];

/** A figure of a simulator by its id: a number in its unit, or the place of a choice. */
export type Figures = (id: string) => number;

/** Something that rings, worked out. */
export interface Simulator {
  readonly id: string;
  readonly name: string;
  readonly purpose: string;
  readonly parameters: readonly Parameter[];
  /**
   * @param seed which of many of its kind
   * @param progress is told how far the work is, 0 to 1; it may throw to end it
   */
  simulate(figures: Figures, seed: number, sampleRate: number, progress?: (share: number) => void): Paths;
}

/** The longest impulse there is, in seconds. */
export const LONGEST_SECONDS = 20;

/** Rulers that several simulators share. */
export const metres = (id: string, name: string, min: number, max: number, byDefault: number, help: string) =>
  number({ id, name, group: 'Size', unit: 'm', min, max, default: byDefault, scale: 'log', help });
export const share = (id: string, name: string, group: string, byDefault: number, help: string) =>
  number({ id, name, group, unit: '%', min: 0, max: 100, default: byDefault, scale: 'linear', help });
export const oneOf = (
  id: string,
  name: string,
  group: string,
  byDefault: string,
  choices: readonly { readonly id: string; readonly name: string }[],
  help: string,
) =>
  choice({
    id,
    name,
    group,
    default: byDefault,
    choices: choices.map((one) => ({ id: one.id, name: one.name })),
    help,
  });

/** White noise, uniform up to a level. */
export function noiseOf(frames: number, random: SeededRandom, level = 1): Float64Array {
  const out = new Float64Array(frames);
  for (let n = 0; n < frames; n++) out[n] = level * random.bipolar();
  return out;
}

/** Impulses at a common level: the loudest sample of all comes to `peak`. */
export function atPeak(paths: Paths, peak: number): Float32Array[] {
  let loudest = 0;
  for (const path of paths) for (let n = 0; n < path.length; n++) loudest = Math.max(loudest, Math.abs(path[n]!));
  return paths.map((path) => path.map((x) => (peak * x) / loudest));
}

/**
 * The figures of a simulator from values that may leave some out.
 * @throws KinetikonError parameter.range, or parameter.unknown with the ids there are
 */
export function figuresOf(simulator: Simulator, values: ParameterValues): Figures {
  const { parameters } = simulator;
  for (const id of Object.keys(values)) {
    if (!parameters.some((one) => one.id === id)) {
      throw new KinetikonError('parameter.unknown', `${simulator.id} has no parameter "${id}".`, {
        next: `It has: ${parameters.map((one) => one.id).join(', ')}.`,
      });
    }
  }
  const figures = new Map(
    parameters.map((one) => [one.id, resolveValue(one, values[one.id] ?? one.default, PLAIN_TIMING)]),
  );
  return (id) => figures.get(id)!;
}

/**
 * An impulse by a simulator.
 * @param values of the simulator's parameters; those left out are at their defaults
 * @throws KinetikonError as `figuresOf`
 */
export function impulseBy(
  simulator: Simulator,
  values: ParameterValues,
  seed: number,
  sampleRate: number,
  progress?: (share: number) => void,
): Float32Array[] {
  return highPassed(simulator.simulate(figuresOf(simulator, values), seed, sampleRate, progress), sampleRate);
}

/**
 * Impulses through the high-pass at 5 Hz: images and modes sum up to an offset that no microphone would have heard. They are
 * longer by what it rings, up to the longest that an impulse may be.
 */
export function highPassed(paths: Paths, sampleRate: number): Float32Array[] {
  return paths.map((path) => {
    const ring = path.length + Math.ceil(OFFSET_TAIL_SECONDS * sampleRate);
    const out = new Float32Array(Math.max(path.length, Math.min(ring, LONGEST_SECONDS * sampleRate)));
    out.set(path);
    new OffsetFilter(sampleRate).process(out, out.length);
    return out;
  });
}
