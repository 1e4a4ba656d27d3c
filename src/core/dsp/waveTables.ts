import { log, pow, sin } from '../math/elementary';
import type { Floats } from '../wasm/arena';
import { sharedBySize } from './sharedTables';
import { FourierTransform } from './fft';

/** Samples of a cycle; one more closes it. */
export const WAVE_SIZE = 4096;
const MOST_HARMONICS = 1024;
/** Tables from one octave to the next. */
const STEPS = 4;
/** The last table holds nothing: what it would be read for lies above the band. */
const TABLES = 10 * STEPS + 2;
/** Part of the rate up to which harmonics go. */
const BAND = 0.49;

interface Tables {
  readonly saws: readonly Floats[];
  readonly sine: Floats;
}

/** A falling saw from 1 to -1 of so many harmonics. */
function saw(harmonics: number): Float64Array {
  const re = new Float64Array(WAVE_SIZE);
  const im = new Float64Array(WAVE_SIZE);
  for (let k = 1; k <= harmonics; k++) im[k] = -1 / (Math.PI * k);
  for (let k = 1; k <= harmonics; k++) im[WAVE_SIZE - k] = -im[k]!;
  // The inverse transform is the forward one with both parts exchanged.
  new FourierTransform(WAVE_SIZE).forward(im, re);
  return re;
}

const tablesOf = sharedBySize((size, memory): Tables => {
  const make = (samples: ArrayLike<number>) => {
    const table = memory.floats(size + 1);
    for (let n = 0; n <= size; n++) table[n] = samples[n % size]!;
    return table;
  };
  const harmonicsOf = (n: number) => (n === TABLES - 1 ? 0 : Math.floor(MOST_HARMONICS * pow(2, -n / STEPS) + 1e-9));
  return {
    saws: Array.from({ length: TABLES }, (_, n) => make(saw(harmonicsOf(n)))),
    sine: make(Array.from({ length: size }, (_, n) => sin((2 * Math.PI * n) / size))),
  };
});

/**
 * Cycles of a saw with ever fewer harmonics, four tables to the octave, so that nothing of a wave lies above the band
 * whatever its pitch. Read in a straight line between samples: what that leaves lies 90 dB under the wave and lower.
 */
export class WaveTables {
  private readonly tables = tablesOf(WAVE_SIZE);
  /** Between these two lies the wave of the frequency last asked for, at `blend` from the near one. */
  near: Floats = this.tables.saws[0]!;
  far: Floats = this.tables.saws[0]!;
  blend = 0;
  private chosenFor = NaN;
  readonly sine: Floats = this.tables.sine;

  /** Chooses tables for a frequency given in cycles a frame. */
  choose(increment: number): void {
    if (increment === this.chosenFor) return;
    this.chosenFor = increment;
    const place = increment <= 0 ? 0 : (STEPS * log((MOST_HARMONICS * increment) / BAND)) / Math.LN2;
    const table = Math.min(TABLES - 1, Math.max(0, Math.ceil(place)));
    const part = place - (table - 1);
    this.near = this.table(table);
    this.far = this.table(Math.min(TABLES - 1, table + 1));
    this.blend = part > 0.5 ? Math.min(1, 2 * part - 1) : 0;
  }

  table(n: number): Floats {
    return this.tables.saws[n]!;
  }
}
