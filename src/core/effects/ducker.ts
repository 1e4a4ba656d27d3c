import { dbToGain, exp, gainToDb } from '../math/elementary';
import { settled } from '../math/settled';
import { MAXIMUM_BLOCK } from './kernel';
import { group, number, type Parameter } from './spec';

const TICK = 16;
const ATTACK_SECONDS = 0.006;
/** The level of the key falls by this much a second between its peaks, so that low tones read steadily. */
const FALL_SECONDS = 0.015;
const FLOOR = 1e-6;

/** Parameters that duck an effect's wet signal under a key. @param what the wet signal, as help calls it: `repeats` */
export const duckParameters = (what: string): Parameter[] =>
  group('Duck', [
    number({
      id: 'duckAmount',
      name: 'Duck',
      unit: 'dB',
      min: 0,
      max: 60,
      default: 0,
      scale: 'linear',
      help: `The most by which the ${what} sink while the dry sound, or the key, is loud.`,
    }),
    number({
      id: 'duckThreshold',
      name: 'From',
      needs: { id: 'duckAmount', not: 0 },
      unit: 'dB',
      min: -60,
      max: 0,
      default: -30,
      scale: 'linear',
      help: `Each decibel above this takes one away from the ${what}.`,
    }),
    number({
      id: 'duckRelease',
      name: 'Release',
      needs: { id: 'duckAmount', not: 0 },
      unit: 'ms',
      min: 10,
      max: 3000,
      default: 350,
      scale: 'log',
      help: `How slowly the ${what} rise again in the pauses.`,
    }),
  ]);

/**
 * Lowers what is heard while a key is loud: every decibel of the key's peak level over the threshold takes one away, up
 * to the amount; the level comes back exponentially, in decibels.
 */
export class Ducker {
  readonly gains = new Float64Array(MAXIMUM_BLOCK);
  /** Level now taken away in dB, 0 and down. */
  reductionDb = 0;
  private amountDb = 0;
  private thresholdDb = 0;
  private readonly attackFactor: number;
  private readonly fallFactor: number;
  private releaseFactor = 0;
  private level = 0;
  private gain = 1;
  private step = 0;
  private offset = TICK;

  constructor(private readonly sampleRate: number) {
    this.attackFactor = 1 - exp(-TICK / (ATTACK_SECONDS * sampleRate));
    this.fallFactor = exp(-1 / (FALL_SECONDS * sampleRate));
  }

  configure(amountDb: number, thresholdDb: number, releaseMs: number): void {
    this.amountDb = amountDb;
    this.thresholdDb = thresholdDb;
    this.releaseFactor = 1 - exp((-1000 * TICK) / (releaseMs * this.sampleRate));
  }

  reset(): void {
    this.level = 0;
    this.reductionDb = 0;
    this.gain = 1;
    this.step = 0;
    this.offset = TICK;
  }

  /** Works out `gains` for the next frames, or tells that there is nothing to do. */
  listen(left: Float32Array, right: Float32Array, frames: number): boolean {
    if (this.amountDb === 0 && this.reductionDb === 0 && this.gain === 1 && this.step === 0) return false;
    const { gains, fallFactor } = this;
    for (let i = 0; i < frames; i++) {
      if (this.offset === TICK) this.tick();
      this.offset++;
      const l = left[i]!;
      const r = right[i]!;
      const loud = Math.max(l < 0 ? -l : l, r < 0 ? -r : r);
      const fallen = this.level * fallFactor;
      this.level = loud > fallen ? loud : settled(fallen);
      gains[i] = this.gain;
      this.gain += this.step;
    }
    return true;
  }

  private tick(): void {
    this.offset = 0;
    const over = this.level > FLOOR ? gainToDb(this.level) - this.thresholdDb : 0;
    const wanted = over <= 0 ? 0 : -Math.min(this.amountDb, over);
    const away = wanted - this.reductionDb;
    this.reductionDb += away * (away < 0 ? this.attackFactor : this.releaseFactor);
    if (wanted === 0 && this.reductionDb > -1e-3) this.reductionDb = 0;
    const target = this.reductionDb === 0 ? 1 : dbToGain(this.reductionDb);
    this.step = (target - this.gain) / TICK;
    if (this.step > -1e-9 && this.step < 1e-9) {
      this.gain = target;
      this.step = 0;
    }
  }
}
