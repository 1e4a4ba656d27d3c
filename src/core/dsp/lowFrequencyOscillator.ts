import { TWO_PI } from '../math/circle';
import { sin } from '../math/elementary';
import { SeededRandom } from '../math/random';
import { smoothstep } from '../math/smoothstep';

export const LFO_SHAPES = [
  'sine',
  'triangle',
  'rampUp',
  'rampDown',
  'square',
  'steppedRandom',
  'smoothRandom',
] as const;
export type LfoShape = (typeof LFO_SHAPES)[number];

/** Jumps inside a shape are drawn as smooth edges of this length, so that nothing clicks. */
const EDGE_SECONDS = 0.008;
/** After a relocation the old value gives way to the new one over this time. */
const RELOCATE_SECONDS = 0.02;

/**
 * A low-frequency oscillator whose value is a pure function of the cycles elapsed since the start of the session, so
 * that any passage sounds the same wherever playback began. Values lie in [-1, 1]; random shapes are seeded.
 */
export class LowFrequencyOscillator {
  private cycles = 0;
  private rateHz = 1;
  private shape: LfoShape = 'sine';
  private carried = 0;
  private carriedStep = 0;
  private readonly random = new SeededRandom(0);
  /** Two neighbouring cycles, and what chance gave them. */
  private readonly drawnCycles = [NaN, NaN];
  private readonly drawn = [0, 0];

  constructor(
    private readonly sampleRate: number,
    private readonly seed: number,
  ) {}

  /** @param rateHz above 0 */
  configure(shape: LfoShape, rateHz: number): void {
    this.shape = shape;
    this.rateHz = rateHz;
  }

  /** Sets the phase that belongs to a place in the session; the value there is reached smoothly when `sounding`. */
  locate(frame: number, phaseCycles: number, sounding: boolean): void {
    const before = sounding ? this.valueAt(phaseCycles) + this.carried : 0;
    this.cycles = (frame * this.rateHz) / this.sampleRate;
    this.carried = sounding ? before - this.valueAt(phaseCycles) : 0;
    this.carriedStep = Math.abs(this.carried) / (RELOCATE_SECONDS * this.sampleRate);
  }

  advance(frames: number): void {
    this.cycles += (frames * this.rateHz) / this.sampleRate;
    const step = this.carriedStep * frames;
    if (Math.abs(this.carried) <= step) this.carried = 0;
    else this.carried -= this.carried > 0 ? step : -step;
  }

  /** Cycles that it goes on by in a frame. */
  get cyclesAFrame(): number {
    return this.rateHz / this.sampleRate;
  }

  /** Phase, 0 to 1. */
  get place(): number {
    return this.cycles - Math.floor(this.cycles);
  }

  /** The value `phaseCycles` (0 to 1) ahead of the oscillator's own phase. */
  read(phaseCycles: number): number {
    return this.valueAt(phaseCycles) + this.carried;
  }

  private valueAt(phaseCycles: number): number {
    const total = this.cycles + phaseCycles;
    const cycle = Math.floor(total);
    const phase = total - cycle;
    const edge = Math.min(0.25, EDGE_SECONDS * this.rateHz);
    switch (this.shape) {
      case 'sine':
        return sin(TWO_PI * phase);
      case 'triangle':
        return phase < 0.25 ? 4 * phase : phase < 0.75 ? 2 - 4 * phase : 4 * phase - 4;
      case 'rampUp':
        return rampWithEdge(phase, edge);
      case 'rampDown':
        return -rampWithEdge(phase, edge);
      case 'square':
        if (phase < edge) return 2 * smoothstep(phase / edge) - 1;
        if (phase < 0.5) return 1;
        return phase < 0.5 + edge ? 1 - 2 * smoothstep((phase - 0.5) / edge) : -1;
      case 'steppedRandom': {
        const now = this.randomAt(cycle);
        if (phase >= edge) return now;
        const before = this.randomAt(cycle - 1);
        return before + (now - before) * smoothstep(phase / edge);
      }
      case 'smoothRandom': {
        const from = this.randomAt(cycle);
        return from + (this.randomAt(cycle + 1) - from) * smoothstep(phase);
      }
    }
  }

  private randomAt(cycle: number): number {
    const slot = cycle & 1;
    if (this.drawnCycles[slot] !== cycle) {
      this.drawnCycles[slot] = cycle;
      this.random.reseed(this.seed + Math.imul(cycle, 0x9e3779b1));
      this.drawn[slot] = this.random.bipolar();
    }
    return this.drawn[slot]!;
  }
}

function rampWithEdge(phase: number, edge: number): number {
  const rise = 1 - edge;
  return phase < rise ? (2 * phase) / rise - 1 : 1 - 2 * smoothstep((phase - rise) / edge);
}
