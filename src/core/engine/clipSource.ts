import type { PlanClip, Samples } from './plan';

/** After a jump the old place fades out over this many frames ... */
const OUT_FRAMES = 256;
/** ... and what is in the middle of its sound at the new place fades in over this many. */
const IN_FRAMES = 96;

const smooth = (t: number) => t * t * (3 - 2 * t);

/**
 * Plays the clips of a track from any place. After a jump, an edit or a stop the old place sounds on for a moment
 * while it fades, so that nothing clicks; a clip that begins at the new place keeps its attack.
 */
export class ClipSource {
  private clips: readonly PlanClip[] = [];
  private ghostClips: readonly PlanClip[] = [];
  private ghostPosition = 0;
  private ghostLeft = 0;
  private entered = 0;
  private sinceEntry = IN_FRAMES;

  constructor(private readonly samples: ReadonlyMap<string, Samples>) {}

  /** @param sounding whether the old clips are playing at `position` now */
  setClips(clips: readonly PlanClip[], position: number, sounding: boolean): void {
    if (JSON.stringify(clips) === JSON.stringify(this.clips)) return;
    if (sounding) this.leave(position);
    this.clips = clips;
    this.enter(position);
  }

  /** Lets the place that has been playing fade. */
  leave(position: number): void {
    this.ghostClips = this.clips;
    this.ghostPosition = position;
    this.ghostLeft = OUT_FRAMES;
  }

  enter(position: number): void {
    this.entered = position;
    this.sinceEntry = 0;
  }

  /** Fills the block with what sounds from `position` on; silence but for the fading remains when not `playing`. */
  render(left: Float32Array, right: Float32Array, frames: number, position: number, playing: boolean): void {
    left.fill(0, 0, frames);
    right.fill(0, 0, frames);
    if (playing) {
      for (const clip of this.clips) {
        const midway = this.sinceEntry < IN_FRAMES && clip.startFrame < this.entered;
        const fade = midway ? this.sinceEntry / IN_FRAMES : 1;
        this.add(clip, left, right, frames, position, fade, midway ? 1 / IN_FRAMES : 0);
      }
      this.sinceEntry += frames;
    }
    if (this.ghostLeft > 0) {
      const count = Math.min(frames, this.ghostLeft);
      for (const clip of this.ghostClips) {
        this.add(clip, left, right, count, this.ghostPosition, this.ghostLeft / OUT_FRAMES, -1 / OUT_FRAMES);
      }
      this.ghostPosition += count;
      this.ghostLeft -= count;
    }
  }

  private add(
    clip: PlanClip,
    left: Float32Array,
    right: Float32Array,
    frames: number,
    position: number,
    fade: number,
    fadeStep: number,
  ): void {
    const samples = this.samples.get(clip.assetId);
    const first = Math.max(0, clip.startFrame - position);
    const last = Math.min(frames, clip.startFrame + clip.lengthFrames - position);
    if (!samples || first >= last) return;
    const sourceLeft = samples.left;
    const sourceRight = samples.right;
    const { fadeInFrames, fadeOutFrames, lengthFrames } = clip;
    for (let i = first; i < last; i++) {
      const within = position + i - clip.startFrame;
      const at = within + clip.offsetFrame;
      if (at < 0 || at >= sourceLeft.length) continue;
      const faded = fade + fadeStep * i;
      let level = faded >= 1 ? clip.gain : clip.gain * smooth(faded);
      if (within < fadeInFrames) level *= smooth(within / fadeInFrames);
      const toEnd = lengthFrames - within;
      if (toEnd < fadeOutFrames) level *= smooth(toEnd / fadeOutFrames);
      left[i] = left[i]! + sourceLeft[at]! * level;
      right[i] = right[i]! + sourceRight[at]! * level;
    }
  }
}
