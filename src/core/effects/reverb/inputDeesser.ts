import { FilterPair } from '../../dsp/filterPair';
import { Ramp } from '../../dsp/ramp';
import { exp, gainToDb } from '../../math/elementary';
import { settled } from '../../math/settled';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';
import { Band } from '../toneBand';

const TICK = 16;
const ATTACK_SECONDS = 0.002;
const RELEASE_SECONDS = 0.05;
const LEVEL_SECONDS = 0.004;
/** A sound is an ess from where its highs hold this much of its level, and wholly so this much above. */
const FROM_DB = -12;
const SPAN_DB = 6;
const FLOOR = 1e-8;
/** The shelf begins at this part of the frequency, so that it is all there an octave above. */
const SHELF = 0.75;

/**
 * Turns esses down ahead of a room: while what lies above a frequency holds most of the level, it is lowered. It judges
 * by the balance of the two and so does the same to a soft voice as to a loud one.
 */
export class InputDeesser {
  private readonly filter: FilterPair;
  private readonly shelf: Band;
  private readonly highLeft: Doubles;
  private readonly highRight: Doubles;
  private readonly amount = new Ramp(0);
  private readonly levelShare: number;
  private readonly attack: number;
  private readonly release: number;
  private high = 0;
  private whole = 0;
  private reduction = 0;
  private hz = 5000;
  private offset = TICK;

  constructor(memory: Arena, sampleRate: number) {
    this.filter = new FilterPair(memory, sampleRate);
    this.shelf = new Band(memory, sampleRate);
    this.highLeft = memory.doubles(MAXIMUM_BLOCK);
    this.highRight = memory.doubles(MAXIMUM_BLOCK);
    this.levelShare = 1 - exp(-1 / (LEVEL_SECONDS * sampleRate));
    this.attack = 1 - exp(-TICK / (ATTACK_SECONDS * sampleRate));
    this.release = 1 - exp(-TICK / (RELEASE_SECONDS * sampleRate));
  }

  /** @param amountDb the most it turns down */
  aim(amountDb: number, frames: number): void {
    this.amount.moveTo(amountDb, frames);
  }

  /** At ticks of the caller alone. */
  tune(hz: number): void {
    this.hz = hz;
    this.filter.configureBoth('highPass', hz, Math.SQRT1_2);
  }

  get works(): boolean {
    return !this.amount.settled || this.amount.value > 0 || this.reduction > 0;
  }

  reset(): void {
    this.filter.reset();
    this.shelf.arrange({ type: 'highShelf', slope: 12, channel: 0 });
    this.turn(0, 0);
    this.high = this.whole = 0;
    this.offset = TICK;
  }

  process(left: Doubles, right: Doubles, frames: number): void {
    if (!this.works) return;
    const { highLeft, highRight, levelShare, amount } = this;
    for (let i = 0; i < frames; i++) {
      highLeft[i] = left[i]!;
      highRight[i] = right[i]!;
    }
    this.filter.process(highLeft, highRight, frames);
    for (let from = 0; from < frames;) {
      if (this.offset === TICK) this.tick();
      const to = Math.min(frames, from + TICK - this.offset);
      let { high, whole } = this;
      for (let i = from; i < to; i++) {
        amount.next();
        const l = highLeft[i]!;
        const r = highRight[i]!;
        high += settled(levelShare * (l * l + r * r - high));
        whole += settled(levelShare * (left[i]! * left[i]! + right[i]! * right[i]! - whole));
      }
      this.high = high;
      this.whole = whole;
      this.shelf.process(left, right, to - from, from);
      this.offset += to - from;
      from = to;
    }
  }

  private tick(): void {
    const { high, whole } = this;
    this.offset = 0;
    const balance = whole < FLOOR ? -100 : 0.5 * (gainToDb(high + 1e-30) - gainToDb(whole));
    const share = Math.min(1, Math.max(0, (balance - FROM_DB) / SPAN_DB));
    const wanted = share * this.amount.value;
    const next = this.reduction + (wanted - this.reduction) * (wanted > this.reduction ? this.attack : this.release);
    this.turn(next < 1e-3 && wanted === 0 ? 0 : next, TICK);
  }

  private turn(reduction: number, frames: number): void {
    this.reduction = reduction;
    this.shelf.tune({ frequencyHz: SHELF * this.hz, gainDb: -reduction, q: Math.SQRT1_2 }, frames);
  }
}
