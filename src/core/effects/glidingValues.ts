import { Ramp } from '../dsp/ramp';

/** Parameters that are on their way from one value to another, looked at now and then. */
export class GlidingValues {
  private readonly ramps: ReadonlyMap<number, Ramp>;

  /** @param indices places of the parameters among the values */
  constructor(indices: readonly number[]) {
    this.ramps = new Map(indices.map((index) => [index, new Ramp(0)]));
  }

  moveTo(values: readonly number[], frames: number): void {
    for (const [index, ramp] of this.ramps) ramp.moveTo(values[index]!, frames);
  }

  /** True if any value is moving. */
  get moves(): boolean {
    for (const ramp of this.ramps.values()) if (!ramp.settled) return true;
    return false;
  }

  skip(frames: number): void {
    for (const ramp of this.ramps.values()) ramp.skip(frames);
  }

  at(index: number): number {
    return this.ramps.get(index)!.value;
  }
}
