/** Frames of the ring through which the sound before and after something can be watched; a power of two. */
export const PROBE_FRAMES = 16384;
/** Before left, before right, after left, after right. */
const CHANNELS = 4;

/** Memory through which one thing is watched, shared between who writes and who reads. */
export const newProbeMemory = (): SharedArrayBuffer => new SharedArrayBuffer((1 + CHANNELS * PROBE_FRAMES) * 4);

/** Rings of the newest sound before and after an effect or the effects of a strip. */
export class Probe {
  readonly rings: readonly Float32Array[];
  private readonly count: Int32Array;

  constructor(memory: SharedArrayBuffer) {
    this.count = new Int32Array(memory, 0, 1);
    this.rings = Array.from(
      { length: CHANNELS },
      (_, channel) => new Float32Array(memory, (1 + channel * PROBE_FRAMES) * 4, PROBE_FRAMES),
    );
  }

  /** Frames written so far. */
  get written(): number {
    return this.count[0]!;
  }

  /** Writes the newest frames of a ring in order, as many as there is room for, up to its length. */
  newest(ring: number, into: Float32Array): void {
    const from = this.written - into.length;
    const samples = this.rings[ring]!;
    for (let i = 0; i < into.length; i++) into[i] = samples[(from + i) & (PROBE_FRAMES - 1)]!;
  }

  before(left: Float32Array, right: Float32Array, frames: number): void {
    this.write(this.rings[0]!, left, frames);
    this.write(this.rings[1]!, right, frames);
  }

  /** Closes the block that `before` began. */
  after(left: Float32Array, right: Float32Array, frames: number): void {
    this.write(this.rings[2]!, left, frames);
    this.write(this.rings[3]!, right, frames);
    this.count[0] = this.written + frames;
  }

  private write(ring: Float32Array, block: Float32Array, frames: number): void {
    for (let i = 0; i < frames; i++) ring[(this.written + i) & (PROBE_FRAMES - 1)] = block[i]!;
  }
}
