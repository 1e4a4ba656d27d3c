import { ADTS, AudioSampleSink, BlobSource, Input, MP4, QTFF } from 'mediabunny';
import { KinetikonError, messageOf } from '../errors';
import { believed, type FileAbout } from './about/about';
import { blobBytes } from './fileBytes';
import { mp4EditLength } from './mp4Edit';
import { broken, checkPcm, empty } from './pcm';
import { ownOrder } from './speakers';
import { WavWriter } from './wav';

/** Longest silence that an edit list may put before or between its sound. */
const LONGEST_GAP_SECONDS = 3600;

/** Frames that are written at a time. */
const PART = 65536;

/** A file that has become WAV of 32 bit floating point, and what the file before it told. */
export interface Unpacked {
  readonly file: Blob;
  readonly about: FileAbout;
}

/** AAC that has been decoded so far, put in its place. */
class Placed {
  private readonly writer: WavWriter;
  private readonly parts: Blob[] = [];
  private readonly waiting: Float32Array[];
  private filled = 0;
  frames = 0;

  constructor(
    readonly sampleRateHz: number,
    readonly channels: number,
    private readonly name: string,
  ) {
    this.writer = new WavWriter(sampleRateHz, channels, '32f');
    this.waiting = Array.from({ length: channels }, () => new Float32Array(PART));
  }

  /**
   * @param at frame at which they begin; what lies before the beginning or was there already is left out
   * @param end frame before which the sound ends
   */
  add(channels: readonly Float32Array[], at: number, end: number): void {
    const gap = at - this.frames;
    if (gap > LONGEST_GAP_SECONDS * this.sampleRateHz) throw broken(this.name, 'it has a gap of more than an hour.');
    for (let left = gap; left > 0; left -= PART) this.take(this.silence(Math.min(PART, left)), end);
    this.take(gap < 0 ? channels.map((one) => one.subarray(-gap)) : channels, end);
  }

  private silence(frames: number): Float32Array[] {
    return Array.from({ length: this.channels }, () => new Float32Array(frames));
  }

  private take(channels: readonly Float32Array[], end: number): void {
    let rest = channels.map((one) => one.subarray(0, Math.max(0, end - this.frames)));
    while (rest[0]!.length > 0) {
      const count = Math.min(PART - this.filled, rest[0]!.length);
      rest.forEach((one, n) => this.waiting[n]!.set(one.subarray(0, count), this.filled));
      rest = rest.map((one) => one.subarray(count));
      this.filled += count;
      this.frames += count;
      if (this.filled === PART) this.write();
    }
  }

  private write(): void {
    // A blob of the browser's may lie on its disk.
    this.parts.push(new Blob([this.writer.body(this.waiting.map((one) => one.subarray(0, this.filled))) as BlobPart]));
    this.filled = 0;
  }

  end(): Blob {
    if (this.filled > 0) this.write();
    const { writer, frames } = this;
    return new Blob([writer.head(frames) as BlobPart, ...this.parts, writer.end(frames) as BlobPart]);
  }
}

/**
 * Decodes AAC, in MP4 or as ADTS, by the browser's own decoder into WAV of 32 bit floating point, which keeps what passes
 * full scale. It lies in its place by the edit list of the file; without one, as in ADTS, the delay of its encoder stays.
 * Source: ISO/IEC 14496-12 (MP4); WebCodecs.
 * @returns by way of its progress, from 0 to 1
 * @throws KinetikonError file.unsupported where there is no such decoder, and for other sound in MP4; file.broken, file.empty
 */
export async function* unpackAac(file: Blob, name: string): AsyncGenerator<number, Unpacked> {
  if (typeof AudioDecoder === 'undefined') throw unreadable(name, 'AAC, which is read in a browser alone');
  const input = new Input({ formats: [MP4, QTFF, ADTS], source: new BlobSource(file) });
  try {
    const track = await fileFault(name, () => input.getPrimaryAudioTrack());
    if (!track) throw empty(name);
    const codec = await fileFault(name, () => track.getCodec());
    if (codec !== 'aac') throw unreadable(name, `an MP4 file without AAC${codec ? `; it holds ${codec}` : ''}`);
    if (!(await fileFault(name, () => track.canDecode())))
      throw unreadable(name, 'AAC of a kind that this browser cannot read');
    const lasting = await fileFault(name, () => track.computeDuration());
    const edit = await mp4EditLength(blobBytes(file));
    // An edit list in coarse steps may end a little early.
    const seconds = edit !== null && edit.seconds < lasting - edit.step ? edit.seconds : lasting;
    let placed: Placed | null = null;
    const samples = new AudioSampleSink(track).samples();
    for (;;) {
      const step = await fileFault(name, () => samples.next());
      if (step.done) break;
      const sample = step.value;
      try {
        const { numberOfChannels, numberOfFrames, sampleRate, timestamp } = sample;
        checkPcm(name, numberOfChannels, sampleRate);
        placed ??= new Placed(sampleRate, numberOfChannels, name);
        if (placed.channels !== numberOfChannels || placed.sampleRateHz !== sampleRate)
          throw broken(name, 'it changes its channels or its rate on the way.');
        const channels = Array.from({ length: numberOfChannels }, (_, planeIndex) => {
          const samples = new Float32Array(numberOfFrames);
          sample.copyTo(samples, { planeIndex, format: 'f32-planar' });
          return samples;
        });
        placed.add(channels, Math.round(timestamp * sampleRate), Math.round(seconds * sampleRate));
      } finally {
        sample.close();
      }
      yield Math.min(1, placed.frames / (seconds * placed.sampleRateHz));
    }
    if (!placed || placed.frames === 0) throw empty(name);
    const tags = await input.getMetadataTags().catch(() => null);
    const about = believed({ title: tags?.title, date: tags?.date?.toISOString().slice(0, 10) });
    return {
      file: placed.end(),
      about: { channels: placed.channels, speakers: ownOrder(placed.channels), told: about },
    };
  } finally {
    input.dispose();
  }
}

/** Turns any error of the demuxer or the decoder into file.broken. */
async function fileFault<T>(name: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    throw error instanceof KinetikonError
      ? error
      : broken(name, `it is damaged (${messageOf(error).replace(/\.$/, '')}).`);
  }
}

const unreadable = (name: string, what: string) =>
  new KinetikonError('file.unsupported', `${name} is ${what}.`, {
    kept: 'Nothing was brought in.',
    next: 'Save it as WAV or FLAC and bring it in again.',
  });
