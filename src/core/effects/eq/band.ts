import { MatchedFilter } from '../../dsp/matchedFilter';
import { cos, dbToGain } from '../../math/elementary';
import { EQ_SLOPES, EQ_TYPES } from './spec';

const PI = 3.141592653589793;
const HALF_POWER = Math.SQRT1_2;
/** Shelves steeper than this would overshoot. */
const STEEPEST_SHELF = 1;

/** What a change of crossfades to. */
export interface BandShape {
  readonly type: (typeof EQ_TYPES)[number];
  readonly slope: (typeof EQ_SLOPES)[number];
  /** Index into EQ_CHANNELS. */
  readonly channel: number;
}

/** What moves smoothly. */
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
    const angle = (PI * (order % 2 === 1 ? section + 1 : section + 0.5)) / order;
    return 0.5 / cos(angle);
  });
}

/** One channel of a band: one filter, or the sections of a cut. */
export class Band {
  private readonly sections: readonly MatchedFilter[];
  private readonly qs: readonly number[];
  private readonly firstOrder: boolean;

  constructor(
    sampleRate: number,
    private readonly type: BandShape['type'],
    slope: BandShape['slope'],
  ) {
    const order = type === 'lowCut' || type === 'highCut' ? slope / 6 : 2;
    this.firstOrder = order % 2 === 1;
    this.qs = order === 2 ? [HALF_POWER] : butterworth(order);
    this.sections = Array.from({ length: Math.ceil(order / 2) }, () => new MatchedFilter(sampleRate));
  }

  reset(): void {
    for (const section of this.sections) section.reset();
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
    this.qs.forEach((own, index) => {
      const sharpest = index === this.qs.length - 1;
      this.sections[index]!.configure({
        frequencyHz,
        q: sharpest ? (own * q) / HALF_POWER : own,
        n2: low,
        n1: 0,
        n0: 1 - low,
      });
    });
    if (this.firstOrder) this.sections.at(-1)!.configureFirstOrder({ frequencyHz, n1: low, n0: 1 - low });
  }

  process(block: Float64Array, frames: number, start: number): void {
    for (const section of this.sections) section.process(block, frames, start);
  }
}

/** Fourth root of the power gain of the lifting half: lowering is its inverse. */
function rootGain(gainDb: number): number {
  return Math.sqrt(dbToGain(gainDb < 0 ? -gainDb : gainDb));
}
