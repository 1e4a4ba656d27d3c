/** Samples past full scale, and by how many decibels the highest of them is over it (0 when none is). */
export function clippingOf(channels: readonly Float32Array[]): { samples: number; overDb: number } {
  let samples = 0;
  let highest = 1;
  for (const channel of channels) {
    for (const x of channel) {
      const magnitude = x < 0 ? -x : x;
      if (magnitude <= 1) continue;
      samples++;
      if (magnitude > highest) highest = magnitude;
    }
  }
  return { samples, overDb: 20 * Math.log10(highest) };
}
