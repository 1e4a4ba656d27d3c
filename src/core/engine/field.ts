import { fieldChannels, type FieldOrder } from '../dsp/ambisonics';
import { MAXIMUM_BLOCK } from '../effects/kernel';
import type { FieldKernel } from '../effects/place/kernel';
import { CurveReader } from './curve';
import type { Plan, Samples } from './plan';
import { playThrough, type RenderRange } from './render';

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
  const main = plan.strips.at(-1)!;
  return yield* playThrough(plan, samples, range, (engine, length) => {
    const field = Array.from({ length: fieldChannels(order) }, () => new Float32Array(length));
    const sources = plan.edges
      .filter(({ toId }) => toId === main.id)
      .map(({ fromId }) => ({
        kernel: engine.strip(fromId)!.inserts[0]!.kernel as FieldKernel,
        late: engine.outputLatencyOf(fromId),
        channels: Array.from({ length: fieldChannels(order) }, () => new Float64Array(MAXIMUM_BLOCK)),
      }));
    const lateFrames = Math.max(0, ...sources.map(({ late }) => late));
    return {
      lateFrames,
      ready: () => {
        for (const { kernel, channels } of sources) {
          for (const channel of channels) channel.fill(0);
          kernel.encodeField(channels);
        }
      },
      take: (latest, frames) => {
        for (const { late, channels } of sources) {
          const at = latest + lateFrames - late;
          channels.forEach((channel, n) => {
            const out = field[n]!;
            for (let i = Math.max(0, -at); i < frames && at + i < length; i++) out[at + i] = out[at + i]! + channel[i]!;
          });
        }
      },
      end: () => {
        const lane = main.curves?.gain ? new CurveReader(main.curves.gain) : null;
        applyLevel(field, main.gain * (main.audible ? 1 : 0), lane, range);
        return field;
      },
    };
  });
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
