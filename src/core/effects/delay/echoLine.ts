import { LFO_SHAPES, LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { Ramp } from '../../dsp/ramp';
import { DRIVE_CURVES, guard } from '../../dsp/saturation';
import { balance } from '../../dsp/balance';
import { dbToGain, exp, log } from '../../math/elementary';
import { smoothstep } from '../../math/smoothstep';
import { MAXIMUM_BLOCK } from '../kernel';
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
  /** Where the slowly moving settings are, and where they go. */
  private logCutoff = 0;
  private q = 1;
  private drive = 1;
  private driveStep = 0;
  private depth = 0;
  private cutoffDepth = 0;
  private logCutoffTarget = 0;
  private driveTarget = 1;
  private wantedLeft = 1;
  private wantedRight = 1;
  private wantedArrangement: ToneArrangement;
  /** Frames already used of the running tick. */
  private offset = TICK;
  /** Nothing moved at the last tick nor has been asked to since: ticks can be passed over. */
  private still = false;
  private sounding = false;
  private readonly heard = [new Float64Array(MAXIMUM_BLOCK), new Float64Array(MAXIMUM_BLOCK)] as const;
  private readonly loop = [new Float64Array(MAXIMUM_BLOCK), new Float64Array(MAXIMUM_BLOCK)] as const;
  private readonly oldHeard = new Float64Array(MAXIMUM_BLOCK);
  private readonly oldLoop = new Float64Array(MAXIMUM_BLOCK);
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);

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
    this.wantedArrangement = this.arrangement();
    this.path = new LinePath(sampleRate, this.wantedArrangement);
    this.reset();
  }

  /** @param audible false when another line is soloed or this one muted */
  setAudible(audible: boolean, frames = this.rampFrames): void {
    const level = this.values[LineParameter.level]!;
    const gain = audible && level > -100 ? dbToGain(level) : 0;
    const sides = balance(this.values[LineParameter.pan]! / 100);
    this.gainLeft.moveTo(gain * sides.left, frames);
    this.gainRight.moveTo(gain * sides.right, frames);
  }

  get soloed(): boolean {
    return this.values[LineParameter.solo] === 1;
  }

  get muted(): boolean {
    return this.values[LineParameter.mute] === 1;
  }

  setParameter(index: LineParameter, value: number, frames = this.rampFrames): void {
    this.values[index] = value;
    this.aim(frames);
  }

  locate(frame: number): void {
    this.oscillator.locate(frame, 0, this.sounding);
  }

  reset(): void {
    this.aim(0);
    this.path = new LinePath(this.sampleRate, this.wantedArrangement);
    this.oldPath = null;
    this.pathFade.moveTo(1, 0);
    const v = this.values;
    this.logCutoff = this.logCutoffTarget;
    this.q = v[LineParameter.resonance]!;
    this.drive = this.driveTarget;
    this.driveStep = 0;
    this.depth = v[LineParameter.modDepth]! / 100;
    this.cutoffDepth = v[LineParameter.cutoffModDepth]!;
    this.taps[0].reset(this.wantedLeft, this.depth * this.oscillator.read(0));
    this.taps[1].reset(this.wantedRight, this.depth * this.oscillator.read(v[LineParameter.modPhase]! / 360));
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
    this.still = false;
    const v = this.values;
    this.feedback.moveTo(v[LineParameter.feedback]! / 100, frames);
    this.swap.moveTo(v[LineParameter.swap]!, frames);
    this.inputLeft.moveTo(v[LineParameter.inputSide] === 2 ? 0 : 1, frames);
    this.inputRight.moveTo(v[LineParameter.inputSide] === 1 ? 0 : 1, frames);
    this.oscillator.configure(LFO_SHAPES[v[LineParameter.modShape]!]!, v[LineParameter.modRate]!);
    this.logCutoffTarget = log(v[LineParameter.cutoff]!);
    this.driveTarget = dbToGain(v[LineParameter.drive]!);
    this.wantedLeft = this.wantedFrames(0);
    this.wantedRight = this.wantedFrames(1);
    this.wantedArrangement = this.arrangement();
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

  private towards(now: number, target: number): number {
    const away = target - now;
    return away < 1e-6 && away > -1e-6 ? target : now + away * this.toneFactor;
  }

  private tick(glide: boolean): void {
    const v = this.values;
    this.depth = this.towards(this.depth, v[LineParameter.modDepth]! / 100);
    this.cutoffDepth = this.towards(this.cutoffDepth, v[LineParameter.cutoffModDepth]!);
    this.logCutoff = this.towards(this.logCutoff, this.logCutoffTarget);
    this.q = this.towards(this.q, v[LineParameter.resonance]!);
    this.drive += this.driveStep * TICK;
    this.driveStep = (this.towards(this.drive, this.driveTarget) - this.drive) / TICK;
    if (this.driveStep === 0) this.drive = this.driveTarget;

    if (this.oldPath && this.pathFade.settled) this.oldPath = null;
    if (!this.oldPath && !sameArrangement(this.wantedArrangement, this.path.arrangement)) {
      this.oldPath = this.path;
      this.path = new LinePath(this.sampleRate, this.wantedArrangement);
      this.pathFade.moveTo(0, 0);
      this.pathFade.moveTo(1, this.rampFrames);
    }

    this.oscillator.advance(TICK);
    const swings = this.depth !== 0 || this.cutoffDepth !== 0;
    const swingLeft = swings ? this.oscillator.read(0) : 0;
    const swingRight = swings ? this.oscillator.read(v[LineParameter.modPhase]! / 360) : 0;
    this.tune(0, swingLeft);
    this.tune(1, swingRight);
    this.taps[0].tick(this.wantedLeft, this.depth * swingLeft, glide);
    this.taps[1].tick(this.wantedRight, this.depth * swingRight, glide);
    this.offset = 0;
    this.sounding = true;
    this.still =
      !swings &&
      this.oldPath === null &&
      this.driveStep === 0 &&
      this.depth === v[LineParameter.modDepth]! / 100 &&
      this.cutoffDepth === v[LineParameter.cutoffModDepth] &&
      this.logCutoff === this.logCutoffTarget &&
      this.q === v[LineParameter.resonance] &&
      this.taps[0].restsAt(this.wantedLeft) &&
      this.taps[1].restsAt(this.wantedRight);
  }

  private tune(channel: 0 | 1, swing: number): void {
    if (this.path.arrangement.filter === null && !this.oldPath) return;
    const cutoff = exp(this.logCutoff + this.cutoffDepth * swing * LN2);
    this.path.tune(channel, cutoff, this.q);
    this.oldPath?.tune(channel, cutoff, this.q);
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
          this.still ? MAXIMUM_BLOCK : TICK - this.offset,
          this.taps[0].readable(this.offset, lead),
          this.taps[1].readable(this.offset, lead),
        ),
      );
      this.stretch(left, right, outLeft, outRight, start, count);
      this.offset += count;
      // Ticks that were passed over would only have turned the oscillator.
      for (; this.offset > TICK; this.offset -= TICK) this.oscillator.advance(TICK);
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
    const drive = this.drive + this.driveStep * offset;
    const fadeAt = this.pathFade.value;
    const fadeSlope = oldPath ? 1 / this.rampFrames : 0;
    for (let side = 0; side < 2; side++) {
      const channel = side as 0 | 1;
      const heard = this.heard[channel];
      const loop = this.loop[channel];
      this.taps[channel].read(heard, offset, count, path.lead);
      path.process(channel, heard, loop, count, drive, this.driveStep);
      if (!oldPath) continue;
      this.taps[channel].read(oldHeard, offset, count, oldPath.lead);
      oldPath.process(channel, oldHeard, oldLoop, count, drive, this.driveStep);
      for (let i = 0; i < count; i++) {
        // The new path starts cold: a smooth beginning keeps its first frames out of the mixture.
        const weight = smoothstep(Math.min(1, fadeAt + fadeSlope * i));
        heard[i] = oldHeard[i]! + weight * (heard[i]! - oldHeard[i]!);
        loop[i] = oldLoop[i]! + weight * (loop[i]! - oldLoop[i]!);
      }
    }
    if (oldPath) for (let i = 0; i < count; i++) this.pathFade.next();
    this.send(outLeft, outRight, start, count);
    this.feedBack(left, right, start, count);
  }

  /** Adds what is heard to the output. */
  private send(outLeft: Float64Array, outRight: Float64Array, start: number, count: number): void {
    this.gainLeft.fill(this.gains, count);
    addGuarded(outLeft, this.heard[0], this.gains, start, count);
    this.gainRight.fill(this.gains, count);
    addGuarded(outRight, this.heard[1], this.gains, start, count);
  }

  /** Writes the input and what goes round again into the line. */
  private feedBack(left: Float32Array, right: Float32Array, start: number, count: number): void {
    const loopLeft = this.loop[0];
    const loopRight = this.loop[1];
    const { feedback, swap, inputLeft, inputRight } = this;
    const steady = feedback.settled && swap.settled && inputLeft.settled && inputRight.settled;
    if (steady && swap.value === 0 && inputLeft.value === 1 && inputRight.value === 1) {
      feedGuarded(loopLeft, left, feedback.value, start, count);
      feedGuarded(loopRight, right, feedback.value, start, count);
    } else {
      for (let i = 0; i < count; i++) {
        const at = start + i;
        const gain = feedback.next();
        const exchange = swap.next();
        const roundLeft = loopLeft[i]! + exchange * (loopRight[i]! - loopLeft[i]!);
        const roundRight = loopRight[i]! + exchange * (loopLeft[i]! - loopRight[i]!);
        const inLeft = inputLeft.next();
        const inRight = inputRight.next();
        // With one side closed the open one takes the mean of both, so that nothing of the sound is lost.
        const spill = 0.5 * (inLeft + inRight);
        const l = left[at]! * spill + (1 - inRight) * 0.5 * right[at]!;
        const r = right[at]! * spill + (1 - inLeft) * 0.5 * left[at]!;
        loopLeft[i] = guard(l * inLeft + gain * roundLeft, LOOP_KNEE, LOOP_LIMIT);
        loopRight[i] = guard(r * inRight + gain * roundRight, LOOP_KNEE, LOOP_LIMIT);
      }
    }
    this.taps[0].write(loopLeft, count);
    this.taps[1].write(loopRight, count);
  }
}

function addGuarded(out: Float64Array, heard: Float64Array, gains: Float64Array, start: number, count: number): void {
  for (let i = 0; i < count; i++) {
    const x = heard[i]!;
    const safe = x <= HEARD_KNEE && x >= -HEARD_KNEE ? x : guard(x, HEARD_KNEE, HEARD_LIMIT);
    out[start + i] = out[start + i]! + safe * gains[i]!;
  }
}

function feedGuarded(loop: Float64Array, input: Float32Array, gain: number, start: number, count: number): void {
  for (let i = 0; i < count; i++) {
    const x = input[start + i]! + gain * loop[i]!;
    loop[i] = x <= LOOP_KNEE && x >= -LOOP_KNEE ? x : guard(x, LOOP_KNEE, LOOP_LIMIT);
  }
}
