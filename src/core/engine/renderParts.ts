import type { Engine } from './engine';
import type { Plan } from './plan';
import { playThrough, type RenderRange, type RenderSounds, type Taker } from './render';

/** Output of one step of a render. */
export interface RenderedPart {
  /** Progress, 0 to 1. */
  readonly done: number;
  /** The next frames, one array a channel; no arrays before the first block. */
  readonly channels: readonly Float32Array[];
}

/** Output of a render from the frame on that is handed out next. It grows as far as it is filled. */
export class OutputWindow {
  private channels: Float32Array[];
  /** Place of the first frame that is held. */
  private first = 0;

  /** @param length frames of the whole; what lies beyond is left out */
  constructor(
    count: number,
    private readonly length: number,
  ) {
    this.channels = Array.from({ length: count }, () => new Float32Array(65536));
  }

  /** Places of a block's frames from the first to behind the last that are held here. */
  private bounds(at: number, frames: number): readonly [number, number] {
    const end = Math.min(at + frames, this.length);
    if (end - this.first > this.channels[0]!.length) this.grow(end - this.first);
    return [Math.max(at, this.first), end];
  }

  private grow(frames: number): void {
    this.channels = this.channels.map((held) => {
      const more = new Float32Array(2 * frames);
      more.set(held);
      return more;
    });
  }

  /** @param at place of the block's first frame; less than 0 ahead of the whole */
  put(channel: number, at: number, frames: number, block: Float32Array): void {
    const [from, to] = this.bounds(at, frames);
    const out = this.channels[channel]!;
    for (let place = from; place < to; place++) out[place - this.first] = block[place - at]!;
  }

  add(channel: number, at: number, frames: number, block: Float64Array): void {
    const [from, to] = this.bounds(at, frames);
    const out = this.channels[channel]!;
    for (let place = from; place < to; place++) out[place - this.first] = out[place - this.first]! + block[place - at]!;
  }

  /** Hands out the frames up to a place, which no block reaches any more. */
  takeTo(place: number): Float32Array[] {
    const frames = Math.max(0, Math.min(place, this.length) - this.first);
    const taken = this.channels.map((held) => held.slice(0, frames));
    for (const held of this.channels) {
      held.copyWithin(0, frames);
      held.fill(0, held.length - frames);
    }
    this.first += frames;
    return taken;
  }
}

/** Fills a window block by block. */
interface WindowTaker extends Omit<Taker<void>, 'end'> {
  readonly window: OutputWindow;
}

/**
 * Plays a range of a plan with its tail and hands out what comes, step by step, so that no more of it need be held.
 * @param begin as for `playThrough`
 */
export function* playInParts(
  plan: Plan,
  sounds: RenderSounds,
  range: RenderRange,
  begin: (engine: Engine, length: number) => WindowTaker,
): Generator<RenderedPart, void> {
  let window: OutputWindow | null = null;
  let reached = 0;
  const steps = playThrough(plan, sounds, range, (engine, length) => {
    const taker = begin(engine, length);
    window = taker.window;
    return {
      ...taker,
      take: (at, frames, left, right) => {
        taker.take(at, frames, left, right);
        reached = at + frames;
      },
      end: () => taker.window,
    };
  });
  try {
    for (;;) {
      const step = steps.next();
      if (step.done) {
        yield { done: 1, channels: step.value.takeTo(Infinity) };
        return;
      }
      yield { done: step.value, channels: (window as OutputWindow | null)?.takeTo(reached) ?? [] };
    }
  } finally {
    steps.return(undefined as never);
  }
}

/** Both sides of a range of a plan with its tail. */
export const renderParts = (plan: Plan, sounds: RenderSounds, range: RenderRange): Generator<RenderedPart, void> =>
  playInParts(plan, sounds, range, (engine, length) => {
    const window = new OutputWindow(2, length);
    return {
      window,
      lateFrames: engine.latencyFrames,
      take: (at, frames, left, right) => {
        window.put(0, at, frames, left);
        window.put(1, at, frames, right);
      },
    };
  });
