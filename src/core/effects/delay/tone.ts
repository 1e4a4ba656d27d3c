import type { Sides } from '../../dsp/sides';
import type { CurveName } from '../../dsp/curves';
import { DRIVE_LATENCY, driveAmount, driveLift, DriveStage, type Times } from '../../dsp/driveStage';
import { FilterPair } from '../../dsp/filterPair';
import type { FilterType } from '../../dsp/stateVariableFilter';
import type { Arena, Doubles } from '../../wasm/arena';
import { MAXIMUM_BLOCK } from '../kernel';

/** Arrangement of filter and drive of a line; a change of any of these crossfades to a new one. */
export interface ToneArrangement {
  readonly filter: FilterType | null;
  readonly stages: 1 | 2;
  readonly place: 'both' | 'heard' | 'loop';
  readonly filterFirst: boolean;
  /** Null when there is no drive. */
  readonly curve: CurveName | null;
  /** The medium saturates as well. */
  readonly worn: boolean;
  readonly times: Times;
}

export function sameArrangement(a: ToneArrangement, b: ToneArrangement): boolean {
  return (
    a.filter === b.filter &&
    a.stages === b.stages &&
    a.place === b.place &&
    a.filterFirst === b.filterFirst &&
    a.curve === b.curve &&
    a.worn === b.worn &&
    a.times === b.times
  );
}

/** Section Q of a fourth-order Butterworth response relative to the Q asked for. */
const FIRST_SECTION = 0.5411961 / Math.SQRT1_2;
const SECOND_SECTION = 1.306563 / Math.SQRT1_2;
/** The gain into a curve and the level made good after the line; both move in straight lines. */
export class Drive {
  gain = 1;
  step = 0;
  lift = 1;
  liftStep = 0;

  private curve: CurveName | null = null;
  private target = 0;
  private targetLift = 1;

  get still(): boolean {
    return this.step === 0 && this.liftStep === 0;
  }

  /** Goes on by `elapsed` frames and then towards `gain` over the next `frames`; 0 goes there at once. */
  aim(curve: CurveName, gain: number, elapsed: number, frames: number): void {
    if (curve !== this.curve || gain !== this.target) this.targetLift = driveLift(curve, gain);
    this.curve = curve;
    this.target = gain;
    const lift = this.targetLift;
    this.gain += this.step * elapsed;
    this.lift += this.liftStep * elapsed;
    this.step = frames === 0 ? 0 : (gain - this.gain) / frames;
    this.liftStep = frames === 0 ? 0 : (lift - this.lift) / frames;
    if (frames === 0 || this.step === 0) this.gain = gain;
    if (frames === 0 || this.liftStep === 0) this.lift = lift;
  }
}

/** Values of drive and medium for each frame of a stretch, the same for both channels of a line. */
export class DriveCourse {
  readonly drive: Doubles;
  readonly wear: Doubles;
  readonly amount: Doubles;
  /** The level made good where the line is heard. */
  readonly lift: Doubles;
  /** True if there is make-up gain. */
  lifted = false;
  /** Frames that are laid of what stands still. */
  private laid = 0;

  constructor(memory: Arena) {
    this.drive = memory.doubles(MAXIMUM_BLOCK);
    this.wear = memory.doubles(MAXIMUM_BLOCK);
    this.amount = memory.doubles(MAXIMUM_BLOCK);
    this.lift = memory.doubles(MAXIMUM_BLOCK);
  }

  /** @param offset frames since drive and wear were aimed */
  lay(drive: Drive, wear: Drive, offset: number, count: number): void {
    this.lifted = drive.lift !== 1 || wear.lift !== 1 || drive.liftStep !== 0 || wear.liftStep !== 0;
    const still = drive.still && wear.still;
    const lift = drive.lift * wear.lift;
    const same = drive.gain === this.drive[0] && wear.gain === this.wear[0] && lift === this.lift[0];
    if (still && same && count <= this.laid) return;
    this.laid = still ? count : 0;
    for (let i = 0; i < count; i++) {
      const at = offset + i;
      const first = drive.gain + drive.step * at;
      const second = wear.gain + wear.step * at;
      this.drive[i] = first;
      this.wear[i] = second;
      this.amount[i] = Math.max(driveAmount(first), driveAmount(second));
      this.lift[i] = (drive.lift + drive.liftStep * at) * (wear.lift + wear.liftStep * at);
    }
  }
}

/** Filter and drive of both channels on one path, in either order; both can be absent. */
class Tone {
  private readonly first: FilterPair;
  private readonly second: FilterPair;
  private readonly stages: readonly [DriveStage, DriveStage];

  constructor(
    memory: Arena,
    sampleRate: number,
    private arrangement: ToneArrangement,
    private filtered: boolean,
  ) {
    this.first = new FilterPair(memory, sampleRate);
    this.second = new FilterPair(memory, sampleRate);
    this.stages = [new DriveStage(memory, sampleRate), new DriveStage(memory, sampleRate)];
    this.arrange(arrangement, filtered);
  }

  /** Begins anew from silence. */
  arrange(arrangement: ToneArrangement, filtered: boolean): void {
    this.arrangement = arrangement;
    this.filtered = filtered && arrangement.filter !== null;
    this.first.reset();
    this.second.reset();
    for (const stage of this.stages) {
      stage.reset();
      stage.setCurves(arrangement.curve, arrangement.worn ? 'tape' : null, arrangement.times);
    }
  }

  tune(channel: 0 | 1, cutoffHz: number, q: number): void {
    const { filter, stages } = this.arrangement;
    if (filter === null || !this.filtered) return;
    this.first.configure(channel, filter, cutoffHz, stages === 1 ? q : q * FIRST_SECTION);
    if (stages === 2) this.second.configure(channel, filter, cutoffHz, q * SECOND_SECTION);
  }

  process([left, right]: Sides, frames: number, { drive, wear, amount }: DriveCourse): void {
    const { filterFirst } = this.arrangement;
    if (filterFirst) this.filter(left, right, frames);
    if (saturates(this.arrangement)) {
      this.stages[0].process(left, frames, drive, wear, amount);
      this.stages[1].process(right, frames, drive, wear, amount);
    }
    if (!filterFirst) this.filter(left, right, frames);
  }

  private filter(left: Doubles, right: Doubles, frames: number): void {
    if (!this.filtered) return;
    this.first.process(left, right, frames);
    if (this.arrangement.stages === 2) this.second.process(left, right, frames);
  }
}

function saturates({ curve, worn }: ToneArrangement): boolean {
  return curve !== null || worn;
}

/** A line from the tap on: what is heard and what goes round again. */
export class LinePath {
  private readonly heard: Tone;
  private readonly loop: Tone;

  constructor(
    memory: Arena,
    sampleRate: number,
    public arrangement: ToneArrangement,
  ) {
    this.heard = new Tone(memory, sampleRate, arrangement, false);
    this.loop = new Tone(memory, sampleRate, arrangement, false);
    this.arrange(arrangement);
  }

  /** Takes up another arrangement, from silence and not tuned yet. */
  arrange(arrangement: ToneArrangement): void {
    this.arrangement = arrangement;
    this.heard.arrange(arrangement, arrangement.place !== 'loop');
    this.loop.arrange(arrangement, arrangement.place === 'loop');
  }

  /** Frames by which the path must read ahead to make up for its oversampling; 0 when it does not saturate. */
  get lead(): number {
    return saturates(this.arrangement) ? DRIVE_LATENCY : 0;
  }

  /** True if the recirculating sound differs from the wet sound. */
  get apart(): boolean {
    return this.arrangement.place !== 'both' && this.arrangement.filter !== null;
  }

  tune(channel: 0 | 1, cutoffHz: number, q: number): void {
    this.heard.tune(channel, cutoffHz, q);
    if (this.apart) this.loop.tune(channel, cutoffHz, q);
  }

  /** Turns the tap's samples in `heard` into the heard ones and, where these are not the same, puts into `loop` those that go round. */
  process(heard: Sides, loop: Sides, frames: number, course: DriveCourse): void {
    if (this.apart) {
      for (let i = 0; i < frames; i++) {
        loop[0][i] = heard[0][i]!;
        loop[1][i] = heard[1][i]!;
      }
      this.loop.process(loop, frames, course);
    }
    this.heard.process(heard, frames, course);
  }
}
