import { MAXIMUM_BLOCK } from '../effects/kernel';
import { fadeLevel } from '../math/fades';
import { smoothstep } from '../math/smoothstep';
import { CurveReader } from './curve';
import type { PlanClip, Samples } from './plan';

/** After a jump the old place fades out over this many frames ... */
const OUT_FRAMES = 256;
/** ... and what is in the middle of its sound at the new place fades in over this many. */
const IN_FRAMES = 96;

/**
 * Plays the clips of a track from any place. After a jump, an edit or a stop the old place sounds on for a moment
 * while it fades, so that nothing clicks; a clip that begins at the new place keeps its attack.
 */
export class ClipSource {
  private clips: readonly PlanClip[] = [];
  private readonly readers = new Map<string, CurveReader>();
  private ghostClips: readonly PlanClip[] = [];
  private ghostPosition = 0;
  private ghostLeft = 0;
  private entered = 0;
  private sinceEntry = IN_FRAMES;
  /** Gains of the frames of a block. */
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);

  constructor(private readonly samples: ReadonlyMap<string, Samples>) {}

  /** @param sounding whether the old clips are playing at `position` now */
  setClips(clips: readonly PlanClip[], position: number, sounding: boolean): void {
    if (JSON.stringify(clips) === JSON.stringify(this.clips)) return;
    if (sounding) this.leave(position);
    this.clips = clips;
    this.readers.clear();
    for (const clip of clips) if (clip.gainCurve) this.readers.set(clip.id, new CurveReader(clip.gainCurve));
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

  /** Whether nothing sounds within the next frames. */
  silentFor(frames: number, position: number, playing: boolean): boolean {
    if (this.ghostLeft > 0) return false;
    if (playing) {
      for (const clip of this.clips) {
        if (clip.startFrame < position + frames && clip.startFrame + clip.lengthFrames > position) return false;
      }
    }
    return true;
  }

  /** Passes over frames in which nothing sounds. */
  skip(frames: number, playing: boolean): void {
    if (playing) this.sinceEntry += frames;
  }

  /** Adds to the block what sounds from `position` on; only the fading remains when not `playing`. */
  render(left: Float32Array, right: Float32Array, frames: number, position: number, playing: boolean): void {
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
    const within = position - clip.startFrame;
    const steady =
      clip.gainCurve === undefined &&
      fadeStep === 0 &&
      fade >= 1 &&
      within + first >= clip.fadeInFrames &&
      clip.lengthFrames - (within + last - 1) >= clip.fadeOutFrames;
    if (steady && clip.reversed) {
      // The frame of the sound at the beginning of the block, from which it goes backwards.
      addSteadyReversed(
        samples,
        clip.gain,
        left,
        right,
        first,
        last,
        clip.offsetFrame + clip.lengthFrames - 1 - within,
      );
    } else if (steady) addSteady(samples, clip.gain, left, right, first, last, within + clip.offsetFrame);
    else this.addFading(samples, clip, left, right, first, last, within, fade, fadeStep);
  }

  private addFading(
    samples: Samples,
    clip: PlanClip,
    left: Float32Array,
    right: Float32Array,
    first: number,
    last: number,
    within: number,
    fade: number,
    fadeStep: number,
  ): void {
    const { fadeInFrames, fadeOutFrames, lengthFrames, offsetFrame } = clip;
    const { fadeInShape = 'smooth', fadeOutShape = 'smooth' } = clip;
    const { gains } = this;
    const reader = this.readers.get(clip.id);
    if (reader) reader.fillAll(gains, first, clip.startFrame + within + first, last - first);
    else gains.fill(clip.gain, first, last);
    for (let i = first; i < last; i++) {
      const place = within + i;
      const at = offsetFrame + (clip.reversed ? lengthFrames - 1 - place : place);
      if (at < 0 || at >= samples.left.length) continue;
      const faded = fade + fadeStep * i;
      let level = gains[i]!;
      if (faded < 1) level *= smoothstep(faded);
      if (place < fadeInFrames) level *= fadeLevel(fadeInShape, place / fadeInFrames);
      const toEnd = lengthFrames - place;
      if (toEnd < fadeOutFrames) level *= fadeLevel(fadeOutShape, toEnd / fadeOutFrames);
      left[i] = left[i]! + samples.left[at]! * level;
      right[i] = right[i]! + samples.right[at]! * level;
    }
  }
}

/** Adds frames first to last of a block at one level; `shift` leads from the block to the sound. */
function addSteady(
  samples: Samples,
  gain: number,
  left: Float32Array,
  right: Float32Array,
  first: number,
  last: number,
  shift: number,
): void {
  const sourceLeft = samples.left;
  const sourceRight = samples.right;
  const from = Math.max(first, -shift);
  const to = Math.min(last, sourceLeft.length - shift);
  for (let i = from; i < to; i++) {
    left[i] = left[i]! + sourceLeft[i + shift]! * gain;
    right[i] = right[i]! + sourceRight[i + shift]! * gain;
  }
}

/** The same backwards: frame i of a block is frame `from - i` of the sound. */
function addSteadyReversed(
  samples: Samples,
  gain: number,
  left: Float32Array,
  right: Float32Array,
  first: number,
  last: number,
  from: number,
): void {
  const end = Math.min(last, from + 1);
  for (let i = Math.max(first, from - samples.left.length + 1); i < end; i++) {
    left[i] = left[i]! + samples.left[from - i]! * gain;
    right[i] = right[i]! + samples.right[from - i]! * gain;
  }
}
