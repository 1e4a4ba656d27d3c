import { exp, log } from '../math/elementary';
import { Ramp } from './ramp';

/** A cut that is let in where it is to be, moved while it is in, and let out where it was. */
export class CutShare {
  private readonly logHz = new Ramp(0);
  private readonly amount = new Ramp(0);

  /** @param hz null for none */
  aim(hz: number | null, frames: number): void {
    if (hz !== null) this.logHz.moveTo(log(hz), this.amount.idle ? 0 : frames);
    this.amount.moveTo(hz === null ? 0 : 1, frames);
  }

  /** Share of the filtered signal, 0 to 1. */
  get share(): number {
    return this.amount.value;
  }

  get hz(): number {
    return exp(this.logHz.value);
  }

  /** There is something of it, or going to be. */
  get heard(): boolean {
    return this.amount.value > 0 || !this.amount.settled;
  }

  get settled(): boolean {
    return this.logHz.settled && this.amount.settled;
  }

  skip(frames: number): void {
    this.logHz.skip(frames);
    this.amount.skip(frames);
  }
}
