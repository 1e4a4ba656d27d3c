/** Frames under one pair of the finest peaks. */
export const PEAK_FRAMES = 256;

/**
 * Lowest and highest sample of every PEAK_FRAMES frames over all channels, as signed bytes in pairs (127 is full
 * scale): enough to draw a waveform without its samples.
 */
export function computePeaks(channels: readonly Float32Array[]): Int8Array {
  const frames = channels[0]?.length ?? 0;
  const count = Math.ceil(frames / PEAK_FRAMES);
  const peaks = new Int8Array(count * 2);
  const toByte = (x: number) => Math.max(-127, Math.min(127, Math.round(x * 127)));
  for (let slot = 0; slot < count; slot++) {
    let low = Infinity;
    let high = -Infinity;
    const end = Math.min(frames, (slot + 1) * PEAK_FRAMES);
    for (const channel of channels) {
      for (let i = slot * PEAK_FRAMES; i < end; i++) {
        const x = channel[i]!;
        if (x < low) low = x;
        if (x > high) high = x;
      }
    }
    peaks[slot * 2] = toByte(low);
    peaks[slot * 2 + 1] = toByte(high);
  }
  return peaks;
}
