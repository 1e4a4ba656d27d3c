import { MAXIMUM_BLOCK } from '../effects/kernel';
import { fadeLevel } from '../math/fades';
import { smoothstep } from '../math/smoothstep';
import { isPaged, readPages, type PagedSamples } from '../pages/pagedSamples';
import { CurveReader } from './curve';
import type { PlanClip, SoundSource } from './plan';

/** A place that is left fades out over this many frames ... */
const OUT_FRAMES = 256;
/** ... and what is in the middle of its sound at a new place fades in over this many. */
const IN_FRAMES = 96;

/** The clips as they are played from one place on. */
interface Voice {
  clips: readonly PlanClip[];
  readers: ReadonlyMap<string, CurveReader>;
  /** Frame of the session that it came in at. */
  entered: number;
  /** Frames since then. */
  age: number;
}

/** A voice whose place has been left. */
interface Ending {
  voice: Voice;
  position: number;
  /** Frames until it begins to fade. */
  hold: number;
  /** Frames of its fade that are left. */
  left: number;
}

const NO_READERS: ReadonlyMap<string, CurveReader> = new Map();

/**
 * Plays the clips of a track from any place. After a jump, an edit or a stop the old place sounds on for a moment while
 * it fades, so that nothing clicks; a clip that begins at the new place keeps its attack. Every fade is a whole
 * smoothstep: a place that is left while it still fades in comes in fully first, and the next one waits for that, up to
 * 2 ms. So however fast jumps and edits follow one another, no more than five places sound.
 */
export class ClipSource {
  private clips: readonly PlanClip[] = [];
  private readers = NO_READERS;
  private current: Voice = { clips: [], readers: NO_READERS, entered: 0, age: IN_FRAMES };
  private endings: Ending[] = [];
  /** Frames until the current voice may come in. */
  private wait = 0;
  /** Gains of the fades of a voice and of a clip, for the frames of a block. */
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);
  private readonly levels = new Float64Array(MAXIMUM_BLOCK);
  /** Source of the clip that is being added: a whole sound, or the frames of one block of a paged one. */
  private readonly stretch: Stretch = { left: new Float32Array(), right: new Float32Array(), first: 0, frames: 0 };
  private readonly pagedLeft = new Float32Array(MAXIMUM_BLOCK);
  private readonly pagedRight = new Float32Array(MAXIMUM_BLOCK);

  constructor(private readonly sounds: ReadonlyMap<string, SoundSource>) {}

  /** @param sounding true while the old clips are playing, at `position` now */
  setClips(clips: readonly PlanClip[], position: number, sounding: boolean): void {
    if (JSON.stringify(clips) === JSON.stringify(this.clips)) return;
    if (sounding) this.leave(position);
    this.clips = clips;
    this.readers = new Map(clips.flatMap(({ id, gainCurve }) => (gainCurve ? [[id, new CurveReader(gainCurve)]] : [])));
    this.enter(position);
  }

  /** Lets the place that has been playing fade. */
  leave(position: number): void {
    const { current: voice } = this;
    if (this.wait > 0 || !sounds(voice.clips, position, IN_FRAMES + OUT_FRAMES)) return;
    this.wait = Math.max(0, IN_FRAMES - voice.age);
    this.endings.push({ voice, position, hold: this.wait, left: OUT_FRAMES });
  }

  enter(position: number): void {
    this.current = { clips: this.clips, readers: this.readers, entered: position + this.wait, age: 0 };
  }

  /** True if nothing sounds within the next frames. */
  silentFor(frames: number, position: number, playing: boolean): boolean {
    return this.endings.length === 0 && !(playing && sounds(this.current.clips, position, frames));
  }

  /** Passes over frames in which nothing sounds. */
  skip(frames: number, playing: boolean): void {
    if (playing) this.current.age += frames;
  }

  /** Adds to the block what sounds from `position` on; only what is fading remains when not `playing`. */
  render(left: Float32Array, right: Float32Array, frames: number, position: number, playing: boolean): void {
    const waited = Math.min(frames, this.wait);
    this.wait -= waited;
    if (playing && waited < frames) {
      this.play(this.current, left, right, waited, frames, position);
      this.current.age += frames - waited;
    }
    if (this.endings.length > 0) this.playEndings(left, right, frames);
  }

  /** Adds frames `from` to `to` of the block, whose first is at `position`. */
  private play(
    { clips, readers, entered, age }: Voice,
    left: Float32Array,
    right: Float32Array,
    from: number,
    to: number,
    position: number,
    ending?: Ending,
  ): void {
    for (const clip of clips) {
      const first = Math.max(from, clip.startFrame - position);
      const last = Math.min(to, clip.startFrame + clip.lengthFrames - position);
      if (first >= last) continue;
      const isEntering = age < IN_FRAMES && clip.startFrame < entered;
      const isFading = isEntering || (ending !== undefined && ending.hold < last);
      if (isFading) this.fillGains(first, last, isEntering ? age - from : IN_FRAMES, ending);
      this.add(clip, readers.get(clip.id), left, right, first, last, position - clip.startFrame, isFading);
    }
  }

  /**
   * Fills `gains` with the fades of a voice.
   * @param age of the voice at the block's first frame
   */
  private fillGains(first: number, last: number, age: number, ending: Ending | undefined): void {
    const { gains } = this;
    const { hold, left } = ending ?? { hold: last, left: OUT_FRAMES };
    for (let i = first; i < last; i++) {
      const entering = age + i < IN_FRAMES ? smoothstep((age + i) / IN_FRAMES) : 1;
      gains[i] = i < hold ? entering : entering * smoothstep((left - (i - hold)) / OUT_FRAMES);
    }
  }

  private playEndings(left: Float32Array, right: Float32Array, frames: number): void {
    for (const ending of this.endings) {
      const count = Math.min(frames, ending.hold + ending.left);
      this.play(ending.voice, left, right, 0, count, ending.position, ending);
      ending.voice.age += count;
      ending.position += count;
      ending.left -= Math.max(0, count - ending.hold);
      ending.hold = Math.max(0, ending.hold - count);
    }
    if (this.endings.some(isOver)) this.endings = this.endings.filter((one) => !isOver(one));
  }

  /** @param isFading true if `gains` holds for it */
  private add(
    clip: PlanClip,
    reader: CurveReader | undefined,
    left: Float32Array,
    right: Float32Array,
    first: number,
    last: number,
    within: number,
    isFading: boolean,
  ): void {
    const sound = this.sounds.get(clip.assetId);
    if (!sound) return;
    const { stretch } = this;
    if (isPaged(sound)) this.readStretch(sound, clip, first, last, within);
    else {
      stretch.left = sound.left;
      stretch.right = sound.right;
      stretch.first = 0;
      stretch.frames = sound.left.length;
    }
    const plain =
      !isFading &&
      !reader &&
      within + first >= clip.fadeInFrames &&
      clip.lengthFrames - (within + last - 1) >= clip.fadeOutFrames;
    if (!plain) {
      if (!isFading) this.gains.fill(1, first, last);
      this.addFading(clip, reader, left, right, first, last, within);
    } else if (clip.reversed) {
      // The frame of the sound at the beginning of the block, from which it goes backwards.
      const origin = clip.offsetFrame + clip.lengthFrames - 1 - within;
      addSteadyReversed(stretch, clip.gain, left, right, first, last, origin);
    } else addSteady(stretch, clip.gain, left, right, first, last, within + clip.offsetFrame);
  }

  /** Reads what frames first to last of the block take of a sound. */
  private readStretch(sound: PagedSamples, clip: PlanClip, first: number, last: number, within: number): void {
    const { stretch, pagedLeft, pagedRight } = this;
    const begin = clip.reversed ? clip.lengthFrames - within - last : within + first;
    stretch.first = clip.offsetFrame + begin;
    stretch.left = pagedLeft;
    stretch.right = pagedRight;
    stretch.frames = sound.frames;
    readPages(sound, stretch.first, last - first, pagedLeft, pagedRight);
  }

  private addFading(
    clip: PlanClip,
    reader: CurveReader | undefined,
    left: Float32Array,
    right: Float32Array,
    first: number,
    last: number,
    within: number,
  ): void {
    const { fadeInFrames, fadeOutFrames, lengthFrames, offsetFrame } = clip;
    const { fadeInShape = 'smooth', fadeOutShape = 'smooth' } = clip;
    const { gains, levels, stretch } = this;
    if (reader) reader.fillAll(levels, first, clip.startFrame + within + first, last - first);
    else levels.fill(clip.gain, first, last);
    for (let i = first; i < last; i++) {
      const place = within + i;
      const at = offsetFrame + (clip.reversed ? lengthFrames - 1 - place : place);
      if (at < 0 || at >= stretch.frames) continue;
      let level = levels[i]! * gains[i]!;
      if (place < fadeInFrames) level *= fadeLevel(fadeInShape, place / fadeInFrames);
      const toEnd = lengthFrames - place;
      if (toEnd < fadeOutFrames) level *= fadeLevel(fadeOutShape, toEnd / fadeOutFrames);
      left[i] = left[i]! + stretch.left[at - stretch.first]! * level;
      right[i] = right[i]! + stretch.right[at - stretch.first]! * level;
    }
  }
}

const isOver = ({ hold, left }: Ending): boolean => hold + left === 0;

/** True if a clip sounds within so many frames from `position` on. */
function sounds(clips: readonly PlanClip[], position: number, frames: number): boolean {
  for (const { startFrame, lengthFrames } of clips) {
    if (startFrame < position + frames && startFrame + lengthFrames > position) return true;
  }
  return false;
}

/** Frames of a sound from `first` on. */
interface Stretch {
  left: Float32Array;
  right: Float32Array;
  first: number;
  /** Length of the whole sound. */
  frames: number;
}

/** Adds frames first to last of a block at one level; `shift` leads from the block to the sound. */
function addSteady(
  stretch: Stretch,
  gain: number,
  left: Float32Array,
  right: Float32Array,
  first: number,
  last: number,
  shift: number,
): void {
  const sourceLeft = stretch.left;
  const sourceRight = stretch.right;
  const from = Math.max(first, -shift);
  const to = Math.min(last, stretch.frames - shift);
  const toSource = shift - stretch.first;
  for (let i = from; i < to; i++) {
    left[i] = left[i]! + sourceLeft[i + toSource]! * gain;
    right[i] = right[i]! + sourceRight[i + toSource]! * gain;
  }
}

/** The same backwards: frame i of a block is frame `from - i` of the sound. */
function addSteadyReversed(
  stretch: Stretch,
  gain: number,
  left: Float32Array,
  right: Float32Array,
  first: number,
  last: number,
  from: number,
): void {
  const end = Math.min(last, from + 1);
  const fromSource = from - stretch.first;
  for (let i = Math.max(first, from - stretch.frames + 1); i < end; i++) {
    left[i] = left[i]! + stretch.left[fromSource - i]! * gain;
    right[i] = right[i]! + stretch.right[fromSource - i]! * gain;
  }
}
