import type { KernelContext } from './kernel';

/** How long a parameter takes to where it is set, so that it does not click. */
export const RAMP_SECONDS = 0.02;

/** What most kernels share: the values of their parameters, and how long those take to be reached. */
export abstract class ParameterKernel {
  protected readonly v: number[];
  protected readonly rampFrames: number;
  /** It has worked since it was made, reset or passed over: what moves must not leap. */
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

  /** Sends everything on its way to where the values say, to arrive after `frames` frames. */
  protected abstract aim(frames: number): void;
}
