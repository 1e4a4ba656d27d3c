import { TwofoldOversampler } from '../../dsp/halfBand';
import { CURVES, reachOf, type DriveCurve } from '../../dsp/saturation';
import { StateVariableFilter, type FilterType } from '../../dsp/stateVariableFilter';

/** How filter and drive of a line are arranged; a change of any of these crossfades to a new arrangement. */
export interface ToneArrangement {
  readonly filter: FilterType | null;
  readonly stages: 1 | 2;
  readonly place: 'both' | 'heard' | 'loop';
  readonly filterFirst: boolean;
  /** Null when there is no drive. */
  readonly curve: DriveCurve | null;
}

export function sameArrangement(a: ToneArrangement, b: ToneArrangement): boolean {
  return (
    a.filter === b.filter &&
    a.stages === b.stages &&
    a.place === b.place &&
    a.filterFirst === b.filterFirst &&
    a.curve === b.curve
  );
}

/** Section Q of a fourth-order Butterworth response relative to the Q asked for. */
const FIRST_SECTION = 0.5411961 / Math.SQRT1_2;
const SECOND_SECTION = 1.306563 / Math.SQRT1_2;
/** The level that drive leaves as it is: louder is compressed, softer is lifted. */
const DRIVE_REFERENCE = 0.25;

/** Filter and drive of one channel on one path, in either order; both can be absent. */
export class Tone {
  private readonly first: StateVariableFilter;
  private readonly second: StateVariableFilter;
  private readonly oversampler = new TwofoldOversampler();

  constructor(
    sampleRate: number,
    private readonly arrangement: ToneArrangement,
    private readonly filtered: boolean,
  ) {
    this.first = new StateVariableFilter(sampleRate);
    this.second = new StateVariableFilter(sampleRate);
  }

  tune(cutoffHz: number, q: number): void {
    const { filter, stages } = this.arrangement;
    if (filter === null || !this.filtered) return;
    this.first.configure(filter, cutoffHz, stages === 1 ? q : q * FIRST_SECTION);
    if (stages === 2) this.second.configure(filter, cutoffHz, q * SECOND_SECTION);
  }

  /**
   * @param drive gain into the curve at the first frame, 1 and up
   * @param driveStep what it gains with each frame
   */
  process(block: Float64Array, frames: number, drive: number, driveStep: number): void {
    const { filterFirst, curve } = this.arrangement;
    if (filterFirst) this.filter(block, frames);
    if (curve !== null) {
      if (driveStep === 0) this.saturate(block, 0, frames, curve, drive);
      else for (let i = 0; i < frames; i++) this.saturate(block, i, 1, curve, drive + driveStep * i);
    }
    if (!filterFirst) this.filter(block, frames);
  }

  private saturate(block: Float64Array, start: number, frames: number, curve: DriveCurve, drive: number): void {
    const shape = CURVES[curve];
    const makeup = DRIVE_REFERENCE / reachOf(curve, DRIVE_REFERENCE * drive);
    this.oversampler.process(block, frames, (x) => shape(x * drive) * makeup, start);
  }

  private filter(block: Float64Array, frames: number): void {
    if (this.arrangement.filter === null || !this.filtered) return;
    this.first.process(block, frames);
    if (this.arrangement.stages === 2) this.second.process(block, frames);
  }
}

/** Both channels of a line from the tap on: what is heard and what goes round again. */
export class LinePath {
  /** Frames by which the path must read ahead to make up for its oversampling. */
  readonly lead: number;
  private readonly heard: readonly [Tone, Tone];
  private readonly loop: readonly [Tone, Tone] | null;

  constructor(
    sampleRate: number,
    readonly arrangement: ToneArrangement,
  ) {
    const { place } = arrangement;
    const tone = (filtered: boolean) => new Tone(sampleRate, arrangement, filtered);
    this.lead = arrangement.curve === null ? 0 : TwofoldOversampler.LATENCY;
    this.heard = [tone(place !== 'loop'), tone(place !== 'loop')];
    const same = place === 'both' || arrangement.filter === null;
    this.loop = same ? null : [tone(place === 'loop'), tone(place === 'loop')];
  }

  tune(channel: 0 | 1, cutoffHz: number, q: number): void {
    this.heard[channel].tune(cutoffHz, q);
    this.loop?.[channel].tune(cutoffHz, q);
  }

  /** Turns the tap's samples in `heard` into the heard ones, and puts into `loop` those that go round again. */
  process(
    channel: 0 | 1,
    heard: Float64Array,
    loop: Float64Array,
    frames: number,
    drive: number,
    driveStep: number,
  ): void {
    if (this.loop) {
      for (let i = 0; i < frames; i++) loop[i] = heard[i]!;
      this.loop[channel].process(loop, frames, drive, driveStep);
      this.heard[channel].process(heard, frames, drive, driveStep);
    } else {
      this.heard[channel].process(heard, frames, drive, driveStep);
      for (let i = 0; i < frames; i++) loop[i] = heard[i]!;
    }
  }
}
