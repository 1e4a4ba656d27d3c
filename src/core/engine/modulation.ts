import { LowFrequencyOscillator, type LfoShape } from '../dsp/lowFrequencyOscillator';
import { exactValueAt, positionOf } from '../effects/scale';
import { dbToGain, exp, gainToDb } from '../math/elementary';
import { settled } from '../math/settled';
import { smoothstep } from '../math/smoothstep';
import type { SidechainBlock } from '../effects/kernel';
import type { PlanModulation, PlanSource } from './plan';

/** A follower reads levels from this far below full scale up to it. */
const FOLLOWER_RANGE_DB = 60;
const FLOOR = 1e-6;
/** Duration of a step of a pattern. */
const EDGE_SECONDS = 0.008;
/** Rates of the three parts of a random walk, against its own, and their weights. */
const RANDOM_WALK = [
  [1, 0.6],
  [0.37, 0.9],
  [2.7, 0.25],
] as const;
/**
 * Cycles a second and seconds of a follower up to which straight lines over 128 frames stay within a thousandth of a
 * smooth course (at 44.1 kHz: (2 pi f T)^2 / 8 for a sine), and within an eightieth of a follower's steepest.
 */
const SLOW_HZ = 4;
const SLOW_SECONDS = 0.01;
/** Least smoothing of macros: MIDI controllers have 128 steps. */
const MACRO_SECONDS = 0.03;
const SMOOTH_SHAPES: readonly LfoShape[] = ['sine', 'smoothRandom'];
const RANDOM_WALK_WEIGHT = RANDOM_WALK.reduce((sum, [, weight]) => sum + weight, 0);

/**
 * One source at work on one parameter. Oscillators, patterns and walks are pure functions of the place in the session,
 * so that a passage sounds the same wherever playback began; a follower listens.
 */
export class Modulation {
  /** Side-chain input of a follower. */
  input: SidechainBlock | null = null;
  private readonly oscillators: readonly LowFrequencyOscillator[];
  private level = 0;
  private smoothed = NaN;
  private at = NaN;
  private last = 0;
  /** Position of the macro, -1 to 1. */
  private macroPosition = 0;

  constructor(
    readonly plan: PlanModulation,
    private readonly sampleRate: number,
    before?: Modulation,
  ) {
    this.oscillators = oscillatorsOf(plan.source, sampleRate);
    if (plan.source.kind === 'hand') this.moveMacro(plan.source.id, plan.source.part);
    if (!before) return;
    this.level = before.level;
    this.smoothed = before.smoothed;
    this.input = before.input;
  }

  /** True if its curve is flat enough to be updated every SLOW_TICK frames. */
  get isSlow(): boolean {
    const { source } = this.plan;
    switch (source.kind) {
      case 'oscillator':
        return source.rateHz <= SLOW_HZ && SMOOTH_SHAPES.includes(source.shape);
      case 'walk':
        return source.rateHz * Math.max(...RANDOM_WALK.map(([rate]) => rate)) <= SLOW_HZ;
      case 'pattern':
        return false;
      case 'follower':
        return Math.min(source.attackSeconds, source.releaseSeconds) >= SLOW_SECONDS;
      case 'hand':
        return true;
    }
  }

  /** Moves the macro of this id; `part` is 0 to 1. */
  moveMacro(id: string, part: number): void {
    const { source } = this.plan;
    if (source.kind === 'hand' && source.id === id) this.macroPosition = 2 * part - 1;
  }

  /** Drops the smoothing: the next value is exact. */
  reset(): void {
    this.smoothed = NaN;
    this.at = NaN;
    this.level = 0;
  }

  /**
   * Updates a follower by `frames` frames of its input, from `start` on.
   * @param own input of the effect, for followers of it; null while it is silent
   */
  follow(start: number, frames: number, own: SidechainBlock | null): void {
    const { source } = this.plan;
    if (source.kind !== 'follower') return;
    const sound = source.key === null ? own : this.input;
    if (sound === null && source.key !== null) return;
    const rise = 1 - exp(-1 / (source.attackSeconds * this.sampleRate));
    const fall = 1 - exp(-1 / (source.releaseSeconds * this.sampleRate));
    const left = sound?.left;
    const right = sound?.right;
    let { level } = this;
    for (let i = start; i < start + frames; i++) {
      const loud = left && right ? Math.max(Math.abs(left[i]!), Math.abs(right[i]!)) : 0;
      level += settled((loud > level ? rise : fall) * (loud - level));
    }
    this.level = level;
  }

  /**
   * Offset on the ruler, -1 to 1, at a session frame.
   * @param elapsed frames since the last call, for the smoothing
   */
  offsetAt(frame: number, elapsed: number): number {
    if (frame === this.at) return this.last;
    const { depth, polarity, source } = this.plan;
    const set = this.plan.smoothingSeconds;
    const smoothingSeconds = source.kind === 'hand' ? Math.max(set, MACRO_SECONDS) : set;
    const course = this.valueAt(frame);
    if (smoothingSeconds === 0 || Number.isNaN(this.smoothed)) this.smoothed = course;
    else this.smoothed += (course - this.smoothed) * (1 - exp(-elapsed / (smoothingSeconds * this.sampleRate)));
    const u = 0.5 + 0.5 * this.smoothed;
    this.last = depth * (polarity === 'both' ? this.smoothed : polarity === 'up' ? u : -u);
    this.at = frame;
    return this.last;
  }

  /** Value of the source, -1 to 1. */
  private valueAt(frame: number): number {
    const { source } = this.plan;
    const { oscillators, sampleRate } = this;
    switch (source.kind) {
      case 'oscillator':
        oscillators[0]!.locate(frame, 0, false);
        return oscillators[0]!.read(source.phase);
      case 'walk': {
        let sum = 0;
        RANDOM_WALK.forEach(([, weight], part) => {
          oscillators[part]!.locate(frame, 0, false);
          sum += (weight / RANDOM_WALK_WEIGHT) * oscillators[part]!.read(source.phase);
        });
        return sum;
      }
      case 'pattern': {
        const { steps } = source;
        const place = (frame * source.rateHz) / sampleRate + source.phase * steps.length;
        const step = Math.floor(place);
        const value = (n: number) => steps[((n % steps.length) + steps.length) % steps.length]!;
        const edge = Math.min(0.5, EDGE_SECONDS * source.rateHz);
        const since = place - step;
        if (since >= edge) return value(step);
        return value(step - 1) + (value(step) - value(step - 1)) * smoothstep(since / edge);
      }
      case 'follower': {
        const db = this.level > FLOOR ? gainToDb(this.level * dbToGain(source.gainDb)) : -FOLLOWER_RANGE_DB;
        return 2 * Math.min(1, Math.max(0, 1 + db / FOLLOWER_RANGE_DB)) - 1;
      }
      case 'hand':
        return this.macroPosition;
    }
  }
}

function oscillatorsOf(source: PlanSource, sampleRate: number): LowFrequencyOscillator[] {
  if (source.kind === 'oscillator') {
    const oscillator = new LowFrequencyOscillator(sampleRate, source.seed);
    oscillator.configure(source.shape, source.rateHz);
    return [oscillator];
  }
  if (source.kind === 'walk') {
    return RANDOM_WALK.map(([rate], part) => {
      const oscillator = new LowFrequencyOscillator(sampleRate, source.seed + 31 * part);
      oscillator.configure('smoothRandom', source.rateHz * rate);
      return oscillator;
    });
  }
  return [];
}

/** Value of a parameter with its modulations, along its ruler. */
export function modulated(base: number, modulations: readonly Modulation[], frame: number, elapsed: number): number {
  if (modulations.length === 0) return base;
  const { ruler, stepped } = modulations[0]!.plan;
  let position = positionOf(ruler, base);
  for (const modulation of modulations) position += modulation.offsetAt(frame, elapsed);
  const value = exactValueAt(ruler, Math.min(1, Math.max(0, position)));
  return stepped ? Math.round(value) : value;
}
