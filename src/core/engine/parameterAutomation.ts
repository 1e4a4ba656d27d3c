import type { Kernel, SidechainBlock } from '../effects/kernel';
import { CurveReader, sameCurve } from './curve';
import { modulated, Modulation } from './modulation';
import type { PlanInsert } from './plan';

/** Automated parameters get a target at every session frame divisible by TICK, slowly modulated ones by SLOW_TICK. */
const TICK = 32;
const SLOW_TICK = 128;
/** Duration over which a jump of an automated parameter is smoothed. */
const JUMP_SECONDS = 0.02;

/** A parameter with a lane, modulations, or both. */
interface AutomatedParameter {
  readonly index: number;
  readonly reader: CurveReader | null;
  readonly modulations: readonly Modulation[];
  value: number;
  /** Frames between two targets, and the session frame of the next one. */
  readonly tickFrames: number;
  nextUpdate: number;
  /** Value at the next update, and frames of the ramp to it. */
  target: number;
  rampFrames: number;
  /** End of the current jump smoothing, in session frames. */
  smoothUntil: number;
}

/** Processes a part of the block in which no automated parameter changes its ramp. */
export interface PartProcessor {
  processPart(from: number, frames: number): void;
}

/**
 * Drives the parameters of an effect: set values, lanes and modulators. Moving parameters are exact at every tick and corner
 * and ramp linearly between; the block is split only where a ramp changes.
 */
export class ParameterAutomation {
  private values: number[];
  private automated: readonly AutomatedParameter[] = [];
  private modulations: readonly Modulation[] = [];
  private expectedFrame = NaN;
  /** Frame of the modulators, which go on while the session is stopped. */
  clock = 0;
  private readonly jumpFrames: number;

  constructor(
    insert: PlanInsert,
    private readonly kernel: Kernel,
    private readonly sampleRate: number,
  ) {
    this.values = [...insert.values];
    this.jumpFrames = Math.round(JUMP_SECONDS * sampleRate);
    this.setAutomation(insert);
  }

  update(insert: PlanInsert): void {
    insert.values.forEach((value, index) => this.set(index, value));
    this.setAutomation(insert);
  }

  private setAutomation(insert: PlanInsert): void {
    const { curves = [], modulations = [] } = insert;
    const before = this.automated;
    this.modulations = modulations.map((plan) => {
      const old = this.modulations.find((one) => one.plan.id === plan.id);
      return old && JSON.stringify(old.plan) === JSON.stringify(plan)
        ? old
        : new Modulation(plan, this.sampleRate, old);
    });
    const places = [...new Set([...curves, ...modulations].map(({ index }) => index))].sort((a, b) => a - b);
    this.automated = places.map((index) => {
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
      const tickFrames = !reader && own.every(({ isSlow }) => isSlow) ? SLOW_TICK : TICK;
      const start = { nextUpdate: -Infinity, value: NaN, target: NaN, rampFrames: 0, smoothUntil: -Infinity };
      return { index, reader, modulations: own, tickFrames, ...start };
    });
    for (const index of places) this.kernel.prepareAutomation?.(index);
    // A new lane or modulation is smoothed like a jump.
    if (this.automated.some((one) => !before.includes(one))) this.expectedFrame = NaN;
    for (const { index } of before) {
      if (!this.automated.some((one) => one.index === index)) this.kernel.setParameter(index, this.values[index]!);
    }
  }

  /** Sets the inputs of followers, by the id of their modulation. */
  setFollowerInputs(sounds: ReadonlyMap<string, SidechainBlock>): void {
    for (const modulation of this.modulations) modulation.input = sounds.get(modulation.plan.id) ?? null;
  }

  /** Moves a macro; `part` is 0 to 1. */
  moveMacro(id: string, part: number): void {
    for (const modulation of this.modulations) modulation.moveMacro(id, part);
  }

  set(index: number, value: number): void {
    if (this.values[index] === value) return;
    this.values[index] = value;
    const automated = this.automated.find((one) => one.index === index);
    if (!automated) this.kernel.setParameter(index, value);
    else if (!automated.reader) this.expectedFrame = NaN;
  }

  /** Current value of a parameter, automated and modulated. */
  valueOf(index: number): number {
    for (const one of this.automated) if (one.index === index) return one.value;
    return this.values[index]!;
  }

  /** Sets all parameters to their values at a session frame, without ramps. */
  reset(frame: number): void {
    for (const modulation of this.modulations) modulation.reset();
    for (const one of this.automated) {
      const base = one.reader ? one.reader.valueAt(frame) : this.values[one.index]!;
      one.value = modulated(base, one.modulations, frame, 0);
      one.smoothUntil = -Infinity;
      one.nextUpdate = -Infinity;
      this.kernel.setParameter(one.index, one.value);
    }
    this.expectedFrame = frame;
  }

  /**
   * Updates parameters over a block and calls `doing` for the parts in between.
   * @param sound input of the effect, for followers of it; null while it is suspended
   * @param frame session frame of the first sample
   * @param doing null while the effect is suspended
   */
  process(
    sound: SidechainBlock | null,
    frames: number,
    frame: number,
    moving: boolean,
    doing: PartProcessor | null,
  ): void {
    // While the session is stopped, modulators run by their own clock.
    const returned = moving && this.clock !== frame;
    if (returned) this.clock = frame;
    const begin = this.clock;
    this.clock = begin + frames;
    if (this.automated.length === 0) {
      doing?.processPart(0, frames);
      return;
    }
    if (returned || frame !== this.expectedFrame) {
      for (const one of this.automated) {
        one.smoothUntil = begin + this.jumpFrames;
        one.nextUpdate = -Infinity;
      }
    }
    this.expectedFrame = moving ? frame + frames : frame;
    let from = 0;
    for (let done = 0; done < frames;) {
      const at = begin + done;
      let end = tickAfter(at, TICK);
      if (moving) for (const { reader } of this.automated) if (reader) end = Math.min(end, reader.cornerAfter(at));
      if (this.updateTargets(at, end, moving ? null : frame)) {
        if (done > from) doing?.processPart(from, done - from);
        from = done;
        this.applyTargets();
      }
      const count = Math.min(frames - done, end - at);
      for (const modulation of this.modulations) modulation.follow(done, count, sound);
      done += count;
    }
    doing?.processPart(from, frames - from);
  }

  /**
   * Computes the targets of all automated parameters at the next tick or corner.
   * @param still session frame while stopped, null while playing
   * @returns true if a ramp changes
   */
  private updateTargets(at: number, end: number, still: number | null): boolean {
    let changed = false;
    for (const one of this.automated) {
      if (at < one.nextUpdate) continue;
      const { reader, modulations } = one;
      if (still === null && reader?.jumpsAt(at)) one.smoothUntil = at + this.jumpFrames;
      one.nextUpdate = one.tickFrames === TICK ? end : tickAfter(at, one.tickFrames);
      const arrival = Math.max(one.nextUpdate, one.smoothUntil);
      const base = !reader
        ? this.values[one.index]!
        : still === null
          ? reader.valueBefore(arrival)
          : reader.valueAt(still);
      one.target = modulated(base, modulations, arrival, one.nextUpdate - at);
      one.rampFrames = modulations[0]?.plan.stepped ? this.jumpFrames : arrival - at;
      if (one.target !== one.value) changed = true;
    }
    return changed;
  }

  private applyTargets(): void {
    for (const one of this.automated) {
      if (one.target === one.value) continue;
      one.value = one.target;
      this.kernel.setParameter(one.index, one.value, one.rampFrames);
    }
  }
}

function tickAfter(frame: number, tick: number): number {
  return (Math.floor(frame / tick) + 1) * tick;
}
