import { fieldChannels, type FieldOrder } from '../dsp/ambisonics';
import { MAXIMUM_BLOCK } from '../effects/kernel';
import type { FieldKernel } from '../effects/place/kernel';
import { CurveReader } from './curve';
import { Engine } from './engine';
import type { Plan, Samples } from './plan';
import { LONGEST_TAIL_SECONDS, prepareFor, type RenderRange } from './render';

/** Frames between two blocks after which progress is told. */
const REPORT_FRAMES = 32768;

/**
 * Prints a range of a plan as a sound field: what stands on the stage and feeds the last strip goes into it by direction,
 * before that strip's effects and at its level. Every strip that feeds the last must be a place alone. A generator like
 * `renderInSteps`.
 * @param order 1 or 3
 * @returns 4 or 16 channels in the order of ACN with the norm SN3D
 */
export function* renderField(
  plan: Plan,
  samples: ReadonlyMap<string, Samples>,
  range: RenderRange,
  order: FieldOrder,
): Generator<number, Float32Array[]> {
  const engine = new Engine(plan.sampleRate);
  try {
    for (const [id, sound] of samples) engine.setSamples(id, sound);
    prepareFor(engine, plan, samples);
    yield 0;
    engine.applyPlan({ ...plan, loop: null });
    engine.seek(range.fromFrame);
    engine.play();
    const main = plan.strips.at(-1)!;
    const blocks = () => Array.from({ length: fieldChannels(order) }, () => new Float64Array(MAXIMUM_BLOCK));
    const sources = plan.edges
      .filter(({ toId }) => toId === main.id)
      .map(({ fromId }) => ({
        kernel: engine.strip(fromId)!.inserts[0]!.kernel as FieldKernel,
        late: engine.latenessOf(fromId),
        channels: blocks(),
      }));
    const latest = Math.max(0, ...sources.map(({ late }) => late));
    const tailSeconds =
      range.tailSeconds === 'auto' ? Math.min(LONGEST_TAIL_SECONDS, engine.tailSeconds) : range.tailSeconds;
    const sourceFrames = range.toFrame - range.fromFrame;
    const length = sourceFrames + Math.round(tailSeconds * plan.sampleRate);
    const field = Array.from({ length: fieldChannels(order) }, () => new Float32Array(length));
    const [left, right] = [new Float32Array(MAXIMUM_BLOCK), new Float32Array(MAXIMUM_BLOCK)];
    const total = length + latest;
    let reported = 0;
    for (let done = 0; done < total;) {
      if (done === sourceFrames) engine.stop();
      const limit = done < sourceFrames ? sourceFrames : total;
      const frames = Math.min(MAXIMUM_BLOCK, limit - done);
      for (const { kernel, channels } of sources) {
        for (const channel of channels) channel.fill(0);
        kernel.encodeField(channels);
      }
      engine.renderBlock(left, right, frames);
      for (const { late, channels } of sources) {
        const at = done - late;
        channels.forEach((channel, n) => {
          const out = field[n]!;
          for (let i = Math.max(0, -at); i < frames && at + i < length; i++) out[at + i] = out[at + i]! + channel[i]!;
        });
      }
      done += frames;
      if (done - reported < REPORT_FRAMES) continue;
      reported = done;
      yield done / total;
    }
    applyLevel(
      field,
      main.gain * (main.audible ? 1 : 0),
      main.curves?.gain ? new CurveReader(main.curves.gain) : null,
      range,
    );
    return field;
  } finally {
    engine.dispose();
  }
}

/** The level of the last strip, as its fader or its lane has it. */
function applyLevel(field: readonly Float32Array[], gain: number, lane: CurveReader | null, range: RenderRange): void {
  const length = field[0]!.length;
  const gains = new Float64Array(MAXIMUM_BLOCK);
  for (let at = 0; at < length; at += MAXIMUM_BLOCK) {
    const frames = Math.min(MAXIMUM_BLOCK, length - at);
    if (lane) lane.fillAll(gains, 0, range.fromFrame + at, frames);
    else gains.fill(gain, 0, frames);
    for (const channel of field) for (let i = 0; i < frames; i++) channel[at + i] = channel[at + i]! * gains[i]!;
  }
}
