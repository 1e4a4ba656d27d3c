import { Ramp } from '../dsp/ramp';
import { MAXIMUM_BLOCK, type Kernel, type KeySound } from '../effects/kernel';
import { KERNELS } from '../effects/kernels';
import { Compensation } from './compensation';
import { CurveReader, sameCurve } from './curve';
import type { PlanInsert } from './plan';
import type { Probe } from './probe';

const FADE_SECONDS = 0.015;
/** Automated parameters are told where to be at every session frame divisible by this. */
const TICK = 32;
/** A leap of an automated parameter is taken within this time. */
const LEAP_SECONDS = 0.02;

interface Driven {
  readonly index: number;
  readonly reader: CurveReader;
  value: number;
  /** Session frame up to which a leap is being smoothed. */
  until: number;
}

/**
 * An effect in a chain: its kernel, and the dry sound held back by the same latency, between which bypass, arrival
 * and removal fade. A kernel that puts out anything not finite is reset and counted; the rest plays on. Automated
 * parameters move along their curves, exact at every tick and corner.
 */
export class InsertNode {
  readonly id: string;
  readonly kernel: Kernel;
  faults = 0;
  leaving = false;
  /** Frames by which the sound that arrives here is behind the session. */
  lateFrames = 0;
  /** Sound that steers it; null for its own input. */
  key: KeySound | null = null;
  /** Somebody watches the sound before and after it. */
  probe: Probe | null = null;
  private values: number[];
  private bypass: boolean;
  private driven: readonly Driven[] = [];
  private expected = NaN;
  private readonly amount: Ramp;
  private readonly fadeFrames: number;
  private readonly leapFrames: number;
  private readonly dry = new Compensation();
  private readonly dryLeft = new Float32Array(MAXIMUM_BLOCK);
  private readonly dryRight = new Float32Array(MAXIMUM_BLOCK);
  private readonly part = { left: new Float32Array(TICK), right: new Float32Array(TICK) };
  private readonly partKey = { left: new Float32Array(TICK), right: new Float32Array(TICK) };

  /** @param fresh true when nothing sounds yet, so that no fade is needed */
  constructor(insert: PlanInsert, sampleRate: number, fresh: boolean) {
    const factory = KERNELS[insert.effect];
    if (!factory) throw new Error(`No kernel for the effect ${insert.effect}`);
    this.id = insert.id;
    this.values = [...insert.values];
    this.bypass = insert.bypass;
    this.kernel = factory(sampleRate, insert.values);
    this.fadeFrames = Math.round(FADE_SECONDS * sampleRate);
    this.leapFrames = Math.round(LEAP_SECONDS * sampleRate);
    this.dry.setDelay(this.kernel.latencyFrames, true);
    this.amount = new Ramp(fresh && !insert.bypass ? 1 : 0);
    this.fade();
    this.drive(insert);
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
    this.drive(insert);
  }

  private drive(insert: PlanInsert): void {
    const before = this.driven;
    this.driven = (insert.curves ?? []).map(({ index, curve }) => {
      const old = before.find((one) => one.index === index);
      if (old && sameCurve(old.reader.curve, curve)) return old;
      return { index, reader: new CurveReader(curve), value: NaN, until: -Infinity };
    });
    for (const { index } of before) {
      if (!this.driven.some((one) => one.index === index)) this.kernel.setParameter(index, this.values[index]!);
    }
  }

  setParameter(index: number, value: number): void {
    if (this.values[index] === value) return;
    this.values[index] = value;
    if (!this.driven.some((one) => one.index === index)) this.kernel.setParameter(index, value);
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

  /** @param position place in the session that the sources play next */
  locate(position: number): void {
    this.kernel.locate(position - this.lateFrames);
  }

  /** Forgets all sound; automated parameters go to their places at once. */
  reset(position: number): void {
    for (const one of this.driven) {
      one.value = one.reader.valueAt(position - this.lateFrames);
      one.until = -Infinity;
      this.kernel.setParameter(one.index, one.value);
    }
    this.expected = position - this.lateFrames;
    this.kernel.reset();
  }

  process(left: Float32Array, right: Float32Array, frames: number, position: number, moving: boolean): void {
    this.probe?.before(left, right, frames);
    this.work(left, right, frames, position, moving);
    this.probe?.after(left, right, frames);
  }

  private work(left: Float32Array, right: Float32Array, frames: number, position: number, moving: boolean): void {
    const { amount, dryLeft, dryRight } = this;
    const wetOnly = amount.settled && amount.value === 1;
    if (!wetOnly || this.dry.delay > 0) {
      for (let i = 0; i < frames; i++) {
        dryLeft[i] = left[i]!;
        dryRight[i] = right[i]!;
      }
      this.dry.process(dryLeft, dryRight, frames);
    }
    if (this.driven.length === 0) this.kernel.process(left, right, frames, this.key);
    else this.processDriven(left, right, frames, position - this.lateFrames, moving);
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

  private processDriven(left: Float32Array, right: Float32Array, frames: number, frame: number, moving: boolean): void {
    const { part, partKey, key } = this;
    if (!moving || frame !== this.expected) this.leap(frame);
    this.expected = moving ? frame + frames : NaN;
    for (let done = 0; done < frames;) {
      const at = frame + done;
      let count = frames - done;
      if (moving) {
        const next = (Math.floor(at / TICK) + 1) * TICK;
        let end = next;
        for (const { reader } of this.driven) end = Math.min(end, reader.cornerAfter(at));
        count = Math.min(count, end - at);
        this.aim(at, end);
      } else {
        count = Math.min(count, TICK);
        for (const one of this.driven) this.send(one, one.reader.valueAt(frame));
      }
      for (let i = 0; i < count; i++) {
        part.left[i] = left[done + i]!;
        part.right[i] = right[done + i]!;
        if (key === null) continue;
        partKey.left[i] = key.left[done + i]!;
        partKey.right[i] = key.right[done + i]!;
      }
      this.kernel.process(part.left, part.right, count, key && partKey);
      for (let i = 0; i < count; i++) {
        left[done + i] = part.left[i]!;
        right[done + i] = part.right[i]!;
      }
      done += count;
    }
  }

  /** Everything driven has to find a new place. */
  private leap(frame: number): void {
    for (const one of this.driven) one.until = frame + this.leapFrames;
  }

  /** Sends every driven parameter on its way from one tick or corner to the next. */
  private aim(at: number, end: number): void {
    for (const one of this.driven) {
      if (one.reader.jumpsAt(at)) one.until = at + this.leapFrames;
      const arrival = Math.max(end, one.until);
      this.send(one, one.reader.valueBefore(arrival), arrival - at);
    }
  }

  private send(one: Driven, value: number, frames?: number): void {
    if (value === one.value) return;
    one.value = value;
    this.kernel.setParameter(one.index, value, frames);
  }
}
