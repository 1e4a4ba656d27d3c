import type { Sides } from '../dsp/sides';
import { LatencyCompensator } from '../dsp/latencyCompensator';
import { Convolver } from '../dsp/convolver';
import { LoudnessMatch } from '../dsp/loudnessMatch';
import { Ramp } from '../dsp/ramp';
import { MAXIMUM_BLOCK } from '../effects/kernel';
import type { Prepared } from '../effects/prepare';
import { between } from '../math/between';
import { smoothstep } from '../math/smoothstep';
import { Arena } from '../wasm/arena';

const FADE_SECONDS = 0.04;
/** The longest that a listening place rings. */
export const LONGEST_SECONDS = 1.5;
/** By this much everything is late that is listened to, so that a near ear can be early. */
const LEAD_SECONDS = 0.0004;

export const leadFrames = (sampleRate: number): number => Math.ceil(LEAD_SECONDS * sampleRate);

/**
 * Plays the main output through a listening place: crossfaded, and matched to the loudness of the plain
 * sound. All places are late by `leadFrames`, and so is the plain one once another has been heard; otherwise that is left
 * as it is. It belongs to listening and has no part in a bounce.
 */
export class Monitor {
  private readonly memory = new Arena();
  private convolver: Convolver | null = null;
  private held: Arena | null = null;
  /** Input gain of a new place: it fades in, so that no echo starts with a click. */
  private readonly fed = new Ramp(0);
  private readonly match: LoudnessMatch;
  private readonly lead = new LatencyCompensator(this.memory);
  private readonly lateLeft = this.memory.floats(MAXIMUM_BLOCK);
  private readonly lateRight = this.memory.floats(MAXIMUM_BLOCK);
  /** Another place has been heard. */
  private late = false;
  private readonly share = new Ramp(0);
  private readonly fadeFrames: number;
  private readonly blocks: Sides;
  private readonly heard: Sides;
  private readonly weighted: Sides;
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);

  constructor(private readonly sampleRate: number) {
    this.fadeFrames = Math.round(FADE_SECONDS * sampleRate);
    this.match = new LoudnessMatch(this.memory, sampleRate);
    this.lead.setDelay(leadFrames(sampleRate), true);
    const block = () => this.memory.doubles(MAXIMUM_BLOCK);
    this.blocks = [block(), block()];
    this.heard = [block(), block()];
    this.weighted = [block(), block()];
  }

  /** Goes to another place; null is the plain one. Allocates: call it between blocks. */
  listen(prepared: Prepared | null): void {
    if (prepared) {
      // One that has fallen silent begins anew, without what it heard when it was last used.
      if (this.share.idle) {
        this.match.reset();
        this.held?.free();
        this.held = this.memory.part();
        this.convolver = new Convolver(this.held, this.sampleRate);
        this.convolver.remember(LONGEST_SECONDS * this.sampleRate);
        this.fed.moveTo(0, 0);
        this.fed.moveTo(1, this.fadeFrames);
      }
      this.convolver!.take(prepared);
    }
    this.share.moveTo(prepared ? 1 : 0, this.fadeFrames);
  }

  /** Works on up to MAXIMUM_BLOCK frames in place. */
  process(left: Float32Array, right: Float32Array, frames: number): void {
    const { share, fed, convolver, blocks, heard, weighted, gains, lateLeft, lateRight } = this;
    if (!convolver) return;
    for (let i = 0; i < frames; i++) {
      const part = smoothstep(fed.next());
      blocks[0][i] = part * (lateLeft[i] = left[i]!);
      blocks[1][i] = part * (lateRight[i] = right[i]!);
    }
    this.lead.process(lateLeft, lateRight, true, lateLeft, lateRight, frames);
    this.late ||= share.settled && share.value === 1;
    for (let i = 0; i < frames; i++) {
      weighted[0][i] = lateLeft[i]!;
      weighted[1][i] = lateRight[i]!;
      if (!this.late) continue;
      left[i] = lateLeft[i]!;
      right[i] = lateRight[i]!;
    }
    if (share.idle) return;
    convolver.process(blocks[0], blocks[1], heard[0], heard[1], frames);
    for (let i = 0; i < frames; i++) {
      blocks[0][i] = heard[0][i]!;
      blocks[1][i] = heard[1][i]!;
    }
    this.match.follow(weighted, blocks, gains, frames, 'on');
    for (let i = 0; i < frames; i++) {
      const part = smoothstep(share.next());
      left[i] = between(left[i]!, heard[0][i]! * gains[i]!, part);
      right[i] = between(right[i]!, heard[1][i]! * gains[i]!, part);
    }
  }
}
