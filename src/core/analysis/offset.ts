/** A side of a sound around its mean. */
export function withoutOffset(side: Float32Array): Float32Array {
  let sum = 0;
  for (let n = 0; n < side.length; n++) sum += side[n]!;
  const mean = sum / Math.max(1, side.length);
  return side.map((one) => one - mean);
}
