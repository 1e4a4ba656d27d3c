/** Counts the samples past full scale of a sound that comes part by part. */
export class ClippingMeter {
  samples = 0;
  private highest = 1;

  take(channels: readonly Float32Array[]): void {
    for (const channel of channels) {
      for (const x of channel) {
        const magnitude = x < 0 ? -x : x;
        if (magnitude <= 1) continue;
        this.samples++;
        if (magnitude > this.highest) this.highest = magnitude;
      }
    }
  }

  /** By how many decibels the highest sample is over full scale; 0 when none is. */
  get overDb(): number {
    return 20 * Math.log10(this.highest);
  }
}

/** The same of a sound that is there as a whole. */
export function clippingOf(channels: readonly Float32Array[]): { samples: number; overDb: number } {
  const meter = new ClippingMeter();
  meter.take(channels);
  const { samples, overDb } = meter;
  return { samples, overDb };
}
