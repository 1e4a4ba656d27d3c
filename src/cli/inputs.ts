import { resampledLength } from '@/core/dsp/resampler';
import type { SeekableSound } from '@/core/formats/seekable/seekableSound';
import type { PlayedSound } from '@/core/jobs/kinds';
import type { LongSound } from '@/core/jobs/place';
import { LongSounds } from '@/server/renders/longSounds';
import { atRate, factsOf, sayWhatWasChosen } from './chain';
import { openFile, readSoundFile, readThrough } from './files';
import type { Terminal } from './terminal';

/** A sound that a render plays. */
export interface Input {
  readonly rate: number;
  /** At that rate. */
  readonly frames: number;
  readonly sound: PlayedSound;
}

/** The sounds of a render, of which long ones are read as they are played. */
export class Inputs {
  private readonly paths = new Map<string, string>();
  private readonly silences = new Map<string, Omit<SeekableSound, 'read' | 'free'>>();
  private readonly open: { close(): Promise<void> }[] = [];
  private readonly long: LongSounds;

  /** @param output beside which sounds are unrolled that can only be read from their beginning */
  constructor(
    output: string,
    private readonly terminal: Terminal,
  ) {
    this.long = new LongSounds(async (id) => {
      const path = this.paths.get(id)!;
      const file = await openFile(path);
      this.open.push(file);
      return { ...file, name: path };
    }, output);
  }

  /**
   * @param id by which the plan knows the sound
   * @param rate the file's own where it is left out
   * @throws KinetikonError file.missing and those of `readSound`
   */
  async file(id: string, path: string, rate?: number): Promise<Input> {
    this.paths.set(id, path);
    const long = await this.long.find(id);
    // Damage is found before the work, not in its midst.
    const whole = long ? null : await readSoundFile(path);
    const facts = whole ? factsOf(whole) : await readThrough(path, () => {});
    const chosen = rate ?? facts.sampleRateHz;
    sayWhatWasChosen(path, facts, chosen, this.terminal);
    if (!whole) {
      const frames = resampledLength(facts.frames, facts.sampleRateHz, chosen);
      return { rate: chosen, frames, sound: long! };
    }
    const samples = atRate(whole, chosen);
    return { rate: chosen, frames: samples.left.length, sound: { assetId: id, ...samples } };
  }

  /** A sound of nothing, which takes no memory. */
  silence(id: string, frames: number, rate: number): Input {
    this.silences.set(id, { sampleRateHz: rate, channels: 1, frames });
    return { rate, frames, sound: { assetId: id, name: id, isLong: true } };
  }

  /** For the place of a job. */
  async opened({ assetId }: LongSound): Promise<SeekableSound> {
    const silence = this.silences.get(assetId);
    if (!silence) return this.long.open(assetId);
    return { ...silence, read: async (from, to) => [new Float32Array(to - from)], free: () => {} };
  }

  async close(): Promise<void> {
    await this.long.close();
    for (const file of this.open) await file.close();
  }
}
