import { FilterPair } from '../../dsp/filterPair';
import { clamp } from '../../math/clamp';
import { dbToGain, exp, gainToDb } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';
import { CUT_OFF_LOW } from './spec';

/** Level that a voice is brought to, in dB of its mean power, the largest gain, and its time. */
const TARGET_DB = -20;
const MOST_DB = 18;
const LEVEL_SECONDS = 0.25;
/** Under this nothing is lifted. */
const FLOOR_DB = -55;
/** A voice hisses when its highs are this part of its highs and lows together: from not at all to altogether. */
const HISS_FROM = 0.35;
const HISS_TO = 0.75;
const HISS_HIGH_HZ = 4500;
const HISS_LOW_HZ = 1500;
const HISS_SECONDS = 0.006;

/** Makes a voice ready for a bank: cuts rumble, evens out its level, and tells where it hisses. */
export class VoiceChain {
  /** Share of unvoiced sound at the last analysis, 0 to 1. */
  private hiss = 0;
  /** Mean power of what comes out. */
  power = 0;
  private readonly rumble: FilterPair;
  /** Highs on the left, lows on the right. */
  private readonly bands: FilterPair;
  private readonly high: Doubles;
  private readonly low: Doubles;
  private highPower = 0;
  private lowPower = 0;
  private inPower = 0;
  private gain = 1;
  private gainStep = 0;
  private hissStep = 0;
  private cutHz = NaN;
  private readonly slow: number;
  private readonly fast: number;

  constructor(memory: Arena, sampleRate: number) {
    this.rumble = new FilterPair(memory, sampleRate, true);
    this.bands = new FilterPair(memory, sampleRate);
    this.bands.configure(0, 'highPass', HISS_HIGH_HZ, Math.SQRT1_2);
    this.bands.configure(1, 'lowPass', HISS_LOW_HZ, Math.SQRT1_2);
    this.high = memory.doubles(MAXIMUM_BLOCK);
    this.low = memory.doubles(MAXIMUM_BLOCK);
    this.slow = 1 - exp(-1 / (LEVEL_SECONDS * sampleRate));
    this.fast = 1 - exp(-1 / (HISS_SECONDS * sampleRate));
  }

  reset(): void {
    this.rumble.reset();
    this.bands.reset();
    this.highPower = this.lowPower = this.inPower = this.power = this.hiss = 0;
    this.gain = 1;
    this.gainStep = this.hissStep = 0;
    this.cutHz = NaN;
  }

  /**
   * Looks at what is set; to be called every `frames` frames.
   * @param levelling 0 to 1
   */
  aim(lowCutHz: number, levelling: number, frames: number): void {
    const cuts = lowCutHz > CUT_OFF_LOW;
    const over = lowCutHz === this.cutHz || Number.isNaN(this.cutHz) ? 0 : frames;
    for (const side of [0, 1] as const) {
      this.rumble.shape(side, lowCutHz, Math.SQRT2, 1, cuts ? -Math.SQRT2 : 0, cuts ? -1 : 0, over);
    }
    this.cutHz = lowCutHz;
    const db = this.inPower > 1e-12 ? gainToDb(Math.sqrt(this.inPower)) : -120;
    // Below the level of a voice the lift fades out smoothly.
    const heard = clamp(0, 1, (db - FLOOR_DB) / 10);
    const wanted = dbToGain(levelling * heard * clamp(-MOST_DB, MOST_DB, TARGET_DB - db));
    this.gainStep = (wanted - this.gain) / frames;
    const sum = this.highPower + this.lowPower;
    const part = sum > 1e-12 ? (this.highPower / sum - HISS_FROM) / (HISS_TO - HISS_FROM) : 0;
    this.hiss += frames * this.hissStep;
    this.hissStep = (smoothstep(clamp(0, 1, part)) - this.hiss) / frames;
  }

  /** In place; `spare` is written over. */
  process(voice: Doubles, spare: Doubles, frames: number): void {
    const { high, low, slow, fast } = this;
    this.rumble.process(voice, spare, frames);
    for (let i = 0; i < frames; i++) high[i] = low[i] = voice[i]!;
    this.bands.process(high, low, frames);
    for (let i = 0; i < frames; i++) {
      const x = voice[i]!;
      this.inPower += slow * (x * x - this.inPower);
      this.highPower += fast * (high[i]! * high[i]! - this.highPower);
      this.lowPower += fast * (low[i]! * low[i]! - this.lowPower);
      this.gain += this.gainStep;
      const y = this.gain * x;
      this.power += slow * (y * y - this.power);
      voice[i] = y;
    }
  }

  /** Gain of the levelling now, linear. */
  get lift(): number {
    return this.gain;
  }

  /** Share of unvoiced sound, 0 to 1, so many frames after the last analysis. */
  hissAt(passed: number): number {
    return this.hiss + passed * this.hissStep;
  }
}
