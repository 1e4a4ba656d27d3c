import { MAXIMUM_BLOCK, type Kernel, type KernelFactory } from '../kernel';
import { EqualPowerMix } from '../mixer';
import { EchoLine, LineParameter } from './echoLine';
import { delaySpec } from './spec';

const RAMP_SECONDS = 0.02;
const LINE_PARAMETERS = delaySpec.lists[0]!.parameters.length;
const LINES = delaySpec.lists[0]!.count;
const TIME_CHANGE = LINE_PARAMETERS * LINES;
const MIX = TIME_CHANGE + 1;

class DelayKernel implements Kernel {
  readonly latencyFrames = 0;
  private readonly lines: readonly EchoLine[];
  private readonly mix: EqualPowerMix;
  private readonly rampFrames: number;
  private glide: boolean;
  private percent: number;
  private readonly wetLeft = new Float64Array(MAXIMUM_BLOCK);
  private readonly wetRight = new Float64Array(MAXIMUM_BLOCK);

  constructor(sampleRate: number, values: readonly number[]) {
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.lines = Array.from(
      { length: LINES },
      (_, line) =>
        new EchoLine(sampleRate, values.slice(line * LINE_PARAMETERS, (line + 1) * LINE_PARAMETERS), 101 + line),
    );
    this.glide = values[TIME_CHANGE] === 0;
    this.percent = values[MIX]!;
    this.mix = new EqualPowerMix(this.percent);
    this.balance(0);
  }

  tailSeconds(): number {
    return Math.max(...this.lines.map((line) => line.tailSeconds()));
  }

  setParameter(index: number, value: number, frames = this.rampFrames): void {
    if (index === TIME_CHANGE) {
      this.glide = value === 0;
    } else if (index === MIX) {
      this.percent = value;
      this.mix.moveTo(value, frames);
    } else {
      this.lines[Math.floor(index / LINE_PARAMETERS)]!.setParameter(
        (index % LINE_PARAMETERS) as LineParameter,
        value,
        frames,
      );
      this.balance(frames);
    }
  }

  locate(frame: number): void {
    for (const line of this.lines) line.locate(frame);
  }

  reset(): void {
    for (const line of this.lines) line.reset();
    this.mix.moveTo(this.percent, 0);
    this.balance(0);
  }

  private balance(frames: number): void {
    const soloed = this.lines.some((line) => line.soloed);
    for (const line of this.lines) line.setAudible(soloed ? line.soloed : !line.muted, frames);
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    const { wetLeft, wetRight } = this;
    wetLeft.fill(0, 0, frames);
    wetRight.fill(0, 0, frames);
    for (const line of this.lines) line.process(left, right, wetLeft, wetRight, frames, this.glide);
    this.mix.blend(left, wetLeft, right, wetRight, frames);
  }
}

export const createDelay: KernelFactory = (sampleRate, values) => new DelayKernel(sampleRate, values);
