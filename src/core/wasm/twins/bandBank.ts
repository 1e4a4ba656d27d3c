import type { BandPass } from '../../dsp/bandPass';

/** Coefficients of a band-pass: two a section. */
export type BandStates = number[][];

export const newStates = ({ sections }: BandPass): BandStates => sections.map(() => [0, 0]);

/** To single precision. */
const f = Math.fround;
const TINY = f(1e-15);

/** State without what is too small for the machine to be quick with it. */
const settled = (x: number) => f(f(x + TINY) - TINY);

function passed({ sections }: BandPass, states: BandStates, input: number): number {
  let x = f(input);
  sections.forEach(({ a1, a2 }, n) => {
    const state = states[n]!;
    const y = f(x - state[0]!);
    state[0] = f(state[1]! + f(f(a1) * y));
    state[1] = f(x + f(f(a2) * y));
    x = y;
  });
  return x;
}

function settle(states: BandStates): void {
  for (const state of states) {
    state[0] = settled(state[0]!);
    state[1] = settled(state[1]!);
  }
}

/** Levels of one band over a block: in TypeScript, the reference for the loop over all of them. Returns the last. */
export function followTwin(
  band: BandPass,
  states: BandStates,
  level: number,
  rise: number,
  fall: number,
  input: ArrayLike<number>,
  levels: number[],
): number {
  let last = level;
  for (let i = 0; i < input.length; i++) {
    const loud = f(f(band.gain) * Math.abs(passed(band, states, input[i]!)));
    last = f(last + f(f(loud > last ? rise : fall) * f(loud - last)));
    levels[i] = last;
  }
  settle(states);
  return settled(last);
}

/** One band of a block at levels that were followed. */
export function weighTwin(
  band: BandPass,
  states: BandStates,
  input: ArrayLike<number>,
  levels: readonly number[],
): number[] {
  const out = Array.from(input, (x, i) => f(f(f(band.gain) * passed(band, states, x)) * levels[i]!));
  settle(states);
  return out;
}
