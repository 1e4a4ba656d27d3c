import { isCancelled, KinetikonError } from '@/core/errors';
import { mediaTypeOf, outputFormat } from '@/core/formats/soundFormats';
import type { Done } from '@/core/jobs/kinds';
import { isUnderWay } from '@/core/protocol/renderStates';
import { soundsOfPlan } from '@/core/session/printing';
import { assetOfSound } from '@/core/session/records/sounds';
import { bounceTask } from '@/core/session/renderRequests';
import type { WorkerClient } from '@/runtime/client/workerClient';
import type { BounceStore, LocalBounce } from './bounceStore';
import { tabLocks } from './drafts';
import type { Jobs, RunningJob } from './jobs';
import type { Messages } from './messages';
import { newId } from './newId';
import { errorText } from './notifications';
import type { Sounds } from './sounds';
import type { StudioState } from './state';

/** Finished bounces of a session that are kept with their files; older ones leave. */
const MOST_KEPT = 5;

/** Before this much is done and has passed, the time left is a guess. */
const TELLING_PART = 0.02;
const TELLING_SECONDS = 1;

/** Seconds that work will still take, from the part that is done; null while too little is. */
export const secondsLeftOf = (part: number, seconds: number): number | null =>
  part < TELLING_PART || seconds < TELLING_SECONDS ? null : (seconds / part) * (1 - part);

const lock = (id: string) => `kinetikon.bounce.${id}`;

/** The parts of the studio that bounces use. */
export interface BounceHost {
  readonly sessionId: string;
  readonly state: StudioState;
  set(part: Partial<StudioState>): void;
  readonly renderer: Pick<WorkerClient, 'run'>;
  readonly sounds: Pick<Sounds, 'playedOf'>;
  readonly jobs: Pick<Jobs, 'track'>;
  readonly messages: Pick<Messages, 'report'>;
  /** Hands a file to the person who asked for it. */
  deliver(fileName: string, file: Blob): void;
}

/**
 * Bounces that this page makes, one after another. They are kept in the browser: one that was under way when its page
 * was closed begins again in the page that opens the session, or has it open.
 */
export class Bounces {
  private last: Promise<void> = Promise.resolve();
  private readonly underWay = new Map<string, RunningJob['cancel']>();
  /** Files of bounces made here, for as long as the page is open. */
  private readonly files = new Map<string, Blob>();
  private readonly closing = new AbortController();

  /** @param store null where the browser keeps nothing */
  constructor(
    private readonly host: BounceHost,
    private readonly store: BounceStore | null,
  ) {}

  /** Lists the bounces of the session, and takes up those that did not come to an end. */
  async open(): Promise<void> {
    const left = (await this.store?.list(this.host.sessionId)) ?? [];
    this.host.set({ bounces: left });
    for (const { id } of left.filter(isUnderWay)) void this.takeUp(id);
  }

  /** Bounces a session as it is now. */
  async add(request: LocalBounce['request'], fileName: string): Promise<LocalBounce> {
    const bounce: LocalBounce = {
      id: newId(),
      sessionId: this.host.sessionId,
      fileName,
      request,
      askedAt: Date.now(),
      state: 'waiting',
      isElsewhere: false,
      progress: 0,
      secondsLeft: null,
      tookSeconds: null,
      facts: null,
      bytes: null,
      error: null,
    };
    this.host.set({ bounces: [bounce, ...this.host.state.bounces] });
    const kept = this.keep(bounce);
    void this.takeUp(bounce.id);
    await kept;
    return bounce;
  }

  /** Leaves what is under way for the next time that the session is opened. */
  close(): void {
    this.closing.abort();
  }

  /** True while closing the page would break a bounce off. */
  get isBusy(): boolean {
    return this.host.state.bounces.some((one) => isUnderWay(one) && !one.isElsewhere);
  }

  /** Ends a bounce that waits or runs, and takes it off the list with its file. */
  async remove(id: string): Promise<void> {
    this.forget(id);
    this.underWay.get(id)?.();
    this.files.delete(id);
    await this.store?.remove(id);
  }

  /**
   * The sound file of a finished bounce.
   * @throws KinetikonError render.missing where the browser has let go of it
   */
  async file(id: string): Promise<Blob> {
    const file = this.files.get(id) ?? (await this.store?.file(id));
    const bounce = this.find(id);
    if (!file || !bounce)
      throw new KinetikonError('render.missing', 'The browser has not kept the file.', { next: 'Bounce it again.' });
    const { container } = outputFormat(bounce.request.format);
    return new Blob([file as BlobPart], { type: mediaTypeOf(container) });
  }

  private find(id: string): LocalBounce | undefined {
    return this.host.state.bounces.find((one) => one.id === id);
  }

  private change(id: string, part: Partial<LocalBounce>): void {
    this.host.set({
      bounces: this.host.state.bounces.map((one) => (one.id === id ? { ...one, ...part } : one)),
    });
  }

  /** A browser that has no room left keeps a bounce for as long as the page is open. */
  private async keep(bounce: LocalBounce, file?: Blob): Promise<void> {
    try {
      await this.store?.put(bounce, file);
    } catch (cause) {
      this.host.messages.report(
        new KinetikonError('storage.full', `The browser could not keep ${bounce.fileName}.`, {
          kept: 'It is in the Library while this page is open.',
          cause,
        }),
        `bounce ${bounce.id}`,
      );
    }
  }

  /** Runs a bounce after those before it. Where another window has it, waits for what becomes of it there. */
  private async takeUp(id: string): Promise<void> {
    const locks = tabLocks();
    try {
      if (!locks) return await this.queue(id);
      const isOwn = await locks.request(lock(id), { ifAvailable: true }, async (held) => {
        if (held) await this.queue(id);
        return held !== null;
      });
      if (isOwn) return;
      this.change(id, { isElsewhere: true });
      await locks.request(lock(id), { signal: this.closing.signal }, async () => {
        const stored = (await this.store!.list(this.host.sessionId)).find((one) => one.id === id);
        if (!stored) return this.forget(id);
        this.change(id, { ...stored, isElsewhere: false });
        if (isUnderWay(stored)) await this.queue(id);
      });
    } catch (error) {
      if (!this.closing.signal.aborted) this.host.messages.report(error);
    }
  }

  private queue(id: string): Promise<void> {
    const run = () => this.run(id);
    this.last = this.last.then(run, run);
    return this.last;
  }

  private forget(id: string): void {
    this.host.set({ bounces: this.host.state.bounces.filter((one) => one.id !== id) });
  }

  private async run(id: string): Promise<void> {
    const bounce = this.find(id);
    if (!bounce || this.closing.signal.aborted) return;
    const began = Date.now();
    let isGivenUp = () => false;
    this.change(id, { state: 'running', progress: 0, secondsLeft: null });
    try {
      const { file, ...facts } = await this.host.jobs.track(`Bouncing ${bounce.fileName}`, (job) => {
        this.underWay.set(id, job.cancel);
        isGivenUp = () => job.signal.aborted;
        return this.render(bounce, job);
      });
      const part = { state: 'done', progress: 1, tookSeconds: (Date.now() - began) / 1000, facts } as const;
      const done = { ...bounce, ...part, bytes: file.size };
      this.files.set(id, file);
      this.change(id, done);
      this.host.deliver(bounce.fileName, await this.file(id));
      await this.keep(done, file);
      await this.removeOldest();
    } catch (error) {
      if (isCancelled(error)) {
        // One that ended with its page begins again another time.
        if (isGivenUp()) await this.remove(id);
        return;
      }
      const failed = { ...bounce, state: 'failed', error: errorText(error) } as const;
      this.change(id, failed);
      await this.keep(failed);
    } finally {
      this.underWay.delete(id);
    }
  }

  private async render({ id, request }: LocalBounce, { signal, progress }: RunningJob): Promise<Done<'bounce', Blob>> {
    const { host } = this;
    const task = bounceTask(request.document, request);
    const soundIds = soundsOfPlan(task.plan);
    const { assets, session } = host.state.document;
    if (session.sampleRateHz !== task.plan.sampleRate || soundIds.some((id) => !assets[assetOfSound(id).assetId]))
      throw new KinetikonError(
        'asset.missing',
        'The session no longer has the sounds of this bounce at its sample rate.',
      );
    const samples = await host.sounds.playedOf(soundIds, signal);
    const began = Date.now();
    const onProgress = (share: number) => {
      progress(share);
      this.change(id, { progress: share, secondsLeft: secondsLeftOf(share, (Date.now() - began) / 1000) });
    };
    return host.renderer.run({ ...task, samples }, { signal, onProgress });
  }

  private async removeOldest(): Promise<void> {
    const finished = this.host.state.bounces.filter(({ state }) => state === 'done');
    for (const { id } of finished.slice(MOST_KEPT)) await this.remove(id);
  }
}
