import { FLACDecoder, type FLACDecodedAudio } from '@wasm-audio-decoders/flac';
import { PeakFinder } from '../analysis/peaks';
import { KinetikonError } from '../errors';
import { containerOf, type ContainerId } from './soundFormats';
import { FlacTally, streamInfo } from './flac';
import { notSound } from './readSound';
import { readWavFrames, wavFrames, wavLayout, type WavLayout } from './wav';

/** Facts about a sound file, known once it has been read to the end. */
export interface SoundFacts {
  readonly format: ContainerId;
  readonly sampleRateHz: number;
  readonly frames: number;
  readonly channels: number;
  /** As `computePeaks` gives them. */
  readonly peaks: Int8Array;
}

/** The most that may lie ahead of the samples of a WAV file, in bytes. */
const LONGEST_HEAD = 16 * 1024 * 1024;

interface Format {
  push(bytes: Uint8Array): Promise<void>;
  end(): Promise<SoundFacts>;
}

const joined = (a: Uint8Array, b: Uint8Array): Uint8Array => {
  if (a.length === 0) return b;
  const both = new Uint8Array(a.length + b.length);
  both.set(a);
  both.set(b, a.length);
  return both;
};

class WavFormat implements Format {
  private readonly peaks = new PeakFinder();
  private layout: WavLayout | null = null;
  /** Unread bytes: an incomplete head, then less than a frame. */
  private rest: Uint8Array = new Uint8Array();
  /** Bytes of samples so far. */
  private held = 0;

  constructor(private readonly name: string) {}

  async push(bytes: Uint8Array): Promise<void> {
    const there = joined(this.rest, bytes);
    this.rest = there;
    if (!this.layout) {
      this.layout = wavLayout(there, this.name);
      if (!this.layout) {
        if (there.length <= LONGEST_HEAD) return;
        throw new KinetikonError('file.broken', `${this.name}: its samples do not begin in the first 16 MiB.`, {
          kept: 'Nothing was brought in.',
        });
      }
      this.rest = there.subarray(this.layout.start);
      this.held = this.rest.length;
    } else {
      this.held += bytes.length;
    }
    const { size, frameBytes } = this.layout;
    // Bytes behind the samples are not sound.
    const beyond = size === null ? 0 : Math.max(0, this.held - size);
    const sound = Math.max(0, this.rest.length - beyond);
    const frames = Math.floor(sound / frameBytes);
    if (frames > 0) this.peaks.add(readWavFrames(this.layout, this.rest, 0, frames).channels);
    this.rest = this.rest.slice(frames * frameBytes, sound);
  }

  async end(): Promise<SoundFacts> {
    const { layout, name } = this;
    if (!layout) {
      throw new KinetikonError('file.broken', `${name}: it has no data chunk, or is cut short before it.`, {
        kept: 'Nothing was brought in.',
      });
    }
    const { sampleRateHz, channels } = layout;
    const frames = wavFrames(layout, this.held, name);
    return { format: 'wav', sampleRateHz, frames, channels, peaks: this.peaks.finish() };
  }
}

class FlacFormat implements Format {
  private readonly peaks = new PeakFinder();
  private readonly decoder = new FLACDecoder();
  private head: Uint8Array = new Uint8Array();
  private stated = 0;
  private readonly tally = new FlacTally();

  constructor(private readonly name: string) {}

  async push(bytes: Uint8Array): Promise<void> {
    await this.decoder.ready;
    if (this.head.length < 42) {
      this.head = joined(this.head, bytes.slice(0, 42));
      this.stated = streamInfo(this.head)?.frames ?? 0;
    }
    this.take(await this.decoder.decode(bytes));
  }

  private take(decoded: FLACDecodedAudio): void {
    const channels = this.tally.add(decoded);
    if (channels.length > 0) this.peaks.add(channels);
  }

  async end(): Promise<SoundFacts> {
    this.take(await this.decoder.flush());
    this.decoder.free();
    this.tally.check(this.stated, this.name);
    const { frames, channels, sampleRateHz } = this.tally;
    return { format: 'flac', sampleRateHz, frames, channels, peaks: this.peaks.finish() };
  }
}

const SCANNERS: Readonly<Record<ContainerId, new (name: string) => Format>> = { wav: WavFormat, flac: FlacFormat };

/**
 * Reads a sound file part by part, keeping no more of it than a part and what is drawn of it: 2 bytes for every 256
 * frames, and up to 16 MiB that may lie ahead of the samples. Finds in a file what `readSound` finds in it.
 */
export class SoundScanner {
  private format: Format | null = null;
  private head: Uint8Array = new Uint8Array();

  /** @param name used in errors */
  constructor(private readonly name: string) {}

  /** @throws KinetikonError as `readSound`, as soon as it shows */
  async push(bytes: Uint8Array): Promise<void> {
    if (this.format) return this.format.push(bytes);
    this.head = joined(this.head, bytes);
    if (this.head.length < 12) return;
    const container = containerOf(this.head);
    if (!container) throw notSound(this.head.length, this.name);
    this.format = new SCANNERS[container](this.name);
    await this.format.push(this.head);
    this.head = new Uint8Array();
  }

  /** @throws KinetikonError as `readSound` */
  async end(): Promise<SoundFacts> {
    if (!this.format) throw notSound(this.head.length, this.name);
    return this.format.end();
  }
}
