import { MAXIMUM_BLOCK } from '../effects/kernel';
import { wasm } from '../wasm/module';
import { Compensation } from './compensation';
import { CurvedLevel } from './curvedLevel';
import type { InsertNode } from './insertNode';
import type { PlanEdge, PlanKey, Tap } from './plan';
import type { Strip } from './strip';

const RAMP_SECONDS = 0.015;

/** An output or a send: sound of one strip, held back to meet the others, with its level into the next strip. */
export class Path {
  readonly id: string;
  leaving = false;
  readonly delay = new Compensation();
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

  /** @param place in the session of what leaves the strip now */
  process(frames: number, place: number, moving: boolean): void {
    const { from, to, level, delay } = this;
    const still = level.settled;
    if ((still && level.now === 0 && delay.idle) || (!from.sounding && delay.idle && still)) return;
    const before = this.tap === 'beforeFader';
    let left = before ? from.beforeLeft : from.left;
    let right = before ? from.beforeRight : from.right;
    if (!delay.idle) {
      const { heldLeft, heldRight } = from;
      for (let i = 0; i < frames; i++) {
        heldLeft[i] = from.sounding ? left[i]! : 0;
        heldRight[i] = from.sounding ? right[i]! : 0;
      }
      delay.process(heldLeft, heldRight, frames);
      left = heldLeft;
      right = heldRight;
    }
    to.fed = true;
    const { pathGains } = from;
    if (!still) level.fill(pathGains, frames, place, moving);
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
  readonly delay = new Compensation();
  readonly left = new Float32Array(MAXIMUM_BLOCK);
  readonly right = new Float32Array(MAXIMUM_BLOCK);

  constructor(
    readonly key: PlanKey,
    readonly from: Strip,
    readonly insert: InsertNode,
    readonly slot: string,
  ) {}

  process(frames: number): void {
    const { from, left, right } = this;
    const before = this.key.tap === 'beforeFader';
    const sourceLeft = before ? from.beforeLeft : from.left;
    const sourceRight = before ? from.beforeRight : from.right;
    for (let i = 0; i < frames; i++) {
      left[i] = from.sounding ? sourceLeft[i]! : 0;
      right[i] = from.sounding ? sourceRight[i]! : 0;
    }
    this.delay.process(left, right, frames);
  }
}
