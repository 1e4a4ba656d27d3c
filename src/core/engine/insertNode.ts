import { Ramp } from '../dsp/ramp';
import { MAXIMUM_BLOCK, type Kernel } from '../effects/kernel';
import { KERNELS } from '../effects/kernels';
import { Compensation } from './compensation';
import type { PlanInsert } from './plan';

const FADE_SECONDS = 0.015;

/**
 * An effect in a chain: its kernel, and the dry sound held back by the same latency, between which bypass, arrival
 * and removal fade. A kernel that puts out anything not finite is reset and counted; the rest plays on.
 */
export class InsertNode {
  readonly id: string;
  readonly kernel: Kernel;
  faults = 0;
  leaving = false;
  private values: number[];
  private bypass: boolean;
  private readonly amount: Ramp;
  private readonly fadeFrames: number;
  private readonly dry = new Compensation();
  private readonly dryLeft = new Float32Array(MAXIMUM_BLOCK);
  private readonly dryRight = new Float32Array(MAXIMUM_BLOCK);

  /** @param fresh true when nothing sounds yet, so that no fade is needed */
  constructor(insert: PlanInsert, sampleRate: number, fresh: boolean) {
    const factory = KERNELS[insert.effect];
    if (!factory) throw new Error(`No kernel for the effect ${insert.effect}`);
    this.id = insert.id;
    this.values = [...insert.values];
    this.bypass = insert.bypass;
    this.kernel = factory(sampleRate, insert.values);
    this.fadeFrames = Math.round(FADE_SECONDS * sampleRate);
    this.dry.setDelay(this.kernel.latencyFrames, true);
    this.amount = new Ramp(fresh && !insert.bypass ? 1 : 0);
    this.fade();
  }

  get gone(): boolean {
    return this.leaving && this.amount.settled;
  }

  get latencyFrames(): number {
    return this.leaving ? 0 : this.kernel.latencyFrames;
  }

  get tailSeconds(): number {
    return this.bypass ? 0 : this.kernel.tailSeconds();
  }

  update(insert: PlanInsert): void {
    this.leaving = false;
    insert.values.forEach((value, index) => this.setParameter(index, value));
    this.setBypass(insert.bypass);
  }

  setParameter(index: number, value: number): void {
    if (this.values[index] === value) return;
    this.values[index] = value;
    this.kernel.setParameter(index, value);
  }

  setBypass(bypass: boolean): void {
    this.bypass = bypass;
    this.fade();
  }

  leave(): void {
    this.leaving = true;
    this.fade();
  }

  private fade(): void {
    this.amount.moveTo(this.bypass || this.leaving ? 0 : 1, this.fadeFrames);
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    const { amount, dryLeft, dryRight } = this;
    const wetOnly = amount.settled && amount.value === 1;
    if (!wetOnly || this.dry.delay > 0) {
      for (let i = 0; i < frames; i++) {
        dryLeft[i] = left[i]!;
        dryRight[i] = right[i]!;
      }
      this.dry.process(dryLeft, dryRight, frames);
    }
    this.kernel.process(left, right, frames);
    let check = 0;
    for (let i = 0; i < frames; i++) check += left[i]! * 0 + right[i]! * 0;
    if (check !== 0) {
      this.kernel.reset();
      left.fill(0, 0, frames);
      right.fill(0, 0, frames);
      this.faults++;
    }
    if (wetOnly) return;
    for (let i = 0; i < frames; i++) {
      const weight = amount.next();
      left[i] = dryLeft[i]! + weight * (left[i]! - dryLeft[i]!);
      right[i] = dryRight[i]! + weight * (right[i]! - dryRight[i]!);
    }
  }
}
