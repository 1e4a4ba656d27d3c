import { PeakFinder } from '../analysis/peaks';
import { openSound } from './readSound';
import { HEAD_BYTES, type ContainerId } from './soundFormats';
import { joined } from './parts';
import type { SoundReader } from './soundReader';

/** Facts about a sound file, known once it has been read to the end. */
export interface SoundFacts {
  readonly format: ContainerId;
  readonly sampleRateHz: number;
  readonly frames: number;
  readonly channels: number;
  /** As `computePeaks` gives them. */
  readonly peaks: Int8Array;
}

/**
 * Reads a sound file part by part, keeping no more of it than a part and what is drawn of it: 2 bytes for every 256
 * frames, and up to 16 MiB that may lie ahead of the samples. Finds in a file what `readSound` finds in it.
 */
export class SoundScanner {
  private reader: SoundReader | null = null;
  private head: Uint8Array = new Uint8Array();
  private readonly peaks = new PeakFinder();
  private frames = 0;

  /** @param name used in errors */
  constructor(private readonly name: string) {}

  /** @throws KinetikonError as `readSound`, as soon as it shows */
  async push(bytes: Uint8Array): Promise<void> {
    if (this.reader) return this.take(await this.reader.push(bytes));
    this.head = joined(this.head, bytes);
    if (this.head.length >= HEAD_BYTES) await this.begin();
  }

  private async begin(): Promise<SoundReader> {
    this.reader = openSound(this.head, this.name);
    this.take(await this.reader.push(this.head));
    this.head = new Uint8Array();
    return this.reader;
  }

  private take(channels: readonly Float32Array[]): void {
    if (channels.length === 0) return;
    this.frames += channels[0]!.length;
    this.peaks.add(channels);
  }

  /** @throws KinetikonError as `readSound` */
  async end(): Promise<SoundFacts> {
    const reader = this.reader ?? (await this.begin());
    try {
      this.take(await reader.end());
      reader.check();
    } finally {
      reader.free();
    }
    const { format, sampleRateHz, channels } = reader;
    return { format, sampleRateHz, frames: this.frames, channels, peaks: this.peaks.finish() };
  }
}
