/** Envelopes are taken over so long. */
const STEP_SECONDS = 0.00025;
/** Lead of the analysed stretch before each onset. */
const EARLY_SECONDS = 0.03;
/** Part of that lead which is surely before the onset. */
const BEFORE_SECONDS = 0.015;
const LOOK_SECONDS = 0.2;
/** It rises from this part of the peak to that. */
const FROM = 0.1;
const TO = 0.9;
const HALF = 0.5;
/** Half a turn of the lowest tone that begins sharply, in seconds. */
const LONGEST_CYCLE = 0.006;

/** Attack of sounds: rise from 10 to 90 % of the peak, and time above half of it, in seconds. */
export interface Beginning {
  readonly attack: number;
  readonly length: number;
}

/**
 * Attack of a sound: the medians over its onsets; null without onsets.
 * @param onsets in seconds
 */
export function beginningOf(
  left: Float32Array,
  right: Float32Array,
  sampleRateHz: number,
  onsets: readonly number[],
): Beginning | null {
  const step = Math.max(1, Math.round(STEP_SECONDS * sampleRateHz));
  const cycle = Math.round(LONGEST_CYCLE / STEP_SECONDS);
  const seconds = (steps: number) => (steps * step) / sampleRateHz;
  const found = onsets.flatMap((onset): Beginning[] => {
    // An onset is told within some milliseconds.
    const first = Math.max(0, Math.round((onset - EARLY_SECONDS) * sampleRateHz));
    const envelope = Array.from({ length: Math.round((LOOK_SECONDS * sampleRateHz) / step) }, (_, n) => {
      let most = 0;
      for (let i = first + n * step; i < Math.min(left.length, first + (n + 1) * step); i++) {
        most = Math.max(most, Math.abs(left[i]! + right[i]!));
      }
      return most;
    });
    const peak = Math.max(...envelope);
    if (peak <= 0) return [];
    // The ringing of earlier sounds is not part of it.
    const base = Math.max(...envelope.slice(0, Math.round(BEFORE_SECONDS / STEP_SECONDS)));
    const rise = (part: number) => base + part * (peak - base);
    const top = envelope.findIndex((one) => one >= rise(TO));
    // A tone crosses zero on its way up: only what stays low for a while is before the beginning.
    let foot = top;
    for (let low = 0, n = top; n >= 0 && low <= cycle; n--) {
      low = envelope[n]! > rise(FROM) ? 0 : low + 1;
      if (low === 0) foot = n;
    }
    const last = envelope.findLastIndex((one) => one >= HALF * peak);
    return [{ attack: seconds(top - foot), length: seconds(last - foot) }];
  });
  const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!;
  if (found.length === 0) return null;
  return { attack: median(found.map(({ attack }) => attack)), length: median(found.map(({ length }) => length)) };
}

/** Clicks, and speech or music: attack, length, and the longest delay at which two are heard as one, in seconds. */
const CLICK = { attack: 0.001, length: 0.001, limit: 0.005 };
const SOFT = { attack: 0.03, length: 0.1, limit: 0.05 };

/**
 * Up to how late a copy is heard as one with the sound, in seconds: about 5 ms for clicks, 50 ms for speech and music
 * (Litovsky, Colburn, Yost and Guzman, "The precedence effect", 1999). What lies between is ours: by ratios, half by how
 * sharply a sound begins and half by how long it lasts, for both part sounds.
 * @param beginning null for what does not begin anywhere, which is soft
 */
export function fusionLimit(beginning: Beginning | null): number {
  if (beginning === null) return SOFT.limit;
  const place = (key: 'attack' | 'length') =>
    Math.min(1, Math.max(0, Math.log(beginning[key] / CLICK[key]) / Math.log(SOFT[key] / CLICK[key])));
  return CLICK.limit * (SOFT.limit / CLICK.limit) ** ((place('attack') + place('length')) / 2);
}

export type Fusion = 'fused' | 'edge' | 'echo';

/** Percept of a copy at a delay: fused with the sound, near the limit (within a quarter), or an echo. */
export function fusionOf(seconds: number, limit: number): Fusion {
  return seconds < 0.75 * limit ? 'fused' : seconds <= 1.25 * limit ? 'edge' : 'echo';
}
