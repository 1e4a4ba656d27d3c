/** Renders that leave as sound files: no more of them is held than a part. */
import { ClippingMeter } from '../analysis/clipping';
import { LevelMeter } from '../analysis/levels';
import { fieldChannels } from '../dsp/ambisonics';
import { renderField } from '../engine/field';
import { LONGEST_TAIL_SECONDS } from '../engine/plan';
import type { RenderRange } from '../engine/render';
import { renderParts } from '../engine/renderParts';
import type { FileSink } from '../formats/fileSink';
import { joined } from '../formats/parts';
import { outputFormat, type OutputFormatId } from '../formats/soundFormats';
import type { SoundWriter } from '../formats/soundWriter';
import { openWriter } from '../formats/writeSound';
import { dbToGain } from '../math/elementary';
import { withSounds } from './jobSounds';
import type { JobInputs, JobResults, JobStep, PrintedSound, Rendering } from './kinds';
import type { JobPlace } from './place';

/** A tail is over when this has been the last frame above -100 dBFS for so long. */
const SILENCE = 1e-5;
const AFTER_SECONDS = 0.05;

/** Leaves out the silence at the end of the tail; the range itself stays whole. */
class TailEnd {
  private held: readonly Float32Array[] = [];
  private handedOn = 0;
  /** Frames that stay, as far as is known. */
  private kept: number;

  constructor(
    rangeFrames: number,
    private readonly sampleRate: number,
  ) {
    this.kept = rangeFrames;
  }

  /** @returns those of the frames so far that stay, and have not been given before */
  take(channels: readonly Float32Array[]): readonly Float32Array[] {
    const before = this.held[0]?.length ?? 0;
    const all = channels.map((channel, n) => joined(this.held[n] ?? new Float32Array(), channel));
    for (let last = all[0]!.length - 1; last >= before; last--) {
      if (all.every((channel) => Math.abs(channel[last]!) < SILENCE)) continue;
      this.kept = Math.max(this.kept, this.handedOn + last + 1 + Math.round(AFTER_SECONDS * this.sampleRate));
      break;
    }
    const count = Math.min(all[0]!.length, this.kept - this.handedOn);
    this.held = all.map((channel) => channel.subarray(count));
    this.handedOn += count;
    return all.map((channel) => channel.subarray(0, count));
  }
}

/** Frames that a range has with its tail at most. */
function mostFrames({ fromFrame, toFrame, tailSeconds }: RenderRange, sampleRate: number): number {
  const seconds = tailSeconds === 'auto' ? LONGEST_TAIL_SECONDS : tailSeconds;
  return toFrame - fromFrame + Math.ceil(seconds * sampleRate);
}

/** A sound file on its way into a sink. */
class SoundFile {
  frames = 0;

  private constructor(
    private readonly writer: SoundWriter,
    private readonly sink: FileSink,
  ) {}

  static async begin(
    { sink }: JobPlace,
    sampleRateHz: number,
    channels: number,
    format: OutputFormatId,
    most: number,
  ): Promise<SoundFile> {
    return new SoundFile(await openWriter(sampleRateHz, channels, format, most), sink);
  }

  async write(channels: readonly Float32Array[]): Promise<void> {
    this.frames += channels[0]!.length;
    await this.sink.write(this.writer.write(channels));
  }

  async end(): Promise<void> {
    const { rest, head } = this.writer.end();
    await this.sink.write(rest);
    await this.sink.end(head);
  }

  free(): void {
    this.writer.free();
  }
}

/** What a range of a plan sounds like, part by part. */
const heard = ({ plan, samples, range }: Rendering, place: JobPlace) =>
  withSounds(plan, samples, place, (sounds) => renderParts(plan, sounds, range));

/** A mix, or a field, as a file for others. */
export async function* bounce(
  { format, gainDb, field, ...rendering }: JobInputs['bounce'],
  place: JobPlace,
): AsyncGenerator<JobStep, JobResults['bounce']> {
  const { plan, samples, range } = rendering;
  const { sampleRate } = plan;
  const most = mostFrames(range, sampleRate);
  const file = await SoundFile.begin(place, sampleRate, field ? fieldChannels(field) : 2, format, most);
  // A field is judged by what it has from all directions: its first channel.
  const levels = new LevelMeter(sampleRate, field ? 1 : 2);
  const clipping = outputFormat(format).passesFullScale ? null : new ClippingMeter();
  const tail = range.tailSeconds === 'auto' ? new TailEnd(range.toFrame - range.fromFrame, sampleRate) : null;
  const gain = dbToGain(gainDb);
  try {
    const parts = field
      ? withSounds(plan, samples, place, (sounds) => renderField(plan, sounds, range, field))
      : heard(rendering, place);
    for await (const { done, channels } of parts) {
      if (channels.length > 0) {
        const kept = tail ? tail.take(channels) : channels;
        if (gainDb !== 0) for (const channel of kept) for (let i = 0; i < channel.length; i++) channel[i]! *= gain;
        levels.take(field ? [kept[0]!] : kept);
        clipping?.take(kept);
        await file.write(kept);
      }
      yield done;
    }
    await file.end();
    return { seconds: file.frames / sampleRate, levels: levels.end(), clipped: clipping?.samples ?? 0 };
  } finally {
    levels.free();
    file.free();
  }
}

/** A range of a plan as a file that stays inside the session. */
export async function* print(input: Rendering, place: JobPlace): AsyncGenerator<JobStep, PrintedSound> {
  const { sampleRate } = input.plan;
  const file = await SoundFile.begin(place, sampleRate, 2, '32f', mostFrames(input.range, sampleRate));
  const clipping = new ClippingMeter();
  for await (const { done, channels } of heard(input, place)) {
    if (channels.length > 0) {
      clipping.take(channels);
      await file.write(channels);
    }
    yield done;
  }
  await file.end();
  return { landSeconds: 0, overDb: clipping.overDb };
}

/** The levels of a range of a plan. */
export async function* levels(input: Rendering, place: JobPlace): AsyncGenerator<JobStep, JobResults['levels']> {
  const meter = new LevelMeter(input.plan.sampleRate, 2);
  try {
    for await (const { done, channels } of heard(input, place)) {
      if (channels.length > 0) meter.take(channels);
      yield done;
    }
    return meter.end();
  } finally {
    meter.free();
  }
}

/** Both sides of a sound as a file that stays inside the session. */
export async function printed(
  channels: readonly [Float32Array, Float32Array],
  sampleRateHz: number,
  place: JobPlace,
  landSeconds = 0,
): Promise<PrintedSound> {
  const file = await SoundFile.begin(place, sampleRateHz, 2, '32f', channels[0].length);
  const clipping = new ClippingMeter();
  clipping.take(channels);
  await file.write(channels);
  await file.end();
  return { landSeconds, overDb: clipping.overDb };
}
