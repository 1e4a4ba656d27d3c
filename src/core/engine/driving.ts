import type { Kernel, KeySound } from '../effects/kernel';
import { CurveReader, sameCurve } from './curve';
import { modulated, Modulation } from './modulation';
import type { PlanInsert } from './plan';

/** Driven parameters are told where to be at every session frame divisible by this, slowly modulated ones by the second. */
const TICK = 32;
const SLOW_TICK = 128;
/** A leap of an automated parameter is taken within this time. */
const LEAP_SECONDS = 0.02;

/** A parameter that automation moves, or modulations, or both. */
interface Driven {
  readonly index: number;
  readonly reader: CurveReader | null;
  readonly modulations: readonly Modulation[];
  value: number;
  /** Frames between two looks at where it is to be, and the frame of the next one. */
  readonly tick: number;
  due: number;
  /** Where it is to be then, and how long it takes there. */
  next: number;
  frames: number;
  /** Session frame up to which a leap is being smoothed. */
  until: number;
}

/** Does the work of an effect on a part of the block while nothing that is driven changes its course. */
export interface DrivenWork {
  work(from: number, frames: number): void;
}

/**
 * The parameters of an effect: set by hand, moved along curves, moved by modulators. Those that move are exact at every
 * tick and corner and go between in straight lines; the block is cut only where one of them changes its course.
 */
export class Driving {
  private values: number[];
  private driven: readonly Driven[] = [];
  private modulations: readonly Modulation[] = [];
  private expected = NaN;
  /** Modulators go on while the session stands still: the frame they are at. */
  clock = 0;
  private readonly leapFrames: number;

  constructor(
    insert: PlanInsert,
    private readonly kernel: Kernel,
    private readonly sampleRate: number,
  ) {
    this.values = [...insert.values];
    this.leapFrames = Math.round(LEAP_SECONDS * sampleRate);
    this.drive(insert);
  }

  update(insert: PlanInsert): void {
    insert.values.forEach((value, index) => this.set(index, value));
    this.drive(insert);
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
      const tick = !reader && own.every(({ slow }) => slow) ? SLOW_TICK : TICK;
      const start = { due: -Infinity, value: NaN, next: NaN, frames: 0, until: -Infinity };
      return { index, reader, modulations: own, tick, ...start };
    });
    for (const index of places) this.kernel.prepare?.(index);
    // What is new is taken up as softly as a leap.
    if (this.driven.some((one) => !before.includes(one))) this.expected = NaN;
    for (const { index } of before) {
      if (!this.driven.some((one) => one.index === index)) this.kernel.setParameter(index, this.values[index]!);
    }
  }

  /** Gives followers what they listen to, by the id of their modulation. */
  listenTo(sounds: ReadonlyMap<string, KeySound>): void {
    for (const modulation of this.modulations) modulation.sound = sounds.get(modulation.plan.id) ?? null;
  }

  /** A hand has moved a modulator. */
  moveHand(id: string, part: number): void {
    for (const modulation of this.modulations) modulation.moveHand(id, part);
  }

  set(index: number, value: number): void {
    if (this.values[index] === value) return;
    this.values[index] = value;
    const driven = this.driven.find((one) => one.index === index);
    if (!driven) this.kernel.setParameter(index, value);
    else if (!driven.reader) this.expected = NaN;
  }

  /** Where automation or modulation has a parameter now; its set value where neither moves it. */
  valueOf(index: number): number {
    for (const one of this.driven) if (one.index === index) return one.value;
    return this.values[index]!;
  }

  /** Everything goes at once to where it is at a frame of the session. */
  reset(frame: number): void {
    for (const modulation of this.modulations) modulation.reset();
    for (const one of this.driven) {
      const base = one.reader ? one.reader.valueAt(frame) : this.values[one.index]!;
      one.value = modulated(base, one.modulations, frame, 0);
      one.until = -Infinity;
      one.due = -Infinity;
      this.kernel.setParameter(one.index, one.value);
    }
    this.expected = frame;
  }

  /**
   * Moves what is driven through a block and lets the work be done in between.
   * @param sound what goes into the effect, for followers of that; null while it is passed over
   * @param frame of the session that the sound comes from
   * @param doing null while the effect is passed over
   */
  move(sound: KeySound | null, frames: number, frame: number, moving: boolean, doing: DrivenWork | null): void {
    // While the session stands still modulators go on by a clock of their own.
    const returned = moving && this.clock !== frame;
    if (returned) this.clock = frame;
    const begin = this.clock;
    this.clock = begin + frames;
    if (this.driven.length === 0) {
      doing?.work(0, frames);
      return;
    }
    if (returned || frame !== this.expected) {
      for (const one of this.driven) {
        one.until = begin + this.leapFrames;
        one.due = -Infinity;
      }
    }
    this.expected = moving ? frame + frames : frame;
    let from = 0;
    for (let done = 0; done < frames;) {
      const at = begin + done;
      let end = tickAfter(at, TICK);
      if (moving) for (const { reader } of this.driven) if (reader) end = Math.min(end, reader.cornerAfter(at));
      if (this.aim(at, end, moving ? null : frame)) {
        if (done > from) doing?.work(from, done - from);
        from = done;
        this.send();
      }
      const count = Math.min(frames - done, end - at);
      for (const modulation of this.modulations) modulation.listen(done, count, sound);
      done += count;
    }
    doing?.work(from, frames - from);
  }

  /**
   * Works out where every driven parameter is to be at the next tick or corner.
   * @param still frame at which the session stands still, null while it moves
   * @returns whether one of them goes on otherwise than before
   */
  private aim(at: number, end: number, still: number | null): boolean {
    let changed = false;
    for (const one of this.driven) {
      if (at < one.due) continue;
      const { reader, modulations } = one;
      if (still === null && reader?.jumpsAt(at)) one.until = at + this.leapFrames;
      one.due = one.tick === TICK ? end : tickAfter(at, one.tick);
      const arrival = Math.max(one.due, one.until);
      const base = !reader
        ? this.values[one.index]!
        : still === null
          ? reader.valueBefore(arrival)
          : reader.valueAt(still);
      one.next = modulated(base, modulations, arrival, one.due - at);
      one.frames = modulations[0]?.plan.stepped ? this.leapFrames : arrival - at;
      if (one.next !== one.value) changed = true;
    }
    return changed;
  }

  private send(): void {
    for (const one of this.driven) {
      if (one.next === one.value) continue;
      one.value = one.next;
      this.kernel.setParameter(one.index, one.value, one.frames);
    }
  }
}

function tickAfter(frame: number, tick: number): number {
  return (Math.floor(frame / tick) + 1) * tick;
}
