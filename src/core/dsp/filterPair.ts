import { tan } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';
import type { FilterType } from './stateVariableFilter';

const PI = 3.141592653589793;
/** Where by pairs, left and right, things lie in the state, behind the two integrators. */
const enum At {
  a1 = 4,
  a2 = 6,
  a3 = 8,
  input = 10,
  band = 12,
  low = 14,
  length = 16,
}

/** Two channels of the filter of `StateVariableFilter`, of one type and each with its own cutoff. */
export class FilterPair {
  private readonly loops = wasm().loops;
  private readonly state: Doubles;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
  ) {
    this.state = memory.doubles(At.length);
    this.configureBoth('lowPass', 1000, Math.SQRT1_2);
  }

  /**
   * @param cutoffHz 1 Hz to 0.49 of the rate (clamped)
   * @param q 0.1 and up; 0.7071 is a Butterworth response
   */
  configure(channel: 0 | 1, type: FilterType, cutoffHz: number, q: number): void {
    const { state } = this;
    const limited = Math.min(Math.max(cutoffHz, 1), 0.49 * this.sampleRate);
    const g = tan((PI * limited) / this.sampleRate);
    const k = 1 / q;
    const a1 = 1 / (1 + g * (g + k));
    state[At.a1 + channel] = a1;
    state[At.a2 + channel] = g * a1;
    state[At.a3 + channel] = g * (g * a1);
    state[At.input + channel] = type === 'highPass' || type === 'notch' ? 1 : 0;
    state[At.band + channel] = type === 'bandPass' ? k : type === 'lowPass' ? 0 : -k;
    state[At.low + channel] = type === 'lowPass' ? 1 : type === 'highPass' ? -1 : 0;
  }

  configureBoth(type: FilterType, cutoffHz: number, q: number): void {
    this.configure(0, type, cutoffHz, q);
    this.configure(1, type, cutoffHz, q);
  }

  reset(): void {
    this.state.fill(0, 0, At.a1);
  }

  /** Filters both blocks in place. */
  process(left: Doubles, right: Doubles, frames: number): void {
    this.loops.filterPair(this.state.byteOffset, left.byteOffset, right.byteOffset, frames);
  }
}
