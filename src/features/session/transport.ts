import { framesPerBeat } from '@/core/session/compile/context';
import { KinetikonError } from '@/core/errors';
import type { EngineClient } from '@/runtime/client/engineClient';
import type { PagesClient } from '@/runtime/client/pagesClient';
import { TOPIC, type Messages } from './messages';
import { PlaybackEnd, type SoundingEngine } from './playbackEnd';
import type { Sounds } from './sounds';
import type { StudioStore } from './state';

/** How often it is asked whether playing is over. */
const ASK_MS = 250;

/** Longest time that Play waits for what is heard at first, in ms. */
const MOST_WAIT_MS = 1000;

/** A stretch of playing, from Play to Stop. */
interface Run {
  readonly fromBeat: number;
  readonly end: PlaybackEnd;
  readonly timer: ReturnType<typeof setInterval>;
}

/** Playing, stopping and seeking in beats. When everything has rung out, playing ends where it began. */
export class Transport {
  private run: Run | null = null;
  /** Jumps so far: a newer one takes the place of one that waits. */
  private jumps = 0;
  /** Blocks of long sounds that were late when it was last told. */
  private late = 0;

  constructor(
    private readonly store: StudioStore,
    private readonly engine: SoundingEngine & Pick<EngineClient, 'heardFrame' | 'playing' | 'play' | 'stop' | 'seek'>,
    private readonly sounds: Pick<Sounds, 'retry'>,
    private readonly pages: Pick<PagesClient, 'ready' | 'isReady' | 'reach' | 'jumped' | 'lateBlocks'>,
    private readonly messages: Messages,
  ) {}

  /** The beat that is heard now. */
  get heardBeat(): number {
    return this.engine.heardFrame / this.framesPerBeat;
  }

  private get framesPerBeat(): number {
    return framesPerBeat(this.store.getState().document);
  }

  async play(): Promise<void> {
    this.sounds.retry();
    this.endRun();
    const fromBeat = this.heardBeat;
    this.late = this.pages.lateBlocks;
    const run = { fromBeat, end: new PlaybackEnd(fromBeat), timer: setInterval(() => this.follow(), ASK_MS) };
    this.run = run;
    try {
      await this.pages.ready(() => this.engine.heardFrame, MOST_WAIT_MS);
      // Stop was pressed meanwhile.
      if (this.run !== run) return;
      await this.engine.play();
      this.messages.settled(TOPIC.engine);
    } catch (error) {
      this.endRun();
      this.messages.report(error, TOPIC.engine);
    }
  }

  stop(): void {
    this.endRun();
    this.engine.stop();
  }

  toggle(): void {
    if (this.engine.playing) this.stop();
    else void this.play();
  }

  seekBeat(beat: number): void {
    const to = Math.max(0, beat);
    this.run?.end.moveTo(to);
    void this.jump(Math.round(to * this.framesPerBeat));
  }

  /** Jumps as soon as what is heard there is at hand; until then the old place plays on. */
  private async jump(frame: number): Promise<void> {
    const { pages } = this;
    const jump = ++this.jumps;
    if (this.engine.playing && !pages.isReady(frame)) {
      await pages.reach(frame, MOST_WAIT_MS, () => jump === this.jumps && this.engine.playing);
      if (jump !== this.jumps) return;
    } else pages.jumped();
    this.engine.seek(frame);
  }

  /** Keys are held by hand, or the last of them was let go: playing goes on until they have rung out. */
  keysPlayed(held: boolean): void {
    this.run?.end.keysUntil(held ? Infinity : this.heardBeat);
  }

  /** The session is closed. */
  close(): void {
    this.endRun();
  }

  private endRun(): void {
    clearInterval(this.run?.timer);
    this.run = null;
  }

  private follow(): void {
    this.tellLate();
    this.endWhenOver();
  }

  /** Says so when a long sound was not read in time. */
  private tellLate(): void {
    const { lateBlocks } = this.pages;
    const isLater = lateBlocks > this.late;
    this.late = lateBlocks;
    if (!isLater) return;
    this.messages.report(
      new KinetikonError('asset.late', 'A long sound was not read in time; it was silent for a moment.', {
        kept: 'Bounces are not affected.',
        next: 'If it comes again, the server or its disk is too slow for so many long sounds.',
      }),
      TOPIC.late,
    );
  }

  private endWhenOver(): void {
    const { run, engine } = this;
    if (!run || !engine.playing || !run.end.isOver(this.heardBeat, this.store.getState(), engine)) return;
    this.stop();
    this.seekBeat(run.fromBeat);
  }
}
