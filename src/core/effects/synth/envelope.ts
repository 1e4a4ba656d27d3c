import { exp } from '../../math/elementary';
import type { Envelope } from './tone';

/** Below this a voice that has been let go is silent: -100 dB. */
const SILENT = 1e-5;
/** Decay and release are times to -60 dB. */
const SIXTY_DB = 6.907755278982137;

/** An envelope in four parts: a straight rise, a fall to what is held, and a fall to silence when the key is let go. */
export class EnvelopeCourse {
  value = 0;
  private rising = false;
  private held = false;

  begin(): void {
    this.rising = true;
    this.held = true;
  }

  release(): void {
    this.rising = false;
    this.held = false;
  }

  silence(): void {
    this.value = 0;
    this.release();
  }

  get over(): boolean {
    return !this.held && this.value < SILENT;
  }

  /** Goes on by so many seconds. */
  advance({ attack, decay, sustain, release }: Envelope, seconds: number): void {
    if (this.rising) {
      this.value += seconds / attack;
      if (this.value >= 1) {
        this.value = 1;
        this.rising = false;
      }
      return;
    }
    const target = this.held ? sustain : 0;
    if (this.value === target) return;
    this.value = target + (this.value - target) * exp((-SIXTY_DB * seconds) / (this.held ? decay : release));
  }
}
