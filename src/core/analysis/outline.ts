/** A stretch of a sound: some of its frames, one array a side. */
export interface SoundStretch {
  /** Place of the first frame in the sound. */
  readonly first: number;
  readonly sides: readonly Float32Array[];
}

/**
 * Lowest and highest sample of each column of a drawing over all sides, in pairs. A column narrower than a frame has the frame
 * that it lies in; outside the stretch there is silence.
 * @param from,perColumn frame at which the first column begins, and frames a column, both with fractions
 */
export function outlineOf(
  { first, sides }: SoundStretch,
  from: number,
  perColumn: number,
  columns: number,
): Float32Array {
  const pairs = new Float32Array(2 * columns);
  const frames = sides[0]?.length ?? 0;
  for (let column = 0; column < columns; column++) {
    const begin = Math.floor(from + column * perColumn) - first;
    const end = Math.max(begin + 1, Math.ceil(from + (column + 1) * perColumn) - first);
    let [low, high] = [Infinity, -Infinity];
    for (let n = Math.max(0, begin); n < Math.min(frames, end); n++) {
      for (const side of sides) {
        if (side[n]! < low) low = side[n]!;
        if (side[n]! > high) high = side[n]!;
      }
    }
    if (low <= high) pairs.set([low, high], 2 * column);
  }
  return pairs;
}

/** The same from peaks, as `computePeaks` gives them. @param perPeak frames of each pair of peaks */
export function outlineOfPeaks(
  peaks: Int8Array,
  perPeak: number,
  from: number,
  perColumn: number,
  columns: number,
): Float32Array {
  const pairs = new Float32Array(2 * columns);
  const slots = peaks.length / 2;
  for (let column = 0; column < columns; column++) {
    const begin = Math.floor((from + column * perColumn) / perPeak);
    const end = Math.max(begin + 1, Math.floor((from + (column + 1) * perColumn) / perPeak));
    let [low, high] = [127, -127];
    for (let n = Math.max(0, begin); n < Math.min(slots, end); n++) {
      low = Math.min(low, peaks[n * 2]!);
      high = Math.max(high, peaks[n * 2 + 1]!);
    }
    if (low <= high) pairs.set([low / 127, high / 127], 2 * column);
  }
  return pairs;
}
