/** Position of a level on a meter, 0 to 1: -60 dB at the left end, +6 dB at the right, the upper half for the top 20 dB. */
export function meterPosition(gain: number): number {
  if (gain <= 0) return 0;
  const db = 20 * Math.log10(gain);
  const linear = Math.min(1, Math.max(0, (db + 60) / 66));
  return linear ** 1.4;
}
