import { reachOf, SMOOTHED_CURVES, type SmoothedCurveName } from '../../dsp/antialiasedCurve';
import { HalfBandStage } from '../../dsp/halfBandStage';
import { StateVariableFilter, type FilterType } from '../../dsp/stateVariableFilter';
import { MAXIMUM_BLOCK } from '../kernel';

/** How filter and drive of a line are arranged; a change of any of these crossfades to a new arrangement. */
export interface ToneArrangement {
  readonly filter: FilterType | null;
  readonly stages: 1 | 2;
  readonly place: 'both' | 'heard' | 'loop';
  readonly filterFirst: boolean;
  /** Null when there is no drive. */
  readonly curve: SmoothedCurveName | null;
  /** The medium saturates as well. */
  readonly worn: boolean;
}

export function sameArrangement(a: ToneArrangement, b: ToneArrangement): boolean {
  return (
    a.filter === b.filter &&
    a.stages === b.stages &&
    a.place === b.place &&
    a.filterFirst === b.filterFirst &&
    a.curve === b.curve &&
    a.worn === b.worn
  );
}

/** Section Q of a fourth-order Butterworth response relative to the Q asked for. */
const FIRST_SECTION = 0.5411961 / Math.SQRT1_2;
const SECOND_SECTION = 1.306563 / Math.SQRT1_2;
/** The level that drive leaves as it is: louder is compressed, softer is lifted. */
const DRIVE_REFERENCE = 0.25;
const PAIRS = 6;
const STOPBAND_DB = 80;
/** Frames by which saturating delays the sound. */
const LATENCY = 2 * PAIRS - 1;

/** The gain into a curve and the one after it, which keeps the reference level; both move in straight lines. */
export class Drive {
  gain = 1;
  step = 0;
  makeup = 1;
  makeupStep = 0;

  /** Goes on by `elapsed` frames and then towards `gain` over the next `frames`; 0 goes there at once. */
  aim(curve: SmoothedCurveName, gain: number, elapsed: number, frames: number): void {
    const makeup = DRIVE_REFERENCE / reachOf(curve, DRIVE_REFERENCE * gain);
    this.gain += this.step * elapsed;
    this.makeup += this.makeupStep * elapsed;
    this.step = frames === 0 ? 0 : (gain - this.gain) / frames;
    this.makeupStep = frames === 0 ? 0 : (makeup - this.makeup) / frames;
    if (frames === 0 || this.step === 0) this.gain = gain;
    if (frames === 0 || this.makeupStep === 0) this.makeup = makeup;
  }
}

/** Filter and drive of one channel on one path, in either order; both can be absent. */
class Tone {
  private readonly first: StateVariableFilter;
  private readonly second: StateVariableFilter;
  private readonly stage: HalfBandStage | null;
  private readonly twice: Float64Array;

  constructor(
    sampleRate: number,
    private readonly arrangement: ToneArrangement,
    private readonly filtered: boolean,
  ) {
    const saturates = arrangement.curve !== null || arrangement.worn;
    this.first = new StateVariableFilter(sampleRate);
    this.second = new StateVariableFilter(sampleRate);
    this.stage = saturates ? new HalfBandStage(PAIRS, STOPBAND_DB, MAXIMUM_BLOCK) : null;
    this.twice = new Float64Array(saturates ? 2 * MAXIMUM_BLOCK : 0);
  }

  tune(cutoffHz: number, q: number): void {
    const { filter, stages } = this.arrangement;
    if (filter === null || !this.filtered) return;
    this.first.configure(filter, cutoffHz, stages === 1 ? q : q * FIRST_SECTION);
    if (stages === 2) this.second.configure(filter, cutoffHz, q * SECOND_SECTION);
  }

  /** @param offset frames since drive and wear were aimed */
  process(block: Float64Array, frames: number, drive: Drive, wear: Drive, offset: number): void {
    const { filterFirst } = this.arrangement;
    if (filterFirst) this.filter(block, frames);
    if (this.stage) this.saturate(this.stage, block, frames, drive, wear, offset);
    if (!filterFirst) this.filter(block, frames);
  }

  private saturate(
    stage: HalfBandStage,
    block: Float64Array,
    frames: number,
    drive: Drive,
    wear: Drive,
    offset: number,
  ): void {
    const { twice } = this;
    const { curve, worn } = this.arrangement;
    stage.up(block, frames, twice);
    if (curve !== null) shape(twice, frames, curve, drive, offset);
    if (worn) shape(twice, frames, 'tape', wear, offset);
    stage.down(twice, frames, block);
  }

  private filter(block: Float64Array, frames: number): void {
    if (this.arrangement.filter === null || !this.filtered) return;
    this.first.process(block, frames);
    if (this.arrangement.stages === 2) this.second.process(block, frames);
  }
}

/** A curve on a block of twice as many samples as frames. */
function shape(twice: Float64Array, frames: number, name: SmoothedCurveName, drive: Drive, offset: number): void {
  if (drive.step === 0 && drive.makeupStep === 0 && (name === 'soft' || name === 'tape')) {
    const steady = name === 'soft' ? shapeSoft : shapeTape;
    return steady(twice, 2 * frames, drive.gain, drive.makeup);
  }
  const { at } = SMOOTHED_CURVES[name];
  const { gain, step, makeup, makeupStep } = drive;
  for (let i = 0; i < frames; i++) {
    const into = gain + step * (offset + i);
    const after = makeup + makeupStep * (offset + i);
    twice[2 * i] = at(twice[2 * i]! * into) * after;
    twice[2 * i + 1] = at(twice[2 * i + 1]! * into) * after;
  }
}

/** The two curves that are used most, each in a loop of its own, which the machine runs twice as fast. */
const soft = SMOOTHED_CURVES.soft.at;
function shapeSoft(block: Float64Array, length: number, gain: number, makeup: number): void {
  for (let i = 0; i < length; i++) block[i] = soft(block[i]! * gain) * makeup;
}

const tape = SMOOTHED_CURVES.tape.at;
function shapeTape(block: Float64Array, length: number, gain: number, makeup: number): void {
  for (let i = 0; i < length; i++) block[i] = tape(block[i]! * gain) * makeup;
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
    this.lead = arrangement.curve === null && !arrangement.worn ? 0 : LATENCY;
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
    drive: Drive,
    wear: Drive,
    offset: number,
  ): void {
    if (this.loop) {
      for (let i = 0; i < frames; i++) loop[i] = heard[i]!;
      this.loop[channel].process(loop, frames, drive, wear, offset);
    }
    this.heard[channel].process(heard, frames, drive, wear, offset);
    if (!this.loop) for (let i = 0; i < frames; i++) loop[i] = heard[i]!;
  }
}
