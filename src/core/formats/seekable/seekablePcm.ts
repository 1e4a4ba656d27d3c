import type { FileBytes } from '../fileBytes';
import { LONGEST_HEAD } from '../parts';
import { broken, pcmFrames, readPcmFrames, type PcmLayout } from '../pcm';
import type { SeekableSound } from './seekableSound';

/** Bytes in which the head of most files ends. */
const USUAL_HEAD = 65536;

/** Uncompressed files, where every frame has its place. */
export class SeekablePcm implements SeekableSound {
  private constructor(
    private readonly file: FileBytes,
    private readonly name: string,
    private readonly layout: PcmLayout,
    readonly frames: number,
  ) {}

  /**
   * @param layoutOf finds the samples; null while they have not begun
   * @throws KinetikonError file.broken, file.unsupported, file.empty
   */
  static async open(
    file: FileBytes,
    name: string,
    layoutOf: (bytes: Uint8Array, name: string) => PcmLayout | null,
  ): Promise<SeekablePcm> {
    let layout: PcmLayout | null = null;
    for (let bytes = USUAL_HEAD; !layout && bytes <= LONGEST_HEAD; bytes *= 16) {
      layout = layoutOf(await file.read(0, bytes), name);
      if (bytes >= file.size) break;
    }
    if (!layout) throw broken(name, 'it holds no samples, or is cut short before them.');
    return new SeekablePcm(file, name, layout, pcmFrames(layout, file.size - layout.start, name));
  }

  get sampleRateHz(): number {
    return this.layout.sampleRateHz;
  }

  get channels(): number {
    return this.layout.channels;
  }

  async read(from: number, to: number): Promise<readonly Float32Array[]> {
    const { start, frameBytes } = this.layout;
    const bytes = await this.file.read(start + from * frameBytes, start + to * frameBytes);
    if (bytes.length < (to - from) * frameBytes) throw broken(this.name, 'it ends before its samples do.');
    return readPcmFrames(this.layout, bytes, 0, to - from).channels;
  }

  free(): void {}
}
