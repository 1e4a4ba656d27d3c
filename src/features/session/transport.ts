import { framesPerBeat } from '@/core/session/compile/context';
import type { EngineClient } from '@/runtime/client/engineClient';
import { TOPIC, type Messages } from './messages';
import { PlaybackEnd, type SoundingEngine } from './playbackEnd';
import type { Sounds } from './sounds';
import type { StudioStore } from './state';

/** How often it is asked whether playing is over. */
const ASK_MS = 250;

/** A stretch of playing, from Play to Stop. */
interface Run {
  readonly fromBeat: number;
  readonly end: PlaybackEnd;
  readonly timer: ReturnType<typeof setInterval>;
}

/** Playing, stopping and seeking in beats. When everything has rung out, playing ends where it began. */
export class Transport {
  private run: Run | null = null;

  constructor(
    private readonly store: StudioStore,
    private readonly engine: SoundingEngine & Pick<EngineClient, 'heardFrame' | 'playing' | 'play' | 'stop' | 'seek'>,
    private readonly sounds: Pick<Sounds, 'retry'>,
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
    this.run = { fromBeat, end: new PlaybackEnd(fromBeat), timer: setInterval(() => this.endWhenOver(), ASK_MS) };
    try {
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
    this.engine.seek(Math.round(to * this.framesPerBeat));
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

  private endWhenOver(): void {
    const { run, engine } = this;
    if (!run || !engine.playing || !run.end.isOver(this.heardBeat, this.store.getState(), engine)) return;
    this.stop();
    this.seekBeat(run.fromBeat);
  }
}
