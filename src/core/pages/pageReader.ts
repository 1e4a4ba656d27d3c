import { inputOf, resampledLength, resamplePart } from '../dsp/resampler';
import type { SeekableSound } from '../formats/seekable/seekableSound';
import { heardOf, sidesHeard, type Heard } from '../formats/speakers';
import { PAGE_FRAMES } from './pagedSamples';

/** Works out the pages of a sound at a rate: the very samples that decoding all of it gives. */
export class PageReader {
  readonly frames: number;
  readonly sides: 1 | 2;

  /** @param sound which it frees at the end */
  constructor(
    private readonly sound: SeekableSound,
    private readonly heard: Heard | undefined,
    private readonly rateHz: number,
  ) {
    this.frames = resampledLength(sound.frames, sound.sampleRateHz, rateHz);
    this.sides = sidesHeard(heard, sound.channels);
  }

  /**
   * @returns one array a side, the last page shorter
   * @throws KinetikonError file.broken, and what reading the file throws
   */
  async page(n: number): Promise<readonly Float32Array[]> {
    const { sound, rateHz, sides } = this;
    const from = n * PAGE_FRAMES;
    const to = Math.min(this.frames, from + PAGE_FRAMES);
    const [first, last] = inputOf(sound.sampleRateHz, rateHz, from, to, sound.frames);
    const heard = heardOf(await sound.read(first, last), this.heard).slice(0, sides);
    if (sound.sampleRateHz === rateHz) return heard;
    return heard.map((samples) =>
      resamplePart({ samples, first, frames: sound.frames }, sound.sampleRateHz, rateHz, from, to),
    );
  }

  free(): void {
    this.sound.free();
  }
}
