import { MAXIMUM_BLOCK } from '../effects/kernel';
import { Arena } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { LatencyCompensator } from '../dsp/latencyCompensator';
import { CurvedLevel } from './curvedLevel';
import type { InsertNode } from './insertNode';
import type { PlanEdge, PlanKey, Tap } from './plan';
import type { Strip } from './strip';

const RAMP_SECONDS = 0.015;

/** An output or a send: a strip's signal, delayed to meet the others, added to another strip at its level. */
export class Route {
  readonly id: string;
  isLeaving = false;
  readonly delay: LatencyCompensator;
  private readonly level: CurvedLevel;
  private readonly wasmKernels = wasm().kernels;

  constructor(
    edge: PlanEdge,
    readonly source: Strip,
    readonly destination: Strip,
    readonly tap: Tap,
    sampleRate: number,
    fresh: boolean,
  ) {
    this.id = edge.id;
    this.delay = new LatencyCompensator(source.memory);
    this.level = new CurvedLevel(fresh ? edge.gain : 0, Math.round(RAMP_SECONDS * sampleRate), edge.curve);
    this.setGain(edge.gain);
  }

  update(edge: PlanEdge): void {
    this.isLeaving = false;
    this.level.setCurve(edge.curve);
    this.level.moveTo(edge.gain);
  }

  setGain(gain: number): void {
    this.level.moveTo(gain);
  }

  fadeOut(): void {
    this.isLeaving = true;
    this.level.setCurve(undefined);
    this.level.moveTo(0);
  }

  get isGone(): boolean {
    return this.isLeaving && this.level.settled;
  }

  reset(place: number): void {
    this.level.reset(place);
  }

  dispose(): void {
    this.delay.dispose();
  }

  /** @param place session frame of the strip's output */
  process(frames: number, place: number, moving: boolean): void {
    const { source, destination, level, delay } = this;
    const { routeGains, isSounding } = source;
    const still = level.settled;
    if (!still) level.fill(routeGains, frames, place, moving);
    if (!isSounding && delay.isSilent) return;
    const before = this.tap === 'beforeFader';
    let left = before ? source.preFaderLeft : source.left;
    let right = before ? source.preFaderRight : source.right;
    if (delay.hasHistory) {
      const { delayedLeft, delayedRight } = source;
      delay.process(left, right, isSounding, delayedLeft, delayedRight, frames);
      left = delayedLeft;
      right = delayedRight;
    }
    if (still && level.now === 0) return;
    destination.isFed = true;
    this.wasmKernels.mixFloats(
      destination.left.byteOffset,
      destination.right.byteOffset,
      left.byteOffset,
      right.byteOffset,
      level.now,
      still ? 0 : routeGains.byteOffset,
      frames,
    );
  }
}

/** The side chain of an effect: a strip's signal, delayed to meet the effect's input. */
export class SidechainRoute {
  private readonly memory = new Arena();
  readonly delay = new LatencyCompensator(this.memory);
  readonly left = this.memory.floats(MAXIMUM_BLOCK);
  readonly right = this.memory.floats(MAXIMUM_BLOCK);

  constructor(
    readonly key: PlanKey,
    readonly source: Strip,
    readonly insert: InsertNode,
    readonly slot: string,
  ) {}

  dispose(): void {
    this.memory.free();
  }

  process(frames: number): void {
    const { source, left, right } = this;
    const before = this.key.tap === 'beforeFader';
    const sourceLeft = before ? source.preFaderLeft : source.left;
    const sourceRight = before ? source.preFaderRight : source.right;
    this.delay.process(sourceLeft, sourceRight, source.isSounding, left, right, frames);
  }
}
