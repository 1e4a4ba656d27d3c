/** Frames under one pair of the finest peaks. */
export const PEAK_FRAMES = 256;

const toByte = (x: number) => Math.max(-127, Math.min(127, Math.round(x * 127)));

/**
 * Lowest and highest sample of every PEAK_FRAMES frames over all channels, as signed bytes in pairs (127 is full
 * scale): enough to draw a waveform without its samples. The sound can come in parts.
 */
export class PeakFinder {
  private readonly pairs: number[] = [];
  private low = Infinity;
  private high = -Infinity;
  private inSlot = 0;

  /** @param channels the next frames, as many in each */
  add(channels: readonly Float32Array[]): void {
    const frames = channels[0]?.length ?? 0;
    for (let i = 0; i < frames; i++) {
      for (const channel of channels) {
        const x = channel[i]!;
        if (x < this.low) this.low = x;
        if (x > this.high) this.high = x;
      }
      if (++this.inSlot === PEAK_FRAMES) this.close();
    }
  }

  private close(): void {
    this.pairs.push(toByte(this.low), toByte(this.high));
    this.low = Infinity;
    this.high = -Infinity;
    this.inSlot = 0;
  }

  finish(): Int8Array {
    if (this.inSlot > 0) this.close();
    return Int8Array.from(this.pairs);
  }
}

export function computePeaks(channels: readonly Float32Array[]): Int8Array {
  const finder = new PeakFinder();
  finder.add(channels);
  return finder.finish();
}
