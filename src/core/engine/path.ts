import { MAXIMUM_BLOCK } from '../effects/kernel';
import { Arena } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { Compensation } from '../dsp/compensation';
import { CurvedLevel } from './curvedLevel';
import type { InsertNode } from './insertNode';
import type { PlanEdge, PlanKey, Tap } from './plan';
import type { Strip } from './strip';

const RAMP_SECONDS = 0.015;

/** An output or a send: sound of one strip, held back to meet the others, with its level into the next strip. */
export class Path {
  readonly id: string;
  leaving = false;
  readonly delay: Compensation;
  private readonly level: CurvedLevel;
  private readonly loops = wasm().loops;

  constructor(
    edge: PlanEdge,
    readonly from: Strip,
    readonly to: Strip,
    readonly tap: Tap,
    sampleRate: number,
    fresh: boolean,
  ) {
    this.id = edge.id;
    this.delay = new Compensation(from.memory);
    this.level = new CurvedLevel(fresh ? edge.gain : 0, Math.round(RAMP_SECONDS * sampleRate), edge.curve);
    this.setGain(edge.gain);
  }

  update(edge: PlanEdge): void {
    this.leaving = false;
    this.level.setCurve(edge.curve);
    this.level.moveTo(edge.gain);
  }

  setGain(gain: number): void {
    this.level.moveTo(gain);
  }

  leave(): void {
    this.leaving = true;
    this.level.setCurve(undefined);
    this.level.moveTo(0);
  }

  get gone(): boolean {
    return this.leaving && this.level.settled;
  }

  reset(place: number): void {
    this.level.reset(place);
  }

  dispose(): void {
    this.delay.dispose();
  }

  /** @param place in the session of what leaves the strip now */
  process(frames: number, place: number, moving: boolean): void {
    const { from, to, level, delay } = this;
    const { pathGains, sounding } = from;
    const still = level.settled;
    if (!still) level.fill(pathGains, frames, place, moving);
    if (!sounding && delay.empty) return;
    const before = this.tap === 'beforeFader';
    let left = before ? from.beforeLeft : from.left;
    let right = before ? from.beforeRight : from.right;
    if (delay.holds) {
      const { heldLeft, heldRight } = from;
      delay.process(left, right, sounding, heldLeft, heldRight, frames);
      left = heldLeft;
      right = heldRight;
    }
    if (still && level.now === 0) return;
    to.fed = true;
    this.loops.mixFloats(
      to.left.byteOffset,
      to.right.byteOffset,
      left.byteOffset,
      right.byteOffset,
      level.now,
      still ? 0 : pathGains.byteOffset,
      frames,
    );
  }
}

/** The sound of a strip on its way into the key of an effect, held back to meet what the effect works on. */
export class KeyPath {
  private readonly memory = new Arena();
  readonly delay = new Compensation(this.memory);
  readonly left = this.memory.floats(MAXIMUM_BLOCK);
  readonly right = this.memory.floats(MAXIMUM_BLOCK);

  constructor(
    readonly key: PlanKey,
    readonly from: Strip,
    readonly insert: InsertNode,
    readonly slot: string,
  ) {}

  dispose(): void {
    this.memory.free();
  }

  process(frames: number): void {
    const { from, left, right } = this;
    const before = this.key.tap === 'beforeFader';
    const sourceLeft = before ? from.beforeLeft : from.left;
    const sourceRight = before ? from.beforeRight : from.right;
    this.delay.process(sourceLeft, sourceRight, from.sounding, left, right, frames);
  }
}
