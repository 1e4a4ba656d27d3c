import type { KernelContext } from './kernel';

/** Ramp of a parameter that is set by hand, so that it does not click. */
export const RAMP_SECONDS = 0.02;

/** Base of most kernels: the values of their parameters, and the length of their ramps. */
export abstract class ParameterKernel {
  protected readonly v: number[];
  protected readonly rampFrames: number;
  /** True if it has processed since it was built, reset or suspended: parameters must ramp. */
  protected isSounding = false;

  protected readonly sampleRate: number;

  protected constructor({ sampleRate, values }: KernelContext) {
    this.sampleRate = sampleRate;
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
  }

  setParameter(index: number, value: number, frames = this.rampFrames): void {
    this.v[index] = value;
    this.aim(frames);
  }

  suspend(): void {
    this.isSounding = false;
  }

  /** Starts the ramps to the current values, `frames` frames long. */
  protected abstract aim(frames: number): void;
}
