import { framesPerBeat } from '@/core/session/compile/context';
import type { EngineClient } from '@/runtime/client/engineClient';
import { TOPIC, type Messages } from './messages';
import type { Sounds } from './sounds';
import type { StudioStore } from './state';

/** Playing, stopping and seeking in beats. */
export class Transport {
  constructor(
    private readonly store: StudioStore,
    private readonly engine: Pick<EngineClient, 'heardFrame' | 'playing' | 'play' | 'stop' | 'seek'>,
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
    try {
      await this.engine.play();
      this.messages.settled(TOPIC.engine);
    } catch (error) {
      this.messages.report(error, TOPIC.engine);
    }
  }

  toggle(): void {
    if (this.engine.playing) this.engine.stop();
    else void this.play();
  }

  seekBeat(beat: number): void {
    this.engine.seek(Math.round(Math.max(0, beat) * this.framesPerBeat));
  }
}
