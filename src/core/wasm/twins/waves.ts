import { WAVE } from '../../dsp/waveState';
import { splitMix } from '../../math/random';

type Block = Float64Array;

/** Phases in between are whole numbers, 2^48 of them to a cycle, and so are their steps. */
const CYCLE = 281474976710656n;
const ROUND = CYCLE - 1n;
const SAMPLE_BITS = 36n;
/** Parts of a sample that are told apart. */
const PARTS = 1048576;

function tableAt(table: Float32Array, phase: bigint): number {
  const whole = Number((phase & ROUND) >> SAMPLE_BITS);
  const part = Number((phase >> 16n) & BigInt(PARTS - 1)) / PARTS;
  return table[whole]! + part * (table[whole + 1]! - table[whole]!);
}

const phaseOf = (cycles: number) => BigInt(Math.trunc(cycles * Number(CYCLE)));
const cyclesOf = (phase: bigint) => Number(phase & ROUND) / Number(CYCLE);
const phaseAt = (first: number, step: number, n: number) => phaseOf(first) + BigInt(n) * phaseOf(step);
const moved = (state: Block, figure: number, n: number) => state[figure]! + n * state[figure + 1]!;

/**
 * Adds a saw, or a pulse as the difference of two, to two sides; in TypeScript, the reference for the loop.
 * @param state its `shape` is the width of the pulse in cycles, below 0 for a saw
 * @param near,far tables between which `blend` lies
 */
export function addWaveTwin(
  state: Block,
  near: Float32Array,
  far: Float32Array,
  blend: number,
  offset: number,
  frames: number,
  left: Block,
  right: Block,
): void {
  const at = (phase: bigint) => {
    const x = tableAt(near, phase);
    return blend > 0 ? x + blend * (tableAt(far, phase) - x) : x;
  };
  const pulse = state[WAVE.shape]! >= 0;
  for (let i = 0; i < frames; i++) {
    const n = offset + i;
    const p = phaseOf(state[WAVE.phase]!);
    let x = at(p);
    if (pulse) x -= at(p + phaseAt(state[WAVE.shape]!, state[WAVE.shape + 1]!, n));
    left[i] = left[i]! + x * moved(state, WAVE.left, n);
    right[i] = right[i]! + x * moved(state, WAVE.right, n);
    state[WAVE.phase] = cyclesOf(p + phaseAt(state[WAVE.increment]!, state[WAVE.increment + 1]!, n));
  }
}

/**
 * Adds a sine whose phase is moved by another to two sides.
 * @param state its `shape` is how far the phase is moved, in cycles
 * @param ratio of the modulator's frequency
 */
export function addModulatedTwin(
  state: Block,
  sine: Float32Array,
  ratio: number,
  offset: number,
  frames: number,
  left: Block,
  right: Block,
): void {
  for (let i = 0; i < frames; i++) {
    const n = offset + i;
    const p = phaseOf(state[WAVE.phase]!);
    const q = phaseOf(state[WAVE.modulatorPhase]!);
    const x = tableAt(sine, p + phaseOf(moved(state, WAVE.shape, n) * tableAt(sine, q)));
    left[i] = left[i]! + x * moved(state, WAVE.left, n);
    right[i] = right[i]! + x * moved(state, WAVE.right, n);
    const [increment, step] = [state[WAVE.increment]!, state[WAVE.increment + 1]!];
    state[WAVE.phase] = cyclesOf(p + phaseAt(increment, step, n));
    state[WAVE.modulatorPhase] = cyclesOf(q + phaseAt(ratio * increment, ratio * step, n));
  }
}

/** A word of SplitMix32 as a number from -1 to 1. */
const noiseAt = (counter: number) => (splitMix(counter) | 0) / 2147483648;

/**
 * Adds white noise to two sides.
 * @param state its `left` is the level of what both have in common, its `right` of what each has with the other sign
 * @param counter of the first frame's word; each frame takes two
 */
export function addNoiseTwin(
  state: Block,
  counter: number,
  offset: number,
  frames: number,
  left: Block,
  right: Block,
): void {
  for (let i = 0; i < frames; i++) {
    const n = offset + i;
    const middle = moved(state, WAVE.left, n) * noiseAt(counter++);
    const side = moved(state, WAVE.right, n) * noiseAt(counter++);
    left[i] = left[i]! + (middle + side);
    right[i] = right[i]! + (middle - side);
  }
}
