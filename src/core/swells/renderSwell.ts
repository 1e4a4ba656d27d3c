import { dbToGain } from '../math/elementary';
import { fadeLevel, type FadeShape } from '../math/fades';
import { LONGEST_TAIL_SECONDS, type PlanInsert, type Samples } from '../engine/plan';
import { chainPlan } from '../engine/plans';
import { renderInSteps } from '../engine/render';

export interface SwellSettings {
  readonly sampleRate: number;
  /** Frame of the sound at which it lands. */
  readonly landFrame: number;
  /** Seconds from the landing on that feed it. */
  readonly sourceSeconds: number;
  /** Seconds that it takes to grow; null for as long as the space rings. */
  readonly lengthSeconds: number | null;
  readonly fadeInSeconds: number;
  readonly fadeShape: FadeShape;
  /** Silence between its end and the landing. */
  readonly gapSeconds: number;
  readonly levelDb: number;
  /** 0 mono to 2, 1 as the space makes it. */
  readonly width: number;
  /** True if the swell continues under the word. */
  readonly over: boolean;
}

const reversed = (sound: Float32Array) => sound.slice().reverse();

/** Scales what the sides differ by. */
function widen({ left, right }: Samples, width: number): void {
  for (let n = 0; n < left.length; n++) {
    const middle = 0.5 * (left[n]! + right[n]!);
    const side = 0.5 * width * (left[n]! - right[n]!);
    left[n] = middle + side;
    right[n] = middle - side;
  }
}

/**
 * A reverse swell: a word is turned round, sent through a space whose wet sound alone is kept, and turned round again, so
 * that the space grows towards the word and ends where that begins.
 * @param inserts the space, at its wet sound (`wetOnly`)
 * @param sounds those that its effects work with, by id
 * @param room memory for both sides of so many frames; the wet sound, which still runs backwards, is written there from
 * its beginning on
 * @returns both sides up to the landing, which is the frame after the last; with `over` as long as the source beyond it
 */
export function* renderSwell(
  { left, right }: Samples,
  inserts: readonly PlanInsert[],
  settings: SwellSettings,
  sounds: ReadonlyMap<string, Samples> = new Map(),
  room?: (frames: number) => Samples,
): Generator<number, Samples> {
  const { sampleRate, landFrame, sourceSeconds, lengthSeconds, fadeInSeconds, fadeShape, gapSeconds, levelDb, over } =
    settings;
  const frames = (seconds: number) => Math.round(seconds * sampleRate);
  const end = Math.min(left.length, landFrame + frames(sourceSeconds));
  const word = { left: reversed(left.subarray(landFrame, end)), right: reversed(right.subarray(landFrame, end)) };
  const { plan, samples } = chainPlan(inserts, sampleRate, word, sounds);
  const tailSeconds = lengthSeconds === null ? 'auto' : Math.min(lengthSeconds, LONGEST_TAIL_SECONDS);
  const wet = yield* renderInSteps(plan, { samples }, { fromFrame: 0, toFrame: word.left.length, tailSeconds }, room);
  if (settings.width !== 1) widen(wet, settings.width);
  const tail = wet.left.length - word.left.length;
  const gap = Math.min(frames(gapSeconds), tail);
  const fade = Math.min(frames(fadeInSeconds), tail - gap);
  const gain = dbToGain(levelDb);
  const [outLeft, outRight] = [wet.left, wet.right].map((side) => {
    const grown = reversed(side);
    // The gap takes the place of the end: what lies before it comes so much sooner.
    const out = new Float32Array(over ? grown.length : tail);
    for (let n = 0; n < tail - gap; n++) {
      out[n] = gain * (n < fade ? fadeLevel(fadeShape, n / fade) : 1) * grown[n + gap]!;
    }
    for (let n = tail; n < out.length; n++) out[n] = gain * grown[n]!;
    return out;
  });
  return { left: outLeft!, right: outRight! };
}
