import { powerOfTwoFrom } from '../math/powerOfTwo';
import { dbToGain, exp, gainToDb, log } from '../math/elementary';
import { Ramp } from './ramp';
import { TruePeakDetector } from './truePeak';

/** A reduction, as a natural logarithm, that counts as none. */
const NOTHING = -1e-7;
/** Aimed below the ceiling for what the peak estimate and the moving gain leave over. */
const MARGIN_DB = 0.1;

/**
 * Look-ahead limiter on the true peak (ITU-R BS.1770-4 annex 2). The gain each frame needs is held at its minimum over
 * the look-ahead window, released exponentially in decibels as the compressor releases, and smoothed by a moving average
 * of the same length, so that it has arrived when the peak does (after Giannoulis, Massberg and Reiss, "Digital dynamic
 * range compressor design", 2012). Both channels share one gain. Of sound up to half the rate, white noise too, 0.1 dB at
 * most passes the ceiling under the standard's meter and interpolation filters of up to 64 taps. Latency: the longest
 * look-ahead plus that of the peak detector.
 */
export class LookaheadLimiter {
  readonly latencyFrames: number;
  /** Level taken away at the deepest point of the last block, in dB, 0 and down. */
  reductionDb = 0;
  private readonly maximumWindow: number;
  private readonly detectors = [new TruePeakDetector(true), new TruePeakDetector(true)] as const;
  private readonly ceiling = new Ramp(1);
  private readonly ring: Float64Array;
  private readonly ringRight: Float64Array;
  private readonly mask: number;
  private readonly needed: Float64Array;
  private readonly queue: Float64Array;
  private readonly held: Float64Array;
  private queueHead = 0;
  private queueTail = 0;
  private frame = 0;
  /** Look-ahead in frames now, which moves to the wanted one by a frame a frame. */
  private window = 1;
  private wantedWindow = 1;
  /** First frame whose need has not entered the queue yet. */
  private unseen = 0;
  private sum = 0;
  private released = 1;
  /** Natural logarithm of the gain that is being released, 0 and down. */
  private releasing = 0;
  private releaseFactor = 0;

  /** @param maximumMs longest look-ahead */
  constructor(
    private readonly sampleRate: number,
    maximumMs: number,
  ) {
    this.maximumWindow = this.windowFrames(maximumMs);
    this.latencyFrames = this.maximumWindow + this.detectors[0].latency;
    const size = powerOfTwoFrom(Math.max(256, this.latencyFrames + 8));
    this.mask = size - 1;
    this.ring = new Float64Array(size);
    this.ringRight = new Float64Array(size);
    this.needed = new Float64Array(size);
    this.queue = new Float64Array(size);
    this.held = new Float64Array(size);
    this.wantedWindow = this.maximumWindow;
    this.reset();
  }

  private windowFrames(ms: number): number {
    return Math.max(2, Math.round((ms / 1000) * this.sampleRate));
  }

  /**
   * @param ceilingDb true peak that is not passed
   * @param frames in which the ceiling moves there
   */
  configure(ceilingDb: number, releaseMs: number, lookaheadMs: number, frames: number): void {
    const ceiling = dbToGain(ceilingDb - MARGIN_DB);
    this.ceiling.moveTo(ceiling, frames);
    // While the ceiling comes down its old place still counts as the lower bound of what matters.
    for (const detector of this.detectors) detector.floor = Math.min(ceiling, this.ceiling.value);
    this.releaseFactor = exp(-1000 / (releaseMs * this.sampleRate));
    this.wantedWindow = this.windowFrames(lookaheadMs);
  }

  reset(): void {
    for (const detector of this.detectors) detector.reset();
    this.ring.fill(0);
    this.ringRight.fill(0);
    this.needed.fill(1);
    this.held.fill(1);
    this.queueHead = this.queueTail = this.frame = 0;
    this.queue[this.queueTail++] = 0;
    this.unseen = 1 - this.maximumWindow;
    this.released = 1;
    this.releasing = 0;
    this.window = this.wantedWindow;
    this.sum = this.window;
    this.reductionDb = 0;
  }

  /** Limits in place; what comes out is late by `latencyFrames`. */
  process(left: Float64Array, right: Float64Array, frames: number): void {
    const { ring, ringRight, needed, queue, held, mask, latencyFrames, maximumWindow } = this;
    const [detectLeft, detectRight] = this.detectors;
    let most = 1;
    for (let i = 0; i < frames; i++) {
      const frame = this.frame;
      const l = left[i]!;
      const r = right[i]!;
      const slot = frame & mask;
      ring[slot] = l;
      ringRight[slot] = r;
      const peak = Math.max(detectLeft.next(l), detectRight.next(r));
      const ceiling = this.ceiling.next();
      needed[slot] = peak > ceiling ? ceiling / peak : 1;

      if (this.window < this.wantedWindow) {
        this.window++;
        this.sum += held[(frame - this.window) & mask]!;
      } else if (this.window > this.wantedWindow) {
        this.sum -= held[(frame - this.window) & mask]!;
        this.window--;
      }
      const window = this.window;
      /** The reduction is worked out one look-ahead before the sound leaves; shorter ones wait. */
      const now = frame - (maximumWindow - window);
      for (; this.unseen <= now; this.unseen++) {
        const need = needed[this.unseen & mask]!;
        while (this.queueTail > this.queueHead && needed[queue[(this.queueTail - 1) & mask]! & mask]! >= need)
          this.queueTail--;
        queue[this.queueTail & mask] = this.unseen;
        this.queueTail++;
      }
      while (queue[this.queueHead & mask]! < now - window) this.queueHead++;
      const lowest = needed[queue[this.queueHead & mask]! & mask]!;

      if (this.releasing < 0 || lowest < 1) {
        const rising = this.releasing * this.releaseFactor;
        const risen = rising > NOTHING ? 1 : exp(rising);
        if (lowest < risen) {
          // What is held stays the same for long: its logarithm is worked out once.
          if (lowest !== this.released) this.releasing = log(lowest);
          this.released = lowest;
        } else {
          this.releasing = risen === 1 ? 0 : rising;
          this.released = risen;
        }
      }
      held[slot] = this.released;
      this.sum += this.released - held[(frame - window) & mask]!;
      const reduction = Math.min(1, this.sum / window);
      if (reduction < most) most = reduction;
      const out = (frame - latencyFrames) & mask;
      left[i] = ring[out]! * reduction;
      right[i] = ringRight[out]! * reduction;
      this.frame = frame + 1;
    }
    this.reductionDb = most < 1 ? gainToDb(most) : 0;
  }
}
