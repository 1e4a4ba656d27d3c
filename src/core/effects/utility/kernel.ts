import { DelayLine } from '../../dsp/delayLine';
import { Ramp } from '../../dsp/ramp';
import { StateVariableFilter } from '../../dsp/stateVariableFilter';
import { dbToGain } from '../../math/elementary';
import type { Kernel, KernelContext, KernelFactory } from '../kernel';
import { placesOf } from '../places';
import { utilitySpec } from './spec';

const P = placesOf(utilitySpec, ['gain', 'polarityLeft', 'polarityRight', 'swap', 'mono', 'delaySamples', 'lowCut']);

const RAMP_SECONDS = 0.02;
const MAXIMUM_DELAY = 4800;
const LOWEST_CUT = 10;

/**
 * Level, polarity, side and mono as one ramped two-by-two matrix, then a delay in whole frames (changed by a short
 * crossfade) and a low cut (faded in and out against the uncut sound).
 */
class UtilityKernel implements Kernel {
  private readonly sampleRate: number;
  readonly latencyFrames = 0;
  readonly rests = true;
  private readonly rampFrames: number;
  private readonly values: number[];
  private readonly matrix = [new Ramp(1), new Ramp(0), new Ramp(0), new Ramp(1)] as const;
  private readonly lines = [new DelayLine(MAXIMUM_DELAY + 1), new DelayLine(MAXIMUM_DELAY + 1)] as const;
  private delayFrom = 0;
  private delayTo = 0;
  private readonly delayFade = new Ramp(1);
  private readonly filters: readonly [StateVariableFilter, StateVariableFilter];
  private readonly cutAmount = new Ramp(0);
  private readonly cutoff: Ramp;
  private readonly one = new Float64Array(1);

  constructor({ sampleRate, values }: KernelContext) {
    this.sampleRate = sampleRate;
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.values = [...values];
    this.filters = [new StateVariableFilter(sampleRate), new StateVariableFilter(sampleRate)];
    this.cutoff = new Ramp(values[P.lowCut]!);
    this.aim(0);
  }

  tailSeconds(): number {
    return this.values[P.delaySamples]! / this.sampleRate + (this.values[P.lowCut]! > LOWEST_CUT ? 0.1 : 0);
  }

  setParameter(index: number, value: number, frames = this.rampFrames): void {
    this.values[index] = index === P.delaySamples ? Math.round(value) : value;
    this.aim(frames);
  }

  locate(): void {}

  reset(): void {
    for (const line of this.lines) line.clear();
    for (const filter of this.filters) filter.reset();
    this.aim(0);
  }

  private aim(frames: number): void {
    const v = this.values;
    const gain = v[P.gain]! <= -100 ? 0 : dbToGain(v[P.gain]!);
    const left = v[P.polarityLeft]! ? -gain : gain;
    const right = v[P.polarityRight]! ? -gain : gain;
    const [ll, lr, rl, rr] = v[P.mono]!
      ? [left / 2, right / 2, left / 2, right / 2]
      : v[P.swap]!
        ? [0, right, left, 0]
        : [left, 0, 0, right];
    this.matrix[0].moveTo(ll, frames);
    this.matrix[1].moveTo(lr, frames);
    this.matrix[2].moveTo(rl, frames);
    this.matrix[3].moveTo(rr, frames);
    this.cutAmount.moveTo(v[P.lowCut]! > LOWEST_CUT ? 1 : 0, frames);
    this.cutoff.moveTo(v[P.lowCut]!, frames);
    const delay = Math.round(v[P.delaySamples]!);
    if (frames === 0) {
      this.delayFrom = this.delayTo = delay;
      this.delayFade.moveTo(1, 0);
    }
    this.configureFilters();
  }

  private configureFilters(): void {
    for (const filter of this.filters) filter.configure('highPass', this.cutoff.value, Math.SQRT1_2);
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    const [ll, lr, rl, rr] = this.matrix;
    for (let i = 0; i < frames; i++) {
      const l = left[i]!;
      const r = right[i]!;
      left[i] = l * ll.next() + r * lr.next();
      right[i] = l * rl.next() + r * rr.next();
    }
    for (let i = 0; i < frames; i++) {
      if (this.delayFade.settled) {
        this.delayFrom = this.delayTo;
        const wanted = Math.round(this.values[P.delaySamples]!);
        if (wanted !== this.delayTo) {
          this.delayTo = wanted;
          this.delayFade.moveTo(0, 0);
          this.delayFade.moveTo(1, this.rampFrames);
        }
      }
      const fade = this.delayFade.next();
      this.delay(this.lines[0], left, i, fade);
      this.delay(this.lines[1], right, i, fade);
    }
    if (this.cutAmount.idle) return;
    for (let i = 0; i < frames; i++) {
      if (!this.cutoff.settled) {
        this.cutoff.next();
        this.configureFilters();
      }
      const amount = this.cutAmount.next();
      left[i] = this.cut(this.filters[0], left[i]!, amount);
      right[i] = this.cut(this.filters[1], right[i]!, amount);
    }
  }

  private delay(line: DelayLine, channel: Float32Array, i: number, fade: number): void {
    line.write(channel[i]!);
    const now = line.readInteger(this.delayTo + 1);
    channel[i] = fade === 1 ? now : now * fade + line.readInteger(this.delayFrom + 1) * (1 - fade);
  }

  private cut(filter: StateVariableFilter, sample: number, amount: number): number {
    this.one[0] = sample;
    filter.process(this.one, 1);
    return sample + (this.one[0] - sample) * amount;
  }
}

export const createUtility: KernelFactory = (context) => new UtilityKernel(context);
