import { MatchedFilter } from '../dsp/matchedFilter';
import { cos, dbToGain } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { EQ_SLOPES, EQ_TYPES } from './eq/spec';

const HALF_POWER = Math.SQRT1_2;
/** Shelves steeper than this would overshoot. */
const STEEPEST_SHELF = 1;

/** The filters that a change crossfades to. */
export interface BandShape {
  readonly type: (typeof EQ_TYPES)[number];
  readonly slope: (typeof EQ_SLOPES)[number];
  /** Index into EQ_CHANNELS. */
  readonly channel: number;
}

/** The values that ramp. */
export interface BandSetting {
  readonly frequencyHz: number;
  readonly gainDb: number;
  readonly q: number;
}

export function sameShape(a: BandShape | null, b: BandShape | null): boolean {
  return a === b || (a !== null && b !== null && a.type === b.type && a.slope === b.slope && a.channel === b.channel);
}

/** Q of each second-order section of a Butterworth filter, from the blunt to the sharp one. */
function butterworth(order: number): number[] {
  return Array.from({ length: Math.floor(order / 2) }, (_, section) => {
    const angle = (Math.PI * (order % 2 === 1 ? section + 1 : section + 0.5)) / order;
    return 0.5 / cos(angle);
  });
}

const orderOf = (type: BandShape['type'], slope: BandShape['slope']) =>
  type === 'lowCut' || type === 'highCut' ? slope / 6 : 2;
export const MOST_SECTIONS = Math.ceil(Math.max(...EQ_SLOPES) / 12);
/** By order. */
const QS = Array.from({ length: 2 * MOST_SECTIONS + 1 }, (_, order) =>
  order === 2 ? [HALF_POWER] : butterworth(order),
);

/** A band of two channels: one filter, or the sections of a cut. */
export class Band {
  /** As many as any shape needs; `count` of them are at work. */
  private readonly sections: readonly MatchedFilter[];
  private count = 1;
  private order = 2;
  private type: BandShape['type'] = 'bell';

  constructor(memory: Arena, sampleRate: number) {
    this.sections = Array.from({ length: MOST_SECTIONS }, () => new MatchedFilter(memory, sampleRate));
  }

  /** Begins from silence as another kind of filter; it is to be tuned then. */
  arrange({ type, slope }: BandShape): void {
    this.type = type;
    this.order = orderOf(type, slope);
    this.count = Math.ceil(this.order / 2);
    for (const section of this.sections) section.reset();
  }

  /** True if no coefficient is moving. */
  get still(): boolean {
    for (let n = 0; n < this.count; n++) if (!this.sections[n]!.still) return false;
    return true;
  }

  /** Puts the places of its sections into a list, from `at` on; returns how many are in it then. */
  list(places: Int32Array, at: number): number {
    for (let n = 0; n < this.count; n++) places[at + n] = this.sections[n]!.place;
    return at + this.count;
  }

  /** @param frames over which the filters go there; 0 is at once */
  tune({ frequencyHz, gainDb, q }: BandSetting, frames: number): void {
    for (const section of this.sections) section.glideFrames = frames;
    switch (this.type) {
      case 'bell': {
        const root = rootGain(gainDb);
        this.sections[0]!.configure({ frequencyHz, q: q * root, n2: 1, n1: root / q, n0: 1 }, gainDb < 0);
        return;
      }
      case 'lowShelf': {
        const a = rootGain(gainDb);
        const steep = Math.min(q, STEEPEST_SHELF);
        this.sections[0]!.configure(
          { frequencyHz: frequencyHz / Math.sqrt(a), q: steep, n2: 1, n1: a / steep, n0: a * a },
          gainDb < 0,
        );
        return;
      }
      case 'highShelf': {
        const a = rootGain(gainDb);
        const steep = Math.min(q, STEEPEST_SHELF);
        this.sections[0]!.configure(
          { frequencyHz: frequencyHz * Math.sqrt(a), q: steep, n2: a * a, n1: a / steep, n0: 1 },
          gainDb < 0,
        );
        return;
      }
      case 'notch':
        this.sections[0]!.configure({ frequencyHz, q, n2: 1, n1: 0, n0: 1 });
        return;
      case 'lowCut':
      case 'highCut':
        this.tuneCut(frequencyHz, q);
    }
  }

  /** The sharpest section rises with Q; at 0.71 the whole is a Butterworth response. */
  private tuneCut(frequencyHz: number, q: number): void {
    const low = this.type === 'lowCut' ? 1 : 0;
    const qs = QS[this.order]!;
    qs.forEach((own, index) => {
      const sharpest = index === qs.length - 1;
      this.sections[index]!.configure({
        frequencyHz,
        q: sharpest ? (own * q) / HALF_POWER : own,
        n2: low,
        n1: 0,
        n0: 1 - low,
      });
    });
    if (this.order % 2 === 1) this.sections[this.count - 1]!.configureFirstOrder({ frequencyHz, n1: low, n0: 1 - low });
  }

  process(left: Doubles, right: Doubles, frames: number, start: number): void {
    for (let n = 0; n < this.count; n++) this.sections[n]!.process(left, right, frames, start);
  }
}

/** Fourth root of the power gain of the lifting half: lowering is its inverse. */
function rootGain(gainDb: number): number {
  return Math.sqrt(dbToGain(gainDb < 0 ? -gainDb : gainDb));
}
