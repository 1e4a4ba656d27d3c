import { Ramp } from '../dsp/ramp';
import { MAXIMUM_BLOCK, type Kernel, type KeySound } from '../effects/kernel';
import { KERNELS } from '../effects/kernels.generated';
import { readingAt } from '../effects/readings';
import { effectById } from '../effects/registry';
import { Arena } from '../wasm/arena';
import { Compensation } from './compensation';
import { CurveReader, sameCurve } from './curve';
import { LevelMatch } from './levelMatch';
import { modulated, Modulation } from './modulation';
import type { PlanInsert } from './plan';
import type { Probe } from './probe';

const FADE_SECONDS = 0.015;
/** Automated parameters are told where to be at every session frame divisible by this. */
const TICK = 32;
/** Whether an effect is at rest is looked at after every so many frames of silence. */
const REST_CHECK = 8192;
/** Twice a tail is 180 dB; filters and ramps take this much longer. */
const SETTLE_SECONDS = 0.05;
/** A leap of an automated parameter is taken within this time. */
const LEAP_SECONDS = 0.02;

/** A parameter that automation moves, or modulations, or both. */
interface Driven {
  readonly index: number;
  readonly reader: CurveReader | null;
  readonly modulations: readonly Modulation[];
  value: number;
  /** Session frame up to which a leap is being smoothed. */
  until: number;
}

/**
 * An effect in a chain: its kernel, and the dry sound held back by the same latency, between which bypass, arrival
 * and removal fade. A kernel that puts out anything not finite is reset and counted; the rest plays on. Automated
 * parameters move along their curves, exact at every tick and corner. Effects at rest are passed over, from and to just
 * the frame, however the sound is cut into blocks.
 */
export class InsertNode {
  readonly id: string;
  readonly kernel: Kernel;
  private readonly memory = new Arena();
  faults = 0;
  leaving = false;
  /** Frames by which the sound that arrives here is behind the session. */
  lateFrames = 0;
  /** Other sounds that it listens to, by the slots of its spec; null where its own input takes the place. */
  private inputs: (KeySound | null)[];
  private readonly slots: readonly string[];
  private listens = false;
  /** It has a sweep of its own, which goes on while the session stands still. */
  private readonly sweeps: boolean;
  /** Somebody watches the sound before and after it. */
  probe: Probe | null = null;
  private values: number[];
  private bypass: boolean;
  private driven: readonly Driven[] = [];
  private modulations: readonly Modulation[] = [];
  private expected = NaN;
  /** Modulators go on while the session stands still: the frame they are at. */
  private clock = 0;
  private readonly amount: Ramp;
  private readonly apart = new Ramp(0);
  private readonly match: LevelMatch;
  private readonly fadeFrames: number;
  private readonly leapFrames: number;
  private readonly dry = new Compensation();
  private readonly dryLeft = new Float32Array(MAXIMUM_BLOCK);
  private readonly dryRight = new Float32Array(MAXIMUM_BLOCK);
  /** Frames of silence that have come in, and whether the effect is passed over. */
  private quiet = 0;
  private resting = false;
  /** What goes into the effect, for followers of that. */
  private readonly own: { left: Float32Array; right: Float32Array } = {
    left: new Float32Array(),
    right: new Float32Array(),
  };
  private readonly slice = { left: new Float32Array(MAXIMUM_BLOCK), right: new Float32Array(MAXIMUM_BLOCK) };
  private readonly part = { left: new Float32Array(TICK), right: new Float32Array(TICK) };
  private readonly partInputs: (KeySound | null)[];
  private readonly partSounds: readonly KeySound[];

  /** @param fresh true when nothing sounds yet, so that no fade is needed */
  constructor(
    insert: PlanInsert,
    private readonly sampleRate: number,
    fresh: boolean,
  ) {
    const factory = KERNELS[insert.effect];
    if (!factory) throw new Error(`No kernel for the effect ${insert.effect}`);
    this.id = insert.id;
    const spec = effectById(insert.effect);
    this.sweeps = readingAt(spec, 'place') !== null;
    this.slots = (spec.inputs ?? []).map(({ id }) => id);
    this.inputs = this.slots.map(() => null);
    this.partInputs = this.slots.map(() => null);
    this.partSounds = this.slots.map(() => ({ left: new Float32Array(TICK), right: new Float32Array(TICK) }));
    this.values = [...insert.values];
    this.bypass = insert.bypass;
    try {
      this.kernel = factory({ sampleRate, values: insert.values, memory: this.memory });
    } catch (error) {
      this.memory.free();
      throw error;
    }
    this.fadeFrames = Math.round(FADE_SECONDS * sampleRate);
    this.leapFrames = Math.round(LEAP_SECONDS * sampleRate);
    this.dry.setDelay(this.kernel.latencyFrames, true);
    this.match = new LevelMatch(sampleRate);
    this.amount = new Ramp(fresh && !insert.bypass ? 1 : 0);
    this.fade();
    if (insert.difference) this.apart.moveTo(1, fresh ? 0 : this.fadeFrames);
    this.drive(insert);
  }

  get gone(): boolean {
    return this.leaving && this.amount.settled;
  }

  /** Gives its memory back: it is not asked for anything any more. */
  dispose(): void {
    this.memory.free();
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
    this.setDifference(insert.difference ?? false);
    this.drive(insert);
  }

  private setDifference(difference: boolean): void {
    this.apart.moveTo(difference ? 1 : 0, this.fadeFrames);
  }

  /** Takes up the sounds it listens to, by slot. */
  listenTo(sounds: ReadonlyMap<string, KeySound>): void {
    this.inputs = this.slots.map((slot) => sounds.get(slot) ?? null);
    this.listens = this.inputs.some((one) => one !== null);
    for (const modulation of this.modulations) modulation.sound = sounds.get(modulation.plan.id) ?? null;
  }

  /** Where automation or modulation has a parameter now; its set value where neither moves it. */
  valueOf(index: number): number {
    for (const one of this.driven) if (one.index === index) return one.value;
    return this.values[index]!;
  }

  /** Takes up another latency of the kernel; returns whether there was one. */
  refreshLatency(): boolean {
    if (this.leaving || this.kernel.latencyFrames === this.dry.delay) return false;
    this.dry.setDelay(this.kernel.latencyFrames, false);
    return true;
  }

  private drive(insert: PlanInsert): void {
    const { curves = [], modulations = [] } = insert;
    const before = this.driven;
    this.modulations = modulations.map((plan) => {
      const old = this.modulations.find((one) => one.plan.id === plan.id);
      return old && JSON.stringify(old.plan) === JSON.stringify(plan)
        ? old
        : new Modulation(plan, this.sampleRate, old);
    });
    const places = [...new Set([...curves, ...modulations].map(({ index }) => index))].sort((a, b) => a - b);
    this.driven = places.map((index) => {
      const curve = curves.find((one) => one.index === index)?.curve;
      const old = before.find((one) => one.index === index);
      const reader = !curve
        ? null
        : old?.reader && sameCurve(old.reader.curve, curve)
          ? old.reader
          : new CurveReader(curve);
      const own = this.modulations.filter((one) => one.plan.index === index);
      const same = old && old.reader === reader && old.modulations.length === own.length;
      if (same && own.every((one, n) => one === old.modulations[n])) return old;
      return { index, reader, modulations: own, value: NaN, until: -Infinity };
    });
    // What is new is taken up as softly as a leap.
    if (this.driven.some((one) => !before.includes(one))) this.expected = NaN;
    for (const { index } of before) {
      if (!this.driven.some((one) => one.index === index)) this.kernel.setParameter(index, this.values[index]!);
    }
  }

  setParameter(index: number, value: number): void {
    if (this.values[index] === value) return;
    this.values[index] = value;
    const driven = this.driven.find((one) => one.index === index);
    if (!driven) this.kernel.setParameter(index, value);
    else if (!driven.reader) this.expected = NaN;
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
    const frame = position - this.lateFrames;
    for (const modulation of this.modulations) modulation.reset();
    for (const one of this.driven) {
      const base = one.reader ? one.reader.valueAt(frame) : this.values[one.index]!;
      one.value = modulated(base, one.modulations, frame, 0);
      one.until = -Infinity;
      this.kernel.setParameter(one.index, one.value);
    }
    this.expected = frame;
    this.kernel.reset();
  }

  process(left: Float32Array, right: Float32Array, frames: number, position: number, moving: boolean): void {
    this.probe?.before(left, right, frames);
    this.work(left, right, frames, position, moving);
    this.probe?.after(left, right, frames);
  }

  /** Works on the block, or passes over the parts of it for which the effect is at rest. */
  private work(left: Float32Array, right: Float32Array, frames: number, position: number, moving: boolean): void {
    const restless = this.kernel.rests === undefined || this.listens;
    if (restless && !this.resting) {
      this.workOn(left, right, frames, position, moving);
      return;
    }
    for (let at = 0; at < frames;) {
      const place = moving ? position + at : position;
      const silent = silentFrom(left, right, at, frames);
      if (this.resting && (silent === 0 || restless)) this.wake(place, moving);
      const untilCheck = REST_CHECK - (this.quiet % REST_CHECK);
      const checks = silent >= untilCheck;
      const count = checks ? untilCheck : this.resting ? silent : frames - at;
      const quiet = silent >= count ? this.quiet + count : silentAtEnd(left, right, at + count);
      if (this.resting) {
        this.passOver(count, place, moving);
      } else if (count === frames) {
        this.workOn(left, right, frames, place, moving);
      } else {
        const { slice } = this;
        copy(left, right, at, slice.left, slice.right, 0, count);
        this.workOn(slice.left, slice.right, count, place, moving);
        copy(slice.left, slice.right, 0, left, right, at, count);
      }
      this.quiet = quiet;
      at += count;
      if (!checks || restless) continue;
      const rested = this.hasRested;
      if (this.resting && !rested) this.wake(moving ? position + at : position, moving);
      if (!this.resting && rested) this.kernel.beginRest?.();
      this.resting = rested;
    }
  }

  /** Whether nothing of what it heard is left; looked at now and then, since parameters change meanwhile. */
  private get hasRested(): boolean {
    const { kernel, quiet, sampleRate } = this;
    if (!kernel.rests) return false;
    return quiet >= (2 * kernel.tailSeconds() + SETTLE_SECONDS) * sampleRate + kernel.latencyFrames;
  }

  private wake(position: number, moving: boolean): void {
    this.resting = false;
    this.kernel.locate(moving ? position - this.lateFrames : this.clock);
  }

  /** Silence goes in and comes out; what moves goes on moving, so that it is shown and picked up where it is. */
  private passOver(frames: number, position: number, moving: boolean): void {
    this.amount.skip(frames);
    this.apart.skip(frames);
    this.moveOn(null, null, frames, position - this.lateFrames, moving);
    if (this.sweeps) this.kernel.locate(this.clock);
  }

  private workOn(left: Float32Array, right: Float32Array, frames: number, position: number, moving: boolean): void {
    const { amount, dryLeft, dryRight } = this;
    const wetOnly = amount.settled && amount.value === 1;
    const whole = this.apart.settled && this.apart.value === 0;
    if (!wetOnly || !whole || this.dry.delay > 0) {
      copy(left, right, 0, dryLeft, dryRight, 0, frames);
      this.dry.process(dryLeft, dryRight, frames);
    }
    this.moveOn(left, right, frames, position - this.lateFrames, moving);
    let check = 0;
    for (let i = 0; i < frames; i++) check += left[i]! * 0 + right[i]! * 0;
    if (check !== 0) {
      this.kernel.reset();
      left.fill(0, 0, frames);
      right.fill(0, 0, frames);
      this.faults++;
    }
    if (!whole) this.takeApart(left, right, frames);
    if (wetOnly) return;
    for (let i = 0; i < frames; i++) {
      const weight = amount.next();
      left[i] = dryLeft[i]! + weight * (left[i]! - dryLeft[i]!);
      right[i] = dryRight[i]! + weight * (right[i]! - dryRight[i]!);
    }
  }

  /** Takes the dry sound, at the level at which it cancels best, out of what the effect makes of it. */
  private takeApart(left: Float32Array, right: Float32Array, frames: number): void {
    const { dryLeft, dryRight, match, apart } = this;
    for (let i = 0; i < frames; i++) {
      const gain = match.next(dryLeft[i]!, dryRight[i]!, left[i]!, right[i]!);
      const weight = apart.next();
      left[i] = left[i]! - weight * gain * dryLeft[i]!;
      right[i] = right[i]! - weight * gain * dryRight[i]!;
    }
  }

  /** Moves what is driven and lets the kernel work on the block; without a block it is passed over. */
  private moveOn(
    left: Float32Array | null,
    right: Float32Array | null,
    frames: number,
    frame: number,
    moving: boolean,
  ): void {
    // While the session stands still modulators go on by a clock of their own.
    const returned = moving && this.clock !== frame;
    if (returned) this.clock = frame;
    const begin = this.clock;
    if (this.driven.length === 0) {
      if (left && right) this.kernel.process(left, right, frames, this.inputs);
    } else {
      if (left && right) {
        this.own.left = left;
        this.own.right = right;
      }
      if (returned || frame !== this.expected) this.leap(begin);
      this.expected = moving ? frame + frames : frame;
      for (let done = 0; done < frames;) {
        const at = begin + done;
        let end = (Math.floor(at / TICK) + 1) * TICK;
        if (moving) for (const { reader } of this.driven) if (reader) end = Math.min(end, reader.cornerAfter(at));
        const count = Math.min(frames - done, end - at);
        this.aim(at, end, moving ? null : frame);
        for (const modulation of this.modulations) modulation.listen(done, count, left && right ? this.own : null);
        if (left && right) this.processPart(left, right, done, count);
        done += count;
      }
    }
    this.clock = begin + frames;
  }

  private processPart(left: Float32Array, right: Float32Array, from: number, frames: number): void {
    const { part, partInputs, partSounds, inputs } = this;
    copy(left, right, from, part.left, part.right, 0, frames);
    for (let n = 0; n < inputs.length; n++) {
      const input = inputs[n];
      if (input) copy(input.left, input.right, from, partSounds[n]!.left, partSounds[n]!.right, 0, frames);
      partInputs[n] = input ? partSounds[n]! : null;
    }
    this.kernel.process(part.left, part.right, frames, partInputs);
    copy(part.left, part.right, 0, left, right, from, frames);
  }

  /** Everything driven has to find a new place. */
  private leap(frame: number): void {
    for (const one of this.driven) one.until = frame + this.leapFrames;
  }

  /**
   * Sends every driven parameter on its way from one tick or corner to the next.
   * @param still frame at which the session stands still, null while it moves
   */
  private aim(at: number, end: number, still: number | null): void {
    for (const one of this.driven) {
      const { reader, modulations } = one;
      if (still === null && reader?.jumpsAt(at)) one.until = at + this.leapFrames;
      const arrival = Math.max(end, one.until);
      const base = !reader
        ? this.values[one.index]!
        : still === null
          ? reader.valueBefore(arrival)
          : reader.valueAt(still);
      const value = modulated(base, modulations, arrival, end - at);
      this.send(one, value, modulations[0]?.plan.stepped ? this.leapFrames : arrival - at);
    }
  }

  private send(one: Driven, value: number, frames: number): void {
    if (value === one.value) return;
    one.value = value;
    this.kernel.setParameter(one.index, value, frames);
  }
}

function copy(
  left: Float32Array,
  right: Float32Array,
  from: number,
  toLeft: Float32Array,
  toRight: Float32Array,
  to: number,
  frames: number,
): void {
  for (let i = 0; i < frames; i++) {
    toLeft[to + i] = left[from + i]!;
    toRight[to + i] = right[from + i]!;
  }
}

/** Frames of silence from `at` on. */
function silentFrom(left: Float32Array, right: Float32Array, at: number, frames: number): number {
  let i = at;
  while (i < frames && left[i] === 0 && right[i] === 0) i++;
  return i - at;
}

/** Frames of silence before `end`. */
function silentAtEnd(left: Float32Array, right: Float32Array, end: number): number {
  let i = end;
  while (i > 0 && left[i - 1] === 0 && right[i - 1] === 0) i--;
  return end - i;
}
