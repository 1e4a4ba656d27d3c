import { broken, pcmFrames, readPcmFrames, type PcmLayout } from './pcm';
import type { ContainerId } from './soundFormats';
import { joined, LONGEST_HEAD, NOTHING } from './parts';
import type { SoundReader } from './soundReader';

/** Reads uncompressed files. */
export class PcmReader implements SoundReader {
  unusable = 0;
  private layout: PcmLayout | null = null;
  /** Unread bytes: an incomplete head, then less than a frame. */
  private rest: Uint8Array = new Uint8Array();
  /** Bytes of samples so far. */
  private held = 0;

  /** @param layoutOf finds the samples; null while they have not begun */
  constructor(
    readonly format: ContainerId,
    private readonly name: string,
    private readonly layoutOf: (bytes: Uint8Array, name: string) => PcmLayout | null,
  ) {}

  get sampleRateHz(): number {
    return this.layout?.sampleRateHz ?? 0;
  }

  get channels(): number {
    return this.layout?.channels ?? 0;
  }

  get stated(): number | null {
    const { size = null, frameBytes = 1 } = this.layout ?? {};
    return size === null ? null : Math.floor(size / frameBytes);
  }

  async push(bytes: Uint8Array): Promise<readonly Float32Array[]> {
    this.rest = joined(this.rest, bytes);
    if (this.layout) {
      this.held += bytes.length;
    } else {
      this.layout = this.layoutOf(this.rest, this.name);
      if (!this.layout) {
        if (this.rest.length <= LONGEST_HEAD) return NOTHING;
        throw broken(this.name, 'its samples do not begin in the first 16 MiB.');
      }
      this.rest = this.rest.subarray(this.layout.start);
      this.held = this.rest.length;
    }
    const { size, frameBytes } = this.layout;
    // Bytes behind the samples are not sound.
    const beyond = size === null ? 0 : Math.max(0, this.held - size);
    const sound = Math.max(0, this.rest.length - beyond);
    const frames = Math.floor(sound / frameBytes);
    const { channels, unusable } = readPcmFrames(this.layout, this.rest, 0, frames);
    this.unusable += unusable;
    this.rest = this.rest.slice(frames * frameBytes, sound);
    return frames > 0 ? channels : NOTHING;
  }

  async end(): Promise<readonly Float32Array[]> {
    return NOTHING;
  }

  check(): void {
    if (!this.layout) throw broken(this.name, 'it holds no samples, or is cut short before them.');
    pcmFrames(this.layout, this.held, this.name);
  }

  free(): void {}
}
