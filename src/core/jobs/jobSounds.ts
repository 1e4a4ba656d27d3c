import type { Plan, Samples, SoundSource } from '../engine/plan';
import type { RenderSounds } from '../engine/render';
import { PageReader } from '../pages/pageReader';
import { Pager } from '../pages/pager';
import { assetOfSound } from '../session/records/sounds';
import type { PlayedSound } from './kinds';
import type { JobPlace, LongSound } from './place';

/** Pages of memory that a render keeps, 16 MiB; more only where more sounds at once. */
const KEPT_PAGES = 64;

const isLong = (sound: PlayedSound): sound is LongSound => 'isLong' in sound;

/** Those of some sounds that are there as a whole, by their ids. */
export const wholes = (sounds: readonly PlayedSound[] = []): ReadonlyMap<string, Samples> =>
  new Map(sounds.flatMap((sound) => (isLong(sound) ? [] : [[sound.assetId, sound] as const])));

/** The sounds of a render, long ones read by pages as it goes. */
export class JobSounds implements RenderSounds {
  readonly samples = new Map<string, SoundSource>();
  private readonly pager = new Pager({ onChunk: () => {}, onProblem: () => {} }, () => 0, KEPT_PAGES, Infinity);
  private next: { readonly fromFrame: number; readonly frames: number } | null = null;

  /** @throws KinetikonError as opening a long sound does */
  static async open(plan: Plan, sounds: readonly PlayedSound[], place: JobPlace): Promise<JobSounds> {
    const open = new JobSounds();
    open.pager.setPlan({ clips: plan.strips.flatMap(({ clips }) => clips), loop: null });
    try {
      for (const sound of sounds) {
        if (isLong(sound)) await open.openLong(sound, plan.sampleRate, place);
        else open.samples.set(sound.assetId, sound);
      }
      return open;
    } catch (error) {
      open.close();
      throw error;
    }
  }

  private async openLong(sound: LongSound, sampleRateHz: number, place: JobPlace): Promise<void> {
    const { assetId } = sound;
    const reader = new PageReader(await place.open(sound), assetOfSound(assetId).heard, sampleRateHz);
    this.samples.set(assetId, this.pager.open(assetId, reader));
  }

  reach(fromFrame: number, frames: number): void {
    this.next = { fromFrame, frames };
  }

  /**
   * Waits for the pages of what is played next.
   * @throws KinetikonError as reading them does
   */
  async ready(): Promise<void> {
    if (this.next) await this.pager.reach(this.next.fromFrame, this.next.frames);
    this.next = null;
  }

  close(): void {
    this.pager.closeAll();
  }
}

/**
 * Steps of a render, with the pages of its long sounds ready before each.
 * @param begin called once the sounds are open
 */
export async function* withSounds<Step, Result>(
  plan: Plan,
  sounds: readonly PlayedSound[],
  place: JobPlace,
  begin: (sounds: RenderSounds) => Generator<Step, Result>,
): AsyncGenerator<Step, Result> {
  const open = await JobSounds.open(plan, sounds, place);
  const steps = begin(open);
  try {
    for (;;) {
      const step = steps.next();
      if (step.done) return step.value;
      yield step.value;
      await open.ready();
    }
  } finally {
    steps.return(undefined as never);
    open.close();
  }
}
