import type { SeededRandom } from '../math/random';

/** Swings that are told another place while they sound are there after this long. */
const CATCH_UP_SECONDS = 0.25;

/** Several slow swings, each from a place of its own and at a pace of its own, that belong to the place in a session. */
export class Swings {
  /** Current phases in turns; phases at the start of a session; and relative rates. */
  private readonly phases: Float64Array;
  private readonly starts: Float64Array;
  private readonly paces: Float64Array;
  /** Phase error of each after a jump while sounding, and the share of it that is left. */
  private readonly behind: Float64Array;
  private left = 0;

  constructor(
    private readonly sampleRate: number,
    count: number,
    random: SeededRandom,
  ) {
    this.starts = Float64Array.from({ length: count }, () => random.uniform());
    this.paces = Float64Array.from({ length: count }, () => 0.6 + 0.8 * random.uniform());
    this.phases = this.starts.slice();
    this.behind = new Float64Array(count);
  }

  /** Phase of one, in turns. */
  at(n: number): number {
    return this.phases[n]! + this.left * this.behind[n]!;
  }

  /** They go on for some frames at a rate in Hz. */
  advance(frames: number, hz: number): void {
    const { phases, paces } = this;
    const turns = (frames * hz) / this.sampleRate;
    for (let n = 0; n < phases.length; n++) {
      const phase = phases[n]! + turns * paces[n]!;
      phases[n] = phase - Math.floor(phase);
    }
    this.left = Math.max(0, this.left - frames / (CATCH_UP_SECONDS * this.sampleRate));
  }

  /** They are so many frames into a session: at once, or within a quarter of a second while they sound. */
  locate(frame: number, hz: number, sounding: boolean): void {
    const seconds = frame / this.sampleRate;
    const { phases, starts, paces, behind } = this;
    for (let n = 0; n < phases.length; n++) {
      const before = this.at(n);
      const turns = starts[n]! + seconds * hz * paces[n]!;
      phases[n] = turns - Math.floor(turns);
      const off = before - phases[n]!;
      behind[n] = sounding ? off - Math.round(off) : 0;
    }
    this.left = sounding ? 1 : 0;
  }

  /** Are where they were told, with nothing to catch up with. */
  settle(): void {
    this.left = 0;
  }
}
