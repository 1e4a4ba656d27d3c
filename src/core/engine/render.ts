import { MAXIMUM_BLOCK } from '../effects/kernel';
import { Engine } from './engine';
import { isPaged } from '../pages/pagedSamples';
import { LONGEST_TAIL_SECONDS, neededBy, type Plan, type Samples, type SoundSource } from './plan';
import { prepare } from './resources';

export interface RenderRange {
  readonly fromFrame: number;
  readonly toFrame: number;
  /** Seconds rendered after the range for the effects to ring out; `auto` asks them. */
  readonly tailSeconds: number | 'auto';
}

/** Work that is part of a whole: its progress goes from `from` on over a share of that. */
export function* partOf<T>(steps: Generator<number, T>, from: number, share: number): Generator<number, T> {
  try {
    for (;;) {
      const step = steps.next();
      if (step.done) return step.value;
      yield from + step.value * share;
    }
  } finally {
    steps.return(undefined as never);
  }
}

/** Frames after which progress is told. */
const REPORT_FRAMES = 32768;

/** Sounds of a plan, of which some may be read by pages. */
export interface RenderSounds {
  readonly samples: ReadonlyMap<string, SoundSource>;
  /**
   * Told before each step which frames of the session it is going to play. Whoever drives the steps has the pages of them
   * ready before the next.
   */
  reach?(fromFrame: number, frames: number): void;
}

/** Seconds for which the effects of a plan outlast its sounds; Infinity when they never fall silent. */
export function tailOf(plan: Plan, samples: ReadonlyMap<string, Samples> = new Map()): number {
  const engine = new Engine(plan.sampleRate);
  try {
    prepareFor(engine, plan, samples);
    engine.applyPlan(plan);
    return engine.tailSeconds;
  } finally {
    engine.dispose();
  }
}

/** Prepares what the effects of a plan work with, and gives it to an engine. */
function prepareFor(engine: Engine, plan: Plan, samples: ReadonlyMap<string, SoundSource>): void {
  for (const [key, insert] of neededBy(plan)) {
    const { assetId } = insert.resource!;
    engine.setResource(key, prepare(insert, plan.sampleRate, assetId === null ? null : wholeOf(samples, assetId)));
  }
}

function wholeOf(samples: ReadonlyMap<string, SoundSource>, assetId: string): Samples {
  const sound = samples.get(assetId);
  if (!sound || isPaged(sound)) throw new Error(`The sound ${assetId} of an effect was not given as a whole`);
  return sound;
}

/**
 * Prints a range of a plan: starts where the range starts (latency is cut off) and lasts the range plus the tail.
 * @param onProgress called with 0 to 1 about every 0.7 s of sound; return false to stop, which yields null
 */
export function renderPlan(
  plan: Plan,
  samples: ReadonlyMap<string, Samples>,
  range: RenderRange,
  onProgress?: (done: number) => boolean,
): Samples | null {
  const steps = renderInSteps(plan, { samples }, range);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    if (!onProgress || onProgress(step.value)) continue;
    steps.return(undefined as never);
    return null;
  }
}

/**
 * The same as a generator that yields its progress, for callers that must listen for messages in between; one that does
 * not go on to the end calls `return`.
 * @param room memory for both sides of so many frames, where somebody looks on while they are filled
 */
export function* renderInSteps(
  plan: Plan,
  sounds: RenderSounds,
  range: RenderRange,
  room = (frames: number): Samples => ({ left: new Float32Array(frames), right: new Float32Array(frames) }),
): Generator<number, Samples> {
  return yield* playThrough(plan, sounds, range, (engine, length) => {
    const { left, right } = room(length);
    return {
      lateFrames: engine.latencyFrames,
      take: (at, frames, blockLeft, blockRight) => {
        for (let i = Math.max(0, -at); i < frames && at + i < length; i++) {
          left[at + i] = blockLeft[i]!;
          right[at + i] = blockRight[i]!;
        }
      },
      end: () => ({ left, right }),
    };
  });
}

/** Collects the output of a range of a plan, block by block. */
export interface Taker<Result> {
  /** Latency of the collected output, in frames. */
  readonly lateFrames: number;
  /** Before each block. */
  readonly ready?: () => void;
  /** @param at place of the block's first frame in the result; less than 0 ahead of it */
  readonly take: (at: number, frames: number, left: Float32Array, right: Float32Array) => void;
  readonly end: () => Result;
}

/**
 * Plays a range of a plan with its tail, without its loop, and hands out what sounds, block by block.
 * @param begin told the engine, with the plan taken up, and the frames of range and tail
 */
export function* playThrough<Result>(
  plan: Plan,
  sounds: RenderSounds,
  range: RenderRange,
  begin: (engine: Engine, length: number) => Taker<Result>,
): Generator<number, Result> {
  const engine = new Engine(plan.sampleRate);
  try {
    for (const [id, sound] of sounds.samples) engine.setSamples(id, sound);
    prepareFor(engine, plan, sounds.samples);
    // A step ends with the block in which it has its frames, and what is stopped sounds on for a moment.
    const next = (done: number) => sounds.reach?.(range.fromFrame + done, REPORT_FRAMES + 2 * MAXIMUM_BLOCK);
    next(0);
    yield 0;
    engine.applyPlan({ ...plan, loop: null });
    engine.seek(range.fromFrame);
    engine.play();
    const tailSeconds =
      range.tailSeconds === 'auto' ? Math.min(LONGEST_TAIL_SECONDS, engine.tailSeconds) : range.tailSeconds;
    const sourceFrames = range.toFrame - range.fromFrame;
    const length = sourceFrames + Math.round(tailSeconds * plan.sampleRate);
    const { lateFrames, ready, take, end } = begin(engine, length);
    const left = new Float32Array(MAXIMUM_BLOCK);
    const right = new Float32Array(MAXIMUM_BLOCK);
    const total = length + lateFrames;
    let sinceReport = 0;
    for (let done = 0; done < total;) {
      if (done === sourceFrames) engine.stop();
      const limit = done < sourceFrames ? sourceFrames : total;
      const frames = Math.min(MAXIMUM_BLOCK, limit - done);
      ready?.();
      engine.renderBlock(left, right, frames);
      take(done - lateFrames, frames, left, right);
      done += frames;
      sinceReport += frames;
      if (sinceReport < REPORT_FRAMES) continue;
      sinceReport = 0;
      next(done);
      yield done / total;
    }
    return end();
  } finally {
    engine.dispose();
  }
}
