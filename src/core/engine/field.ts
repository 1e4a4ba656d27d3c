import { fieldChannels, type FieldOrder } from '../dsp/ambisonics';
import { MAXIMUM_BLOCK } from '../effects/kernel';
import type { FieldKernel } from '../effects/place/kernel';
import { CurveReader } from './curve';
import type { Plan } from './plan';
import type { RenderRange, RenderSounds } from './render';
import { OutputWindow, playInParts, type RenderedPart } from './renderParts';

/**
 * Prints a range of a plan as a sound field, part by part: what stands on the stage and feeds the last strip goes into it by
 * direction, before that strip's effects and at its level. Every strip that feeds the last must be a place alone.
 * @param order 1 or 3
 * @returns parts of 4 or 16 channels in the order of ACN with the norm SN3D
 */
export function* renderField(
  plan: Plan,
  sounds: RenderSounds,
  range: RenderRange,
  order: FieldOrder,
): Generator<RenderedPart, void> {
  const main = plan.strips.at(-1)!;
  const lane = main.curves?.gain ? new CurveReader(main.curves.gain) : null;
  const gain = main.gain * (main.audible ? 1 : 0);
  let frame = range.fromFrame;
  for (const part of encoded(plan, main.id, sounds, range, order)) {
    applyLevel(part.channels, gain, lane, frame);
    frame += part.channels[0]?.length ?? 0;
    yield part;
  }
}

/** The same before the level of the last strip. */
const encoded = (plan: Plan, mainId: string, sounds: RenderSounds, range: RenderRange, order: FieldOrder) =>
  playInParts(plan, sounds, range, (engine, length) => {
    const window = new OutputWindow(fieldChannels(order), length);
    const sources = plan.edges
      .filter(({ toId }) => toId === mainId)
      .map(({ fromId }) => ({
        kernel: engine.strip(fromId)!.inserts[0]!.kernel as FieldKernel,
        late: engine.outputLatencyOf(fromId),
        channels: Array.from({ length: fieldChannels(order) }, () => new Float64Array(MAXIMUM_BLOCK)),
      }));
    const lateFrames = Math.max(0, ...sources.map(({ late }) => late));
    return {
      window,
      lateFrames,
      ready: () => {
        for (const { kernel, channels } of sources) {
          for (const channel of channels) channel.fill(0);
          kernel.encodeField(channels);
        }
      },
      take: (latest, frames) => {
        for (const { late, channels } of sources) {
          channels.forEach((channel, n) => window.add(n, latest + lateFrames - late, frames, channel));
        }
      },
    };
  });

/** The level of the last strip, as its fader or its lane has it, over frames of the session from one on. */
function applyLevel(field: readonly Float32Array[], gain: number, lane: CurveReader | null, fromFrame: number): void {
  const length = field[0]?.length ?? 0;
  const gains = new Float64Array(MAXIMUM_BLOCK);
  for (let at = 0; at < length; at += MAXIMUM_BLOCK) {
    const frames = Math.min(MAXIMUM_BLOCK, length - at);
    if (lane) lane.fillAll(gains, 0, fromFrame + at, frames);
    else gains.fill(gain, 0, frames);
    for (const channel of field) for (let i = 0; i < frames; i++) channel[at + i] = channel[at + i]! * gains[i]!;
  }
}
