import { exp } from '../math/elementary';
import { settled } from '../math/settled';

const MEMORY_SECONDS = 0.4;
const MOST = 8;
/** Powers under this tell nothing about a level. */
const FLOOR = 1e-9;

/**
 * The gain at which one stereo sound cancels another best: the projection of the second on the first over the last
 * 0.4 s (least squares). What a mere change of level makes is nothing then.
 */
export class LevelMatch {
  private readonly keep: number;
  private product = 0;
  private power = 0;

  constructor(sampleRate: number) {
    this.keep = exp(-1 / (MEMORY_SECONDS * sampleRate));
  }

  next(left: number, right: number, madeLeft: number, madeRight: number): number {
    this.product = settled(this.keep * this.product + left * madeLeft + right * madeRight);
    this.power = settled(this.keep * this.power + left * left + right * right);
    if (this.power < FLOOR) return 1;
    return Math.min(MOST, Math.max(-MOST, this.product / this.power));
  }
}
