/** Envelopes are taken over so long. */
const STEP_SECONDS = 0.00025;
/** A beginning reaches its peak within this. */
const RISE_SECONDS = 0.12;
/** It rises from this part of the peak to that. */
const FROM = 0.1;
const TO = 0.9;

/**
 * How fast a sound begins: the median time from a tenth to nine tenths of the peak that follows an onset, in seconds;
 * null where nothing begins.
 * @param onsets in seconds
 */
export function attackOf(
  left: Float32Array,
  right: Float32Array,
  sampleRateHz: number,
  onsets: readonly number[],
): number | null {
  const step = Math.max(1, Math.round(STEP_SECONDS * sampleRateHz));
  const rises = onsets.flatMap((onset): number[] => {
    // An onset is told within some milliseconds.
    const first = Math.max(0, Math.round((onset - RISE_SECONDS / 4) * sampleRateHz));
    const count = Math.round((1.25 * RISE_SECONDS * sampleRateHz) / step);
    const envelope = Array.from({ length: count }, (_, n) => {
      let most = 0;
      for (let i = first + n * step; i < Math.min(left.length, first + (n + 1) * step); i++) {
        most = Math.max(most, Math.abs(left[i]! + right[i]!));
      }
      return most;
    });
    const peak = Math.max(...envelope);
    if (peak <= 0) return [];
    const top = envelope.findIndex((one) => one >= TO * peak);
    let foot = top;
    while (foot > 0 && envelope[foot]! > FROM * peak) foot--;
    return [((top - foot) * step) / sampleRateHz];
  });
  return rises.sort((a, b) => a - b)[Math.floor(rises.length / 2)] ?? null;
}

/** As sharp and as soft as the sounds of which it is known, in seconds: clicks, and speech and music. */
const CLICK_ATTACK = 0.001;
const SOFT_ATTACK = 0.03;
const CLICK_LIMIT = 0.005;
const SOFT_LIMIT = 0.05;

/**
 * Up to how late a copy is heard as one with the sound, in seconds: about 5 ms for clicks, 50 ms for speech and music
 * (Litovsky, Colburn, Yost and Guzman, "The precedence effect", 1999), and by how sharp a sound begins in between.
 * @param attack seconds
 */
export function fusionLimit(attack: number): number {
  const place = Math.log(attack / CLICK_ATTACK) / Math.log(SOFT_ATTACK / CLICK_ATTACK);
  return CLICK_LIMIT * (SOFT_LIMIT / CLICK_LIMIT) ** Math.min(1, Math.max(0, place));
}

export type Fusion = 'fused' | 'edge' | 'echo';

/** What a copy is heard as that is so late: one with the sound, near the edge of that (within a quarter), or an echo. */
export function fusionOf(seconds: number, limit: number): Fusion {
  return seconds < 0.75 * limit ? 'fused' : seconds <= 1.25 * limit ? 'edge' : 'echo';
}
