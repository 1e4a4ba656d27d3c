import { AntialiasedCurve, SMOOTHED_CURVES, type SmoothedCurveName } from './antialiasedCurve';
import { CURVES, PADDING, STAGES, STOPBAND_DB } from './driveStage';
import { HalfBandStage } from './halfBandStage';

/** The work of a drive at eight times the rate in TypeScript: the reference for that in WebAssembly. */
export class DriveTwin {
  private readonly stages = STAGES.map((pairs, n) => new HalfBandStage(pairs, STOPBAND_DB, 128 << n));
  private readonly curves = [new AntialiasedCurve(), new AntialiasedCurve()] as const;
  private readonly used = [false, false];
  private readonly twice = new Float64Array(256);
  private readonly four = new Float64Array(512);
  private readonly eight = new Float64Array(1024);
  /** The end of the last block at eight times the rate, as far as it is still to come out. */
  private readonly held = new Float64Array(PADDING + CURVES);
  private readonly last = new Float64Array(PADDING + CURVES);

  setCurves(first: SmoothedCurveName | null, second: SmoothedCurveName | null = null): void {
    [first, second].forEach((name, place) => {
      this.used[place] = name !== null;
      if (name !== null) this.curves[place as 0 | 1].setCurve(SMOOTHED_CURVES[name]);
    });
  }

  /** As `DriveStage.process` with all of the sound driven and no offset taken out. */
  process(block: Float64Array, frames: number, firstGains: Float64Array, secondGains: Float64Array): void {
    const { twice, four, eight } = this;
    const [outer, middle, inner] = this.stages as [HalfBandStage, HalfBandStage, HalfBandStage];
    outer.up(block, frames, twice);
    middle.up(twice, 2 * frames, four);
    inner.up(four, 4 * frames, eight);
    let padding = PADDING + CURVES;
    for (let place = 0; place < CURVES; place++) {
      if (!this.used[place]) continue;
      this.bend(this.curves[place as 0 | 1], frames, place === 0 ? firstGains : secondGains);
      padding--;
    }
    this.pad(8 * frames, padding);
    inner.down(eight, 4 * frames, four);
    middle.down(four, 2 * frames, twice);
    outer.down(twice, frames, block);
  }

  private bend(curve: AntialiasedCurve, frames: number, gains: Float64Array): void {
    const { eight } = this;
    for (let i = 0, to = 0; i < frames; i++) {
      for (let n = 0; n < 8; n++, to++) eight[to] = eight[to]! * gains[i]!;
    }
    curve.process(eight, 8 * frames);
    for (let i = 0, to = 0; i < frames; i++) {
      const back = 1 / gains[i]!;
      for (let n = 0; n < 8; n++, to++) eight[to] = eight[to]! * back;
    }
  }

  /** Delays the block at eight times the rate by `by`, so that the whole latency is one of whole frames. */
  private pad(length: number, by: number): void {
    const { eight, held, last } = this;
    const most = held.length;
    // The newest samples come last in `held`, so that another padding takes up where this one was.
    for (let i = 0; i < most; i++) last[i] = eight[length - most + i]!;
    for (let i = length - 1; i >= by; i--) eight[i] = eight[i - by]!;
    for (let i = 0; i < by; i++) eight[i] = held[most - by + i]!;
    for (let i = 0; i < most; i++) held[i] = last[i]!;
  }
}
