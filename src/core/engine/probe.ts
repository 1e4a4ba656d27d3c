/** Frames of the ring through which the sound before and after something can be watched; a power of two. */
export const PROBE_FRAMES = 16384;
/** Before left, before right, after left, after right. */
export const PROBE_CHANNELS = 4;

/** Rings of the newest sound before and after an effect or the effects of a strip. */
export class Probe {
  /** Frames written so far. */
  written = 0;
  private readonly rings: readonly Float32Array[];

  /** @param memory room for the channels, one after the other */
  constructor(memory: Float32Array) {
    this.rings = Array.from({ length: PROBE_CHANNELS }, (_, channel) =>
      memory.subarray(channel * PROBE_FRAMES, (channel + 1) * PROBE_FRAMES),
    );
  }

  before(left: Float32Array, right: Float32Array, frames: number): void {
    this.write(this.rings[0]!, left, frames);
    this.write(this.rings[1]!, right, frames);
  }

  /** Closes the block that `before` began. */
  after(left: Float32Array, right: Float32Array, frames: number): void {
    this.write(this.rings[2]!, left, frames);
    this.write(this.rings[3]!, right, frames);
    this.written += frames;
  }

  private write(ring: Float32Array, block: Float32Array, frames: number): void {
    for (let i = 0; i < frames; i++) ring[(this.written + i) & (PROBE_FRAMES - 1)] = block[i]!;
  }
}
