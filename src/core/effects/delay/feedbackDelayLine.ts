import type { Sides } from '../../dsp/sides';
import { LFO_SHAPES, LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { Ramp } from '../../dsp/ramp';
import { guardLoop } from '../../dsp/guard';
import { timesFor } from '../../dsp/driveStage';
import { balance } from '../../dsp/balance';
import { Narrowing } from '../../dsp/narrowing';
import { dbToGain, exp, log } from '../../math/elementary';
import { between } from '../../math/between';
import { smoothstep } from '../../math/smoothstep';
import type { Arena, Doubles } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK } from '../kernel';
import { RAMP_SECONDS } from '../parameterKernel';
import { itemParameterIndices } from '../parameterIndices';
import { DelayTap, TICK } from './delayTap';
import { DRIVE_CURVES, delaySpec, LONGEST_MS, SHORTEST_MS } from './spec';
import { Drive, DriveCourse, LinePath, sameArrangement, type ToneArrangement } from './tone';
import type { Degradation } from './degradation';

/** Places of a line's parameters. */
export const L = itemParameterIndices(delaySpec.lists[0]!, [
  'on',
  'timeLeft',
  'timeRight',
  'linked',
  'rightRatio',
  'feedback',
  'swap',
  'inputSide',
  'filterType',
  'cutoff',
  'resonance',
  'slope',
  'filterPlace',
  'filterOrder',
  'modDepth',
  'modRate',
  'modShape',
  'modPhase',
  'cutoffModDepth',
  'drive',
  'driveCurve',
  'level',
  'pan',
  'mute',
  'solo',
]);

/** Values from which the delays of a line are computed. */
const TIMES: ReadonlySet<number> = new Set([L.timeLeft, L.timeRight, L.linked, L.rightRatio]);
const FILTERS = [null, 'lowPass', 'highPass', 'bandPass', 'notch'] as const;
const PLACES = ['both', 'heard', 'loop'] as const;

const TONE_SECONDS = 0.02;

/** Values that all lines of a delay share in a stretch. */
export interface SharedBlock {
  readonly inputLeft: Doubles;
  readonly inputRight: Doubles;
  /** 0 turning to 1 while the lines are held. */
  readonly hold: Float64Array;
  readonly holding: boolean;
  /** Part of the processing that is done on mid and side instead of left and right, 0 to 1. */
  readonly sides: Doubles;
  /** True if `sides` is not 0. */
  readonly sided: boolean;
  readonly degradation: Degradation;
}

/**
 * One stereo delay line: tap, filter and drive, feedback with exchange of sides, level and pan. It works in
 * stretches, never longer than the shortest delay among the lines, so that each stage is a plain loop and the result
 * does not depend on the block length.
 */
export class FeedbackDelayLine {
  /** Output before level, pan and drive make-up, which other lines are fed. */
  readonly output: Sides;
  /** Nothing moved at the last tick nor has been asked to since: ticks can be passed over. */
  still = false;
  private readonly values: number[];
  private readonly taps: readonly [DelayTap, DelayTap];
  private readonly narrowing: Narrowing;
  private readonly oscillator: LowFrequencyOscillator;
  private path: LinePath;
  private oldPath: LinePath | null = null;
  /** A path that waits to take up the next arrangement. */
  private spare: LinePath;
  private readonly pathFade = new Ramp(1);
  private readonly feedback = new Ramp(0);
  private readonly swap = new Ramp(0);
  private readonly inputLeft = new Ramp(1);
  private readonly inputRight = new Ramp(1);
  private readonly gainLeft = new Ramp(1);
  private readonly gainRight = new Ramp(1);
  private readonly rampFrames: number;
  private readonly toneFactor: number;
  /** Current and target values of the smoothed settings. */
  private logCutoff = 0;
  private q = 1;
  private readonly drive = new Drive();
  private readonly degradationDrive = new Drive();
  private readonly course: DriveCourse;
  private logDrive = 0;
  private driveGain = 1;
  /** Tuning of the filters: logarithm of the cutoff in both channels, and Q. */
  private readonly tuned = new Float64Array(3).fill(NaN);
  private depth = 0;
  private cutoffDepth = 0;
  private logCutoffTarget = 0;
  private logDriveTarget = 0;
  private arrangement: ToneArrangement;
  private isDegraded = false;
  private sounding = false;
  private readonly loop: Sides;
  private readonly raw: Sides;
  private readonly fed: Sides;
  private readonly oldHeard: Sides;
  private readonly oldLoop: Sides;
  private readonly gains: Doubles;
  private readonly moreGains: Doubles;
  private readonly wasmKernels = wasm().kernels;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
    values: readonly number[],
    seed: number,
  ) {
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.output = [block(), block()];
    this.loop = [block(), block()];
    this.raw = [block(), block()];
    this.fed = [block(), block()];
    this.oldHeard = [block(), block()];
    this.oldLoop = [block(), block()];
    this.gains = block();
    this.moreGains = block();
    this.course = new DriveCourse(memory);
    this.values = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.toneFactor = 1 - exp(-TICK / (TONE_SECONDS * sampleRate));
    this.taps = [new DelayTap(memory, sampleRate, 1), new DelayTap(memory, sampleRate, 1)];
    this.narrowing = new Narrowing(memory, sampleRate);
    this.oscillator = new LowFrequencyOscillator(sampleRate, seed);
    this.arrangement = this.wantedArrangement();
    this.path = new LinePath(memory, sampleRate, this.arrangement);
    this.spare = new LinePath(memory, sampleRate, this.arrangement);
    this.reset(0);
  }

  /** @param audible false when another line is soloed or this one muted */
  setAudible(audible: boolean, frames: number): void {
    const level = this.values[L.level]!;
    const gain = audible && level > -100 ? dbToGain(level) : 0;
    const sides = balance(this.values[L.pan]! / 100);
    this.gainLeft.moveTo(gain * sides.left, frames);
    this.gainRight.moveTo(gain * sides.right, frames);
  }

  get silent(): boolean {
    const { gainLeft, gainRight } = this;
    return gainLeft.idle && gainRight.idle;
  }

  setParameter(index: number, value: number, frames: number | undefined): void {
    this.values[index] = value;
    this.aim(frames ?? this.rampFrames);
    const steady = frames !== undefined && frames > 0 && frames <= TICK;
    if (TIMES.has(index)) {
      this.taps[0].aim(steady ? this.exactFrames(0) : this.restFrames(0), steady ? frames : 0);
      this.taps[1].aim(steady ? this.exactFrames(1) : this.restFrames(1), steady ? frames : 0);
    }
  }

  /** True if the medium saturates. */
  setDegraded(worn: boolean): void {
    if (worn === this.isDegraded) return;
    this.isDegraded = worn;
    this.aim(this.rampFrames);
  }

  /** The next `locate` goes to its place at once. */
  suspend(): void {
    this.sounding = false;
  }

  locate(frame: number): void {
    this.oscillator.locate(frame, 0, this.sounding);
  }

  /** @param shift frames by which worn lines read late */
  reset(shift: number): void {
    this.aim(0);
    this.arrangement = this.wantedArrangement();
    this.path.arrange(this.arrangement);
    this.tuned.fill(NaN);
    if (this.oldPath) this.spare = this.oldPath;
    this.oldPath = null;
    this.pathFade.moveTo(1, 0);
    const v = this.values;
    this.logCutoff = this.logCutoffTarget;
    this.logDrive = this.logDriveTarget;
    this.q = v[L.resonance]!;
    this.driveGain = exp(this.logDrive);
    this.drive.aim(this.driveCurve, this.driveGain, 0, 0);
    this.degradationDrive.aim('tape', 1, 0, 0);
    this.depth = v[L.modDepth]! / 100;
    this.cutoffDepth = v[L.cutoffModDepth]!;
    this.taps[0].reset(this.restFrames(0), this.depth * this.oscillator.read(0), shift);
    this.taps[1].reset(this.restFrames(1), this.depth * this.oscillator.read(v[L.modPhase]! / 360), shift);
    this.narrowing.reset();
    this.sounding = false;
  }

  /** Longest way through the line once, in seconds. */
  get reachSeconds(): number {
    const longest = Math.max(this.exactFrames(0), this.exactFrames(1)) / this.sampleRate;
    return longest * (1 + this.values[L.modDepth]! / 100) + 0.05;
  }

  /** By how much what goes round is louder where it is heard. */
  get heardGain(): number {
    return this.drive.lift * this.degradationDrive.lift;
  }

  private get driveCurve() {
    return DRIVE_CURVES[this.values[L.driveCurve]!]!;
  }

  private aim(frames: number): void {
    this.still = false;
    const v = this.values;
    this.feedback.moveTo(v[L.feedback]! / 100, frames);
    this.swap.moveTo(v[L.swap]!, frames);
    this.inputLeft.moveTo(v[L.inputSide] === 2 ? 0 : 1, frames);
    this.inputRight.moveTo(v[L.inputSide] === 1 ? 0 : 1, frames);
    this.oscillator.configure(LFO_SHAPES[v[L.modShape]!]!, v[L.modRate]!);
    this.logCutoffTarget = log(v[L.cutoff]!);
    this.logDriveTarget = log(dbToGain(v[L.drive]!));
    this.arrangement = this.wantedArrangement();
  }

  private wantedArrangement(): ToneArrangement {
    const v = this.values;
    const drive = v[L.drive]!;
    const curve = drive > 0 ? this.driveCurve : null;
    return {
      filter: FILTERS[v[L.filterType]!]!,
      stages: v[L.slope] === 1 ? 2 : 1,
      place: PLACES[v[L.filterPlace]!]!,
      filterFirst: v[L.filterOrder] === 0,
      curve,
      worn: this.isDegraded,
      times: timesFor(curve, dbToGain(drive), this.isDegraded ? 'tape' : null),
    };
  }

  private exactFrames(channel: 0 | 1): number {
    const v = this.values;
    const left = v[L.timeLeft]!;
    const linked = Math.min(LONGEST_MS, Math.max(SHORTEST_MS, left * (v[L.rightRatio]! / 100)));
    const ms = channel === 0 ? left : v[L.linked] ? linked : v[L.timeRight]!;
    return (ms / 1000) * this.sampleRate;
  }

  /** Whole frames at rest; exact ones while the time swings. */
  private restFrames(channel: 0 | 1): number {
    const exact = this.exactFrames(channel);
    return this.values[L.modDepth]! > 0 ? exact : Math.round(exact);
  }

  private towards(now: number, target: number): number {
    const away = target - now;
    return away < 1e-6 && away > -1e-6 ? target : now + away * this.toneFactor;
  }

  /** Prepares the next TICK frames, `elapsed` frames after the last call. */
  tick(elapsed: number, glide: boolean, wear: Degradation): void {
    const v = this.values;
    this.depth = this.towards(this.depth, v[L.modDepth]! / 100);
    this.cutoffDepth = this.towards(this.cutoffDepth, v[L.cutoffModDepth]!);
    this.logCutoff = this.towards(this.logCutoff, this.logCutoffTarget);
    this.q = this.towards(this.q, v[L.resonance]!);
    const logDrive = this.towards(this.logDrive, this.logDriveTarget);
    if (logDrive !== this.logDrive) this.driveGain = exp(logDrive);
    this.logDrive = logDrive;
    this.drive.aim(this.driveCurve, this.driveGain, elapsed, TICK);
    this.degradationDrive.aim('tape', wear.warmth, elapsed, TICK);

    if (this.oldPath && this.pathFade.settled) {
      this.spare = this.oldPath;
      this.oldPath = null;
    }
    if (!this.oldPath && !sameArrangement(this.arrangement, this.path.arrangement)) {
      this.oldPath = this.path;
      this.path = this.spare;
      this.path.arrange(this.arrangement);
      this.tuned.fill(NaN);
      this.pathFade.moveTo(0, 0);
      this.pathFade.moveTo(1, this.rampFrames);
    }

    this.oscillator.advance(elapsed);
    const ahead = (TICK * v[L.modRate]!) / this.sampleRate;
    const swings = this.depth !== 0 || this.cutoffDepth !== 0;
    const left = swings ? this.oscillator.read(ahead) : 0;
    const right = swings ? this.oscillator.read(ahead + v[L.modPhase]! / 360) : 0;
    this.tune(left, right);
    for (const channel of [0, 1] as const) {
      const tap = this.taps[channel];
      if (tap.free) tap.aim(this.restFrames(channel), 0);
      tap.tick(elapsed, this.depth * (channel === 0 ? left : right), wear.shift, glide);
      if (wear.narrow) this.narrowing.tune(channel, wear.bottomHz, wear.topHz(tap.frames(TICK) / this.sampleRate));
    }
    this.sounding = true;
    this.still =
      !swings &&
      !wear.active &&
      this.oldPath === null &&
      this.drive.step === 0 &&
      this.degradationDrive.step === 0 &&
      this.depth === v[L.modDepth]! / 100 &&
      this.cutoffDepth === v[L.cutoffModDepth] &&
      this.logCutoff === this.logCutoffTarget &&
      this.q === v[L.resonance] &&
      this.taps[0].resting &&
      this.taps[1].resting;
  }

  private tune(left: number, right: number): void {
    const { tuned, path, oldPath } = this;
    if (path.arrangement.filter === null && !oldPath) return;
    const first = this.logCutoff + this.cutoffDepth * left * Math.LN2;
    const second = this.logCutoff + this.cutoffDepth * right * Math.LN2;
    if (tuned[0] === first && tuned[1] === second && tuned[2] === this.q) return;
    tuned[0] = first;
    tuned[1] = second;
    tuned[2] = this.q;
    for (const channel of [0, 1] as const) {
      const cutoff = exp(tuned[channel]!);
      path.tune(channel, cutoff, this.q);
      oldPath?.tune(channel, cutoff, this.q);
    }
  }

  /** The delays it reads at now, in seconds. */
  delaySeconds(channel: 0 | 1, offset: number): number {
    return this.taps[channel].frames(Math.min(offset, TICK)) / this.sampleRate;
  }

  /** True if its output does not feed itself. */
  get hasFeedback(): boolean {
    return !this.feedback.settled || this.feedback.value !== 0;
  }

  /** Frames that can be read from here before something must be written. */
  readable(offset: number, holding: boolean): number {
    const lead = Math.max(this.path.lead, this.oldPath?.lead ?? 0);
    return Math.min(this.taps[0].readable(offset, lead, holding), this.taps[1].readable(offset, lead, holding));
  }

  /**
   * Works out what it puts out and what goes round again, for the next `count` frames.
   * @param written frames of these that have been written already: all of them for a line that nothing of it goes back into
   */
  read(offset: number, count: number, holding: boolean, written: number): void {
    const { path, oldPath, oldHeard, oldLoop, course } = this;
    const saturates = path.lead > 0 || (oldPath?.lead ?? 0) > 0;
    if (saturates) course.lay(this.drive, this.degradationDrive, offset, count);
    else course.lifted = false;
    const [left, right] = this.taps;
    DelayTap.readBoth(left, right, this.output[0], this.output[1], offset, count, path.lead, written);
    path.process(this.output, this.loop, count, course);
    if (holding) {
      left.readRound(this.raw[0], count);
      right.readRound(this.raw[1], count);
    }
    if (!oldPath) return;
    left.read(oldHeard[0], offset, count, oldPath.lead, written);
    right.read(oldHeard[1], offset, count, oldPath.lead, written);
    oldPath.process(oldHeard, oldLoop, count, course);
    const fadeAt = this.pathFade.value;
    const fadeSlope = 1 / this.rampFrames;
    for (const side of [0, 1] as const) {
      const [heard, oldSide] = [this.output[side], oldHeard[side]];
      const loop = this.loop[side];
      const before = oldPath.apart ? oldLoop[side] : oldSide;
      const after = path.apart ? loop : heard;
      for (let i = 0; i < count; i++) {
        // The new path starts cold: a smooth beginning keeps its first frames out of the mixture.
        const weight = smoothstep(Math.min(1, fadeAt + fadeSlope * i));
        const old = before[i]!;
        loop[i] = old + weight * (after[i]! - old);
        heard[i] = between(oldSide[i]!, heard[i]!, weight);
      }
    }
    this.pathFade.pass(count);
  }

  /** The recirculating sound. */
  private get rounds(): Sides {
    return this.path.apart || this.oldPath ? this.loop : this.output;
  }

  /** True if its output has make-up gain for its drive, which what it feeds to others has not. */
  get lifted(): boolean {
    return this.course.lifted;
  }

  /**
   * Adds what is heard to the output, at this line's level and pan.
   * @param plain takes the same without the loudness made good, for lines that are fed by all of them; null when none is
   */
  send(out: Sides, start: number, count: number, around: SharedBlock, plain: Sides | null): void {
    const { gains, moreGains, gainLeft, gainRight, course } = this;
    const steady = gainLeft.settled && gainRight.settled;
    const first = gainLeft.value;
    const second = gainRight.value;
    if (!steady) {
      gainLeft.fill(gains, count);
      gainRight.fill(moreGains, count);
    }
    const lift = course.lifted ? course.lift.byteOffset : 0;
    if (plain) this.place(plain, start, count, around, steady, first, second, 0);
    this.place(out, start, count, around, steady, first, second, lift);
  }

  private place(
    out: Sides,
    start: number,
    count: number,
    { sides, sided }: SharedBlock,
    steady: boolean,
    first: number,
    second: number,
    lift: number,
  ): void {
    const { output, gains, moreGains } = this;
    this.wasmKernels.addHeard(
      output[0].byteOffset,
      output[1].byteOffset,
      out[0].byteOffset + 8 * start,
      out[1].byteOffset + 8 * start,
      first,
      second,
      steady ? 0 : gains.byteOffset,
      moreGains.byteOffset,
      lift,
      sided ? sides.byteOffset + 8 * start : 0,
      count,
    );
  }

  /** Begins what is written: input and feedback. */
  begin(start: number, count: number, around: SharedBlock, input: Ramp): void {
    const { fed, feedback, swap, inputLeft, inputRight, gains, rounds } = this;
    const steady = feedback.settled && swap.settled && inputLeft.settled && inputRight.settled;
    const open = input.settled;
    const exchanged = swap.value === 1;
    if (steady && (exchanged || swap.value === 0) && inputLeft.value === 1 && inputRight.value === 1) {
      const gain = input.value;
      if (!open) input.fill(gains, count);
      for (const side of [0, 1] as const) {
        const from = (side === 0 ? around.inputLeft : around.inputRight).byteOffset + 8 * start;
        const given = open ? 0 : gains.byteOffset;
        const round = rounds[exchanged === (side === 0) ? 1 : 0].byteOffset;
        this.wasmKernels.mixScaled(fed[side].byteOffset, from, gain, given, round, feedback.value, count);
      }
      return;
    }
    input.fill(gains, count);
    const [fedLeft, fedRight] = fed;
    const [loopLeft, loopRight] = rounds;
    for (let i = 0; i < count; i++) {
      const at = start + i;
      const gain = feedback.next();
      const exchange = swap.next();
      const roundLeft = exchange === 1 ? loopRight[i]! : loopLeft[i]! + exchange * (loopRight[i]! - loopLeft[i]!);
      const roundRight = exchange === 1 ? loopLeft[i]! : loopRight[i]! + exchange * (loopLeft[i]! - loopRight[i]!);
      const inLeft = inputLeft.next();
      const inRight = inputRight.next();
      // With one side closed the open one takes the mean of both, so that nothing of the sound is lost.
      const spill = 0.5 * (inLeft + inRight);
      const l = around.inputLeft[at]! * spill + (1 - inRight) * 0.5 * around.inputRight[at]!;
      const r = around.inputRight[at]! * spill + (1 - inLeft) * 0.5 * around.inputLeft[at]!;
      fedLeft[i] = l * inLeft * gains[i]! + gain * roundLeft;
      fedRight[i] = r * inRight * gains[i]! + gain * roundRight;
    }
  }

  /** Adds to what is written; `from` is where the two blocks begin. */
  take([left, right]: Sides, from: number, count: number, gain: Ramp): void {
    const { fed, gains, wasmKernels } = this;
    const steady = gain.settled;
    const { value } = gain;
    if (!steady) gain.fill(gains, count);
    const given = steady ? 0 : gains.byteOffset;
    wasmKernels.addScaled(fed[0].byteOffset, left.byteOffset + 8 * from, value, given, count);
    wasmKernels.addScaled(fed[1].byteOffset, right.byteOffset + 8 * from, value, given, count);
  }

  /** Writes what it was fed into the line; a held line writes what it holds. */
  finish(start: number, count: number, around: SharedBlock): void {
    const { fed, narrowing, wasmKernels } = this;
    const { degradation } = around;
    if (degradation.noisy) {
      wasmKernels.addScaled(fed[0].byteOffset, degradation.left.byteOffset, 1, 0, count);
      wasmKernels.addScaled(fed[1].byteOffset, degradation.right.byteOffset, 1, 0, count);
    }
    if (degradation.narrow) narrowing.process(fed[0], fed[1], count);
    else narrowing.rest(fed[0][count - 1]!, fed[1][count - 1]!);
    if (around.holding) this.hold(start, count, around.hold);
    this.taps[0].write(fed[0], count, !around.holding);
    this.taps[1].write(fed[1], count, !around.holding);
  }

  private hold(start: number, count: number, hold: Float64Array): void {
    const [fedLeft, fedRight] = this.fed;
    const [rawLeft, rawRight] = this.raw;
    const exchange = this.values[L.swap]!;
    for (let i = 0; i < count; i++) {
      const weight = hold[start + i]!;
      fedLeft[i] = guardLoop(fedLeft[i]!);
      fedRight[i] = guardLoop(fedRight[i]!);
      const left = exchange ? rawRight[i]! : rawLeft[i]!;
      const right = exchange ? rawLeft[i]! : rawRight[i]!;
      fedLeft[i] = fedLeft[i]! + weight * (left - fedLeft[i]!);
      fedRight[i] = fedRight[i]! + weight * (right - fedRight[i]!);
    }
  }
}
