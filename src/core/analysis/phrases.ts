/** A stretch of sound between two pauses, in seconds. */
export interface Phrase {
  readonly start: number;
  readonly end: number;
}

export interface Phrases {
  readonly phrases: readonly Phrase[];
  /** Level of the phrases, RMS in dB of full scale; null for silence. */
  readonly levelDb: number | null;
  /** Level that separates phrases from pauses. */
  readonly thresholdDb: number;
}

const FRAME_SECONDS = 0.01;
/** Below the loud parts by this much is a pause ... */
const BELOW_LOUD_DB = 24;
/** ... when it lasts as long as a breath between phrases. */
const SHORTEST_PAUSE_SECONDS = 0.28;
const SHORTEST_PHRASE_SECONDS = 0.12;
const SILENCE_DB = -70;

/**
 * Finds phrases and the pauses between them by short-time level: what is within 24 dB of the loud tenth of the frames
 * belongs to a phrase, and gaps shorter than 0.28 s do too.
 * @param left, right sound at `sampleRate`
 */
export function findPhrases(left: Float32Array, right: Float32Array, sampleRate: number): Phrases {
  const size = Math.round(FRAME_SECONDS * sampleRate);
  const count = Math.floor(left.length / size);
  const power = new Float64Array(count);
  for (let frame = 0; frame < count; frame++) {
    let sum = 0;
    for (let n = frame * size; n < (frame + 1) * size; n++) sum += left[n]! * left[n]! + right[n]! * right[n]!;
    power[frame] = sum / (2 * size);
  }
  const db = power.map((one) => 10 * Math.log10(one + 1e-20));
  const sounding = [...db].filter((one) => one > SILENCE_DB).sort((a, b) => a - b);
  if (sounding.length === 0) return { phrases: [], levelDb: null, thresholdDb: SILENCE_DB };
  const loud = sounding[Math.floor(0.9 * (sounding.length - 1))]!;
  const thresholdDb = Math.max(SILENCE_DB, loud - BELOW_LOUD_DB);
  const phrases: { start: number; end: number }[] = [];
  for (let frame = 0; frame < count; frame++) {
    if (db[frame]! < thresholdDb) continue;
    const start = frame * FRAME_SECONDS;
    const last = phrases.at(-1);
    if (last && start - last.end < SHORTEST_PAUSE_SECONDS) last.end = start + FRAME_SECONDS;
    else phrases.push({ start, end: start + FRAME_SECONDS });
  }
  const kept = phrases.filter(({ start, end }) => end - start >= SHORTEST_PHRASE_SECONDS);
  let sum = 0;
  let frames = 0;
  for (const { start, end } of kept) {
    for (
      let frame = Math.round(start / FRAME_SECONDS);
      frame < Math.round(end / FRAME_SECONDS) && frame < count;
      frame++
    ) {
      sum += power[frame]!;
      frames++;
    }
  }
  return { phrases: kept, levelDb: frames === 0 ? null : 10 * Math.log10(sum / frames), thresholdDb };
}
