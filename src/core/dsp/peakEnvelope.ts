import { cos, log } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { BlockFourier } from './blockFourier';

/** Bins of a spectrum to one of its envelope. */
const COARSE = 4;
/** Part of the lifter, from quefrency 0 on, that passes the cepstrum in full. */
const FLAT = 0.65;
/** Times that the envelope is raised to the peaks. */
const ROUNDS = 4;
/** A peak makes up the envelope if it is the strongest within 100 Hz: period of that, in seconds. */
const NEIGHBOUR_SECONDS = 0.01;
/** Power against the strongest peak from which on one counts: -60 dB. */
const AUDIBLE = 1e-6;

/** Peaks of a spectrum: their bins in rising order, how many there are, and the index of the strongest, -1 without any. */
export interface Peaks {
  readonly bins: Int32Array;
  count: number;
  strongest: number;
}

/**
 * The spectral envelope over the peaks of a spectrum: straight lines in decibels from peak to peak, smoothed by a lifter on the
 * cepstrum and raised to the lines again and again (Roebel and Rodet, "Efficient spectral envelope estimation and its
 * application to pitch shifting and envelope preservation", DAFx 2005). What lies between partials is no part of it, however
 * far they are apart; under the lowest peak and above the highest it is level.
 */
export class PeakEnvelope {
  private readonly half: number;
  private readonly transform: BlockFourier;
  private readonly re: Doubles;
  private readonly im: Doubles;
  /** The lines and the envelope, as natural logarithms of magnitudes, by `COARSE` bins. */
  private readonly levels: Float64Array;
  private readonly envelope: Float64Array;
  /** Bins to each side within which a peak must be the strongest. */
  private readonly neighbours: number;
  /** Bins and levels of the peaks that make up the envelope. */
  private readonly nodes: Int32Array;
  private readonly nodeLevels: Float64Array;

  /** @param size of the transform that the spectra come from */
  constructor(memory: Arena, sampleRate: number, size: number) {
    this.half = size / 2;
    this.transform = new BlockFourier(size / COARSE);
    [this.re, this.im] = [memory.doubles(size / COARSE), memory.doubles(size / COARSE)];
    const points = this.half / COARSE + 1;
    [this.levels, this.envelope] = [new Float64Array(points), new Float64Array(points)];
    this.neighbours = Math.round(size / (NEIGHBOUR_SECONDS * sampleRate));
    this.nodes = new Int32Array(this.half + 1);
    this.nodeLevels = new Float64Array(this.half + 1);
  }

  /**
   * @param powers by bin
   * @param lifterFrames quefrency above which the cepstrum is no envelope, from 1 frame
   */
  follow(powers: Float64Array, peaks: Peaks, lifterFrames: number): void {
    const { re, im, levels, envelope, transform } = this;
    const { size } = transform;
    const last = size / 2;
    this.joinNodes(powers, this.findNodes(powers, peaks));
    for (let round = 0; round < ROUNDS; round++) {
      for (let k = 0; k <= last; k++) {
        const level = round === 0 ? levels[k]! : Math.max(levels[k]!, envelope[k]!);
        re[k] = level;
        if (k > 0 && k < last) re[size - k] = level;
      }
      im.fill(0);
      transform.forward(re, im);
      for (let n = 0; n <= last; n++) {
        const part = Math.max(0, (n / lifterFrames - FLAT) / (1 - FLAT));
        const weight = part >= 1 ? 0 : (0.5 + 0.5 * cos(Math.PI * part)) / size;
        re[n]! *= weight;
        im[n] = 0;
        if (n === 0 || n === last) continue;
        re[size - n]! *= weight;
        im[size - n] = 0;
      }
      transform.forward(re, im);
      for (let k = 0; k <= last; k++) envelope[k] = re[k]!;
    }
  }

  /** Takes in the peaks that are audible and the strongest around: side lobes are not. Returns how many. */
  private findNodes(powers: Float64Array, { bins, count, strongest }: Peaks): number {
    const { nodes, neighbours } = this;
    const least = strongest < 0 ? 0 : AUDIBLE * powers[bins[strongest]!]!;
    let found = 0;
    for (let n = 0; n < count; n++) {
      const [bin, power] = [bins[n]!, powers[bins[n]!]!];
      let stands = power > least;
      for (let m = n - 1; stands && m >= 0 && bin - bins[m]! <= neighbours; m--) stands = powers[bins[m]!]! <= power;
      for (let m = n + 1; stands && m < count && bins[m]! - bin <= neighbours; m++) stands = powers[bins[m]!]! <= power;
      if (stands) nodes[found++] = bin;
    }
    return found;
  }

  /** Draws the lines between the nodes. */
  private joinNodes(powers: Float64Array, count: number): void {
    const { nodes, nodeLevels, levels } = this;
    if (count === 0) {
      levels.fill(0);
      return;
    }
    for (let node = 0; node < count; node++) nodeLevels[node] = 0.5 * log(powers[nodes[node]!]!);
    let node = 0;
    for (let k = 0; k < levels.length; k++) {
      const bin = COARSE * k;
      while (node < count && nodes[node]! < bin) node++;
      if (node === 0 || node === count) levels[k] = nodeLevels[Math.min(node, count - 1)]!;
      else {
        const [from, to] = [nodes[node - 1]!, nodes[node]!];
        const [level, next] = [nodeLevels[node - 1]!, nodeLevels[node]!];
        levels[k] = level + ((bin - from) / (to - from)) * (next - level);
      }
    }
  }

  /** Natural logarithm of the envelope's magnitude at a bin or between two. */
  at(bin: number): number {
    const { envelope, half } = this;
    const inside = Math.min(half - 1, Math.max(0, bin)) / COARSE;
    const below = Math.floor(inside);
    return envelope[below]! + (inside - below) * (envelope[below + 1]! - envelope[below]!);
  }
}
