import { LFO_SHAPES, LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { Ramp } from '../../dsp/ramp';
import { DRIVE_CURVES, guard } from '../../dsp/saturation';
import { cos, dbToGain, exp, log } from '../../math/elementary';
import { DelayTap, TICK } from './delayTap';
import { LinePath, sameArrangement, type ToneArrangement } from './tone';

/** Places of a line's parameters, in the order of the spec. */
export const enum LineParameter {
  timeLeft,
  timeRight,
  linked,
  feedback,
  swap,
  inputSide,
  filterType,
  cutoff,
  resonance,
  slope,
  filterPlace,
  filterOrder,
  drive,
  driveCurve,
  modDepth,
  modRate,
  modShape,
  modPhase,
  cutoffModDepth,
  level,
  pan,
  mute,
  solo,
}

const FILTERS = [null, 'lowPass', 'highPass', 'bandPass', 'notch'] as const;
const PLACES = ['both', 'heard', 'loop'] as const;

const RAMP_SECONDS = 0.02;
const TONE_SECONDS = 0.02;
const HALF_PI = 1.5707963267948966;
const LN2 = 0.6931471805599453;
/** The loop is linear to full scale and saturates softly above; what is heard stays under +6 dBFS. */
const LOOP_KNEE = 1;
const LOOP_LIMIT = 1.5;
const HEARD_KNEE = 1.5;
const HEARD_LIMIT = 1.95;

/**
 * One stereo delay line: tap, filter and drive, feedback with exchange of sides, level and pan. It works in short
 * stretches, never longer than the shortest delay, so that each stage is a plain loop and the result does not depend
 * on the block length.
 */
export class EchoLine {
  private readonly values: number[];
  private readonly taps: readonly [DelayTap, DelayTap];
  private readonly oscillator: LowFrequencyOscillator;
  private path: LinePath;
  private oldPath: LinePath | null = null;
  private readonly pathFade = new Ramp(1);
  private readonly feedback = new Ramp(0);
  private readonly swap = new Ramp(0);
  private readonly inputLeft = new Ramp(1);
  private readonly inputRight = new Ramp(1);
  private readonly gainLeft = new Ramp(1);
  private readonly gainRight = new Ramp(1);
  private readonly rampFrames: number;
  private readonly toneFactor: number;
  private logCutoff = 0;
  private q = 1;
  private drive = 1;
  private depth = 0;
  private cutoffDepth = 0;
  /** Frames already used of the running tick. */
  private offset = TICK;
  private sounding = false;
  private readonly heard = [new Float64Array(TICK), new Float64Array(TICK)] as const;
  private readonly loop = [new Float64Array(TICK), new Float64Array(TICK)] as const;
  private readonly oldHeard = new Float64Array(TICK);
  private readonly oldLoop = new Float64Array(TICK);

  constructor(
    private readonly sampleRate: number,
    values: readonly number[],
    seed: number,
  ) {
    this.values = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.toneFactor = 1 - exp(-TICK / (TONE_SECONDS * sampleRate));
    this.taps = [new DelayTap(sampleRate, 1), new DelayTap(sampleRate, 1)];
    this.oscillator = new LowFrequencyOscillator(sampleRate, seed);
    this.path = new LinePath(sampleRate, this.arrangement());
    this.reset();
  }

  /** @param audible false when another line is soloed or this one muted */
  setAudible(audible: boolean, frames = this.rampFrames): void {
    const level = this.values[LineParameter.level]!;
    const gain = audible && level > -100 ? dbToGain(level) : 0;
    const pan = this.values[LineParameter.pan]! / 100;
    this.gainLeft.moveTo(pan > 0 ? (pan >= 1 ? 0 : gain * cos(pan * HALF_PI)) : gain, frames);
    this.gainRight.moveTo(pan < 0 ? (pan <= -1 ? 0 : gain * cos(pan * HALF_PI)) : gain, frames);
  }

  get soloed(): boolean {
    return this.values[LineParameter.solo] === 1;
  }

  get muted(): boolean {
    return this.values[LineParameter.mute] === 1;
  }

  setParameter(index: LineParameter, value: number): void {
    this.values[index] = value;
    this.aim(this.rampFrames);
  }

  locate(frame: number): void {
    this.oscillator.locate(frame, 0, this.sounding);
  }

  reset(): void {
    this.aim(0);
    this.path = new LinePath(this.sampleRate, this.arrangement());
    this.oldPath = null;
    this.pathFade.moveTo(1, 0);
    const v = this.values;
    this.logCutoff = log(v[LineParameter.cutoff]!);
    this.q = v[LineParameter.resonance]!;
    this.drive = dbToGain(v[LineParameter.drive]!);
    this.depth = v[LineParameter.modDepth]! / 100;
    this.cutoffDepth = v[LineParameter.cutoffModDepth]!;
    this.taps[0].reset(this.wantedFrames(0), this.depth * this.oscillator.read(0));
    this.taps[1].reset(this.wantedFrames(1), this.depth * this.oscillator.read(v[LineParameter.modPhase]! / 360));
    this.offset = TICK;
    this.sounding = false;
  }

  /** Seconds until repeats have fallen by 90 dB. */
  tailSeconds(): number {
    const v = this.values;
    const longest = Math.max(v[LineParameter.timeLeft]!, v[LineParameter.linked]! ? 0 : v[LineParameter.timeRight]!);
    const reach = (longest / 1000) * (1 + v[LineParameter.modDepth]! / 100) + 0.05;
    const gain = Math.abs(v[LineParameter.feedback]!) / 100;
    if (gain === 0) return reach;
    if (gain >= 1 || v[LineParameter.drive]! > 0) {
      const driven = v[LineParameter.drive]! > 0 ? gain * dbToGain(v[LineParameter.drive]!) : gain;
      if (driven >= 1) return Infinity;
      return reach * (1 + Math.ceil(log(3.16e-5) / log(driven)));
    }
    return reach * (1 + Math.ceil(log(3.16e-5) / log(gain)));
  }

  private aim(frames: number): void {
    const v = this.values;
    this.feedback.moveTo(v[LineParameter.feedback]! / 100, frames);
    this.swap.moveTo(v[LineParameter.swap]!, frames);
    this.inputLeft.moveTo(v[LineParameter.inputSide] === 2 ? 0 : 1, frames);
    this.inputRight.moveTo(v[LineParameter.inputSide] === 1 ? 0 : 1, frames);
    this.oscillator.configure(LFO_SHAPES[v[LineParameter.modShape]!]!, v[LineParameter.modRate]!);
  }

  private arrangement(): ToneArrangement {
    const v = this.values;
    return {
      filter: FILTERS[v[LineParameter.filterType]!]!,
      stages: v[LineParameter.slope] === 1 ? 2 : 1,
      place: PLACES[v[LineParameter.filterPlace]!]!,
      filterFirst: v[LineParameter.filterOrder] === 0,
      curve: v[LineParameter.drive]! > 0 ? DRIVE_CURVES[v[LineParameter.driveCurve]!]! : null,
    };
  }

  /** Whole frames at rest; exact ones while the time swings. */
  private wantedFrames(channel: 0 | 1): number {
    const v = this.values;
    const right = channel === 1 && !v[LineParameter.linked];
    const exact = (v[right ? LineParameter.timeRight : LineParameter.timeLeft]! / 1000) * this.sampleRate;
    return v[LineParameter.modDepth]! > 0 ? exact : Math.round(exact);
  }

  private tick(glide: boolean): void {
    const v = this.values;
    const towards = (now: number, target: number) =>
      Math.abs(target - now) < 1e-6 ? target : now + (target - now) * this.toneFactor;
    this.depth = towards(this.depth, v[LineParameter.modDepth]! / 100);
    this.cutoffDepth = towards(this.cutoffDepth, v[LineParameter.cutoffModDepth]!);
    this.logCutoff = towards(this.logCutoff, log(v[LineParameter.cutoff]!));
    this.q = towards(this.q, v[LineParameter.resonance]!);
    this.drive = towards(this.drive, dbToGain(v[LineParameter.drive]!));

    if (this.oldPath && this.pathFade.settled) this.oldPath = null;
    if (!this.oldPath) {
      const arrangement = this.arrangement();
      if (!sameArrangement(arrangement, this.path.arrangement)) {
        this.oldPath = this.path;
        this.path = new LinePath(this.sampleRate, arrangement);
        this.pathFade.moveTo(0, 0);
        this.pathFade.moveTo(1, this.rampFrames);
      }
    }

    this.oscillator.advance(TICK);
    for (const channel of [0, 1] as const) {
      const swing = this.oscillator.read(channel === 0 ? 0 : v[LineParameter.modPhase]! / 360);
      const cutoff = exp(this.logCutoff + this.cutoffDepth * swing * LN2);
      this.path.tune(channel, cutoff, this.q);
      this.oldPath?.tune(channel, cutoff, this.q);
      this.taps[channel].tick(this.wantedFrames(channel), this.depth * swing, glide);
    }
    this.offset = 0;
    this.sounding = true;
  }

  /** Adds this line's output to `outLeft` and `outRight`. */
  process(
    left: Float32Array,
    right: Float32Array,
    outLeft: Float64Array,
    outRight: Float64Array,
    frames: number,
    glide: boolean,
  ): void {
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick(glide);
      const lead = Math.max(this.path.lead, this.oldPath?.lead ?? 0);
      const count = Math.max(
        1,
        Math.min(
          frames - start,
          TICK - this.offset,
          this.taps[0].readable(this.offset, lead),
          this.taps[1].readable(this.offset, lead),
        ),
      );
      this.stretch(left, right, outLeft, outRight, start, count);
      this.offset += count;
      start += count;
    }
  }

  private stretch(
    left: Float32Array,
    right: Float32Array,
    outLeft: Float64Array,
    outRight: Float64Array,
    start: number,
    count: number,
  ): void {
    const { path, oldPath, oldHeard, oldLoop, offset } = this;
    const [heardLeft, heardRight] = this.heard;
    const [loopLeft, loopRight] = this.loop;
    const fadeAt = this.pathFade.value;
    const fadeSlope = oldPath ? 1 / this.rampFrames : 0;
    for (const channel of [0, 1] as const) {
      const heard = this.heard[channel];
      const loop = this.loop[channel];
      this.taps[channel].read(heard, offset, count, path.lead);
      path.process(channel, heard, loop, count, this.drive);
      if (!oldPath) continue;
      this.taps[channel].read(oldHeard, offset, count, oldPath.lead);
      oldPath.process(channel, oldHeard, oldLoop, count, this.drive);
      for (let i = 0; i < count; i++) {
        const weight = Math.min(1, fadeAt + fadeSlope * i);
        heard[i] = oldHeard[i]! + weight * (heard[i]! - oldHeard[i]!);
        loop[i] = oldLoop[i]! + weight * (loop[i]! - oldLoop[i]!);
      }
    }
    for (let i = 0; i < count; i++) {
      this.pathFade.next();
      const at = start + i;
      outLeft[at]! += guard(heardLeft[i]!, HEARD_KNEE, HEARD_LIMIT) * this.gainLeft.next();
      outRight[at]! += guard(heardRight[i]!, HEARD_KNEE, HEARD_LIMIT) * this.gainRight.next();
      const feedback = this.feedback.next();
      const swap = this.swap.next();
      const roundLeft = loopLeft[i]! + swap * (loopRight[i]! - loopLeft[i]!);
      const roundRight = loopRight[i]! + swap * (loopLeft[i]! - loopRight[i]!);
      const inLeft = this.inputLeft.next();
      const inRight = this.inputRight.next();
      // With one side closed the open one takes the mean of both, so that nothing of the sound is lost.
      const spill = 0.5 * (inLeft + inRight);
      const l = left[at]! * spill + (inRight === 1 ? 0 : (1 - inRight) * 0.5 * right[at]!);
      const r = right[at]! * spill + (inLeft === 1 ? 0 : (1 - inLeft) * 0.5 * left[at]!);
      loopLeft[i] = guard(l * inLeft + feedback * roundLeft, LOOP_KNEE, LOOP_LIMIT);
      loopRight[i] = guard(r * inRight + feedback * roundRight, LOOP_KNEE, LOOP_LIMIT);
    }
    this.taps[0].write(loopLeft, count);
    this.taps[1].write(loopRight, count);
  }
}
