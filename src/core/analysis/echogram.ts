import { DelayLine } from '../dsp/delayLine';
import { MAXIMUM_BLOCK, type Kernel, type LineShare, DEFAULT_MUSICAL_CONTEXT } from '../effects/kernel';
import { KERNELS } from '../effects/kernels.generated';
import { Arena } from '../wasm/arena';
import type { PlanInsert, Samples } from '../engine/plan';
import { chainPlan } from '../engine/plans';
import { renderInSteps, tailOf } from '../engine/render';

/** An impulse response, reduced for drawing. Levels are factors of the impulse's own. */
export interface Echogram {
  readonly seconds: number;
  /** Largest magnitude within each slot of equal length, left and right. */
  readonly left: Float32Array;
  readonly right: Float32Array;
  /** Times of these maxima, in seconds after the impulse, exact to the frame. */
  readonly leftSeconds: Float64Array;
  readonly rightSeconds: Float64Array;
  /** The dry signal, at the moment of the impulse. */
  readonly dryLeft: number;
  readonly dryRight: number;
  /** It never falls silent. */
  readonly endless: boolean;
}

/** No echogram is shorter, in seconds. */
const SHORTEST = 0.01;
/** Frames of sound between two chances to stop. */
const STEP_FRAMES = 32768;
/** A sum of shares that is too small to divide by. */
const SILENT = 1e-12;

/** One channel of an impulse response as it comes in, reduced to the largest magnitude in each slot. */
class Peaks {
  readonly levels: Float32Array;
  readonly seconds: Float64Array;
  dry = 0;
  private readonly perFrame: number;

  constructor(
    private readonly sampleRate: number,
    seconds: number,
    slots: number,
  ) {
    this.levels = new Float32Array(slots);
    this.seconds = new Float64Array(slots);
    this.perFrame = slots / Math.round(seconds * sampleRate);
  }

  /** @param from frame after the impulse at which the block begins */
  take(block: ArrayLike<number>, frames: number, from: number): void {
    const { levels, seconds, perFrame, sampleRate } = this;
    for (let i = Math.max(0, -from); i < frames; i++) {
      const frame = from + i;
      const magnitude = Math.abs(block[i]!);
      if (frame === 0) {
        this.dry = magnitude;
        continue;
      }
      const slot = Math.floor(frame * perFrame);
      if (slot >= levels.length || magnitude <= levels[slot]!) continue;
      levels[slot] = magnitude;
      seconds[slot] = frame / sampleRate;
    }
  }
}

function echogramOf(seconds: number, left: Peaks, right: Peaks, endless: boolean): Echogram {
  return {
    seconds,
    left: left.levels,
    right: right.levels,
    leftSeconds: left.seconds,
    rightSeconds: right.seconds,
    dryLeft: left.dry,
    dryRight: right.dry,
    endless,
  };
}

/** Seconds worth showing, at most `most`: what follows the tail that the effects state counts as silence. */
function spanOf(tailSeconds: number, most: number): number {
  return Math.min(most, Math.max(SHORTEST, tailSeconds));
}

/**
 * Sends a unit impulse through a chain in the engine itself and reduces what comes out to `slots` peaks over `most`
 * seconds, or as long as it lasts. A generator, so that its caller can stop between steps.
 * @param sounds those that its effects work with, by id
 * @returns one echogram; the first slot holds only what is later than the dry sound
 */
export function* chainEchogram(
  inserts: readonly PlanInsert[],
  sampleRate: number,
  most: number,
  slots: number,
  sounds: ReadonlyMap<string, Samples> = new Map(),
): Generator<number, Echogram[]> {
  const sound = new Float32Array(1);
  sound[0] = 1;
  const { plan, samples } = chainPlan(inserts, sampleRate, { left: sound, right: sound }, sounds);
  const tail = tailOf(plan, samples);
  const seconds = spanOf(tail, most);
  const toFrame = Math.ceil(seconds * sampleRate) + 1;
  const out = yield* renderInSteps(plan, { samples }, { fromFrame: 0, toFrame, tailSeconds: 0 });
  const [left, right] = [new Peaks(sampleRate, seconds, slots), new Peaks(sampleRate, seconds, slots)];
  left.take(out.left, toFrame, 0);
  right.take(out.right, toFrame, 0);
  return [echogramOf(seconds, left, right, tail === Infinity)];
}

/** One channel of an effect's lines: their shares, held back to meet what is heard, and the peaks of each. */
class SharedChannel {
  readonly peaks: readonly Peaks[];
  readonly whole: Peaks;
  private readonly late: readonly DelayLine[];
  private readonly sums = new Float64Array(MAXIMUM_BLOCK);

  constructor(
    private readonly shares: readonly Float64Array[],
    private readonly latency: number,
    sampleRate: number,
    seconds: number,
    slots: number,
  ) {
    this.peaks = shares.map(() => new Peaks(sampleRate, seconds, slots));
    this.whole = new Peaks(sampleRate, seconds, slots);
    this.late = shares.map(() => new DelayLine(latency + 1));
  }

  /** Lowers the shares as the effect lowered their sum, by its limiter, and takes them in. */
  take(heard: Float32Array, at: number): void {
    const { shares, late, latency, sums } = this;
    sums.fill(0);
    shares.forEach((share, line) => {
      for (let i = 0; i < MAXIMUM_BLOCK; i++) {
        late[line]!.write(share[i]!);
        share[i] = late[line]!.readInteger(latency + 1);
        sums[i] = sums[i]! + share[i]!;
      }
    });
    for (let i = 0; i < MAXIMUM_BLOCK; i++) {
      const sum = sums[i]!;
      const lowered = Math.abs(sum) < SILENT ? 1 : Math.abs(heard[i]! / sum);
      if (lowered < 1) for (const share of shares) share[i] = share[i]! * lowered;
    }
    this.whole.take(heard, MAXIMUM_BLOCK, at - latency);
    shares.forEach((share, line) => this.peaks[line]!.take(share, MAXIMUM_BLOCK, at - latency));
  }
}

/**
 * The same for an effect with several lines: what each line in use has in the answer to the impulse, in one go. All
 * lines sound and feed one another meanwhile.
 * @returns the echogram of all, then one for each line in use, in their order; the dry sound stands in each
 */
export function* lineEchograms(
  { effect, values, settings = {} }: PlanInsert,
  sampleRate: number,
  most: number,
  slots: number,
): Generator<number, Echogram[]> {
  const memory = new Arena();
  try {
    const kernel = KERNELS[effect]!({ sampleRate, values, settings, music: DEFAULT_MUSICAL_CONTEXT, memory });
    return yield* echogramsOf(kernel, memory, effect, sampleRate, most, slots);
  } finally {
    memory.free();
  }
}

function* echogramsOf(
  kernel: Kernel,
  memory: Arena,
  effect: string,
  sampleRate: number,
  most: number,
  slots: number,
): Generator<number, Echogram[]> {
  if (!kernel.splitLines) throw new Error(`${effect} has no lines to tell apart`);
  const tail = kernel.tailSeconds();
  const seconds = spanOf(tail, most);
  const block = () => new Float64Array(MAXIMUM_BLOCK);
  const shares = Array.from({ length: kernel.splitLines([]) }, (): LineShare => ({ left: block(), right: block() }));
  kernel.splitLines(shares);
  kernel.locate(0);
  const latency = kernel.latencyFrames;
  const needed = latency + Math.ceil(seconds * sampleRate) + 1;
  const channel = (side: 'left' | 'right') =>
    new SharedChannel(
      shares.map((share) => share[side]),
      latency,
      sampleRate,
      seconds,
      slots,
    );
  const [first, second] = [channel('left'), channel('right')];
  const left = memory.floats(MAXIMUM_BLOCK);
  const right = memory.floats(MAXIMUM_BLOCK);
  for (let at = 0; at < needed; at += MAXIMUM_BLOCK) {
    left.fill(0);
    right.fill(0);
    if (at === 0) left[0] = right[0] = 1;
    kernel.process(left, right, MAXIMUM_BLOCK);
    first.take(left, at);
    second.take(right, at);
    if (at % STEP_FRAMES === 0) yield at / needed;
  }
  const endless = tail === Infinity;
  const whole = echogramOf(seconds, first.whole, second.whole, endless);
  const { dryLeft, dryRight } = whole;
  const lines = shares.map((_, line) => echogramOf(seconds, first.peaks[line]!, second.peaks[line]!, endless));
  return [whole, ...lines.map((one) => ({ ...one, dryLeft, dryRight }))];
}
