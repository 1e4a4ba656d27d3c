import { settled } from '../../math/settled';
import { guardLoop } from '../../dsp/guard';
import { SINC_PHASES, SINC_TABLE, SINC_TAPS } from '../../dsp/interpolationTable';
import { SINC_AHEAD, SINC_NEAREST } from '../../dsp/ring';

const round = Math.fround;
/** 2^-32. */
const PART = 1 / 4294967296;

/** A ring in TypeScript that remembers all: the reference for `Ring`. */
export class RingTwin {
  private readonly samples: number[] = [];

  write(block: Float64Array, frames: number, guarded: boolean): void {
    for (let i = 0; i < frames; i++) this.put(guarded ? guardLoop(block[i]!) : block[i]!);
  }

  writeRound(
    block: Float64Array,
    gains: Float64Array,
    from: number,
    step: number,
    offset: number,
    least: number,
    frames: number,
  ): void {
    for (let i = 0; i < frames; i++) {
      const round = this.readAt(this.samples.length, delayAt(from, step, offset + i, least));
      this.put(guardLoop(block[i]! + (gains[i] === 0 ? 0 : gains[i]! * round)));
    }
  }

  read(
    out: Float64Array,
    from: number,
    step: number,
    offset: number,
    least: number,
    frames: number,
    written: number,
  ): void {
    const index = this.samples.length - written;
    for (let i = 0; i < frames; i++) out[i] = this.readAt(index + i, delayAt(from, step, offset + i, least));
  }

  private put(x: number): void {
    this.samples.push(round(settled(x)));
  }

  private at(index: number): number {
    return this.samples[index] ?? 0;
  }

  private readAt(index: number, delay: number): number {
    const whole = Math.floor(delay);
    return whole < SINC_NEAREST ? this.cubic(index - whole, delay - whole) : this.sinc(index - whole, delay - whole);
  }

  /** Third-order Lagrange interpolation over four points. */
  private cubic(at: number, d: number): number {
    return (
      this.at(at + 1) * ((-d * (d - 1) * (d - 2)) / 6) +
      this.at(at) * (((d + 1) * (d - 1) * (d - 2)) / 2) +
      this.at(at - 1) * ((-(d + 1) * d * (d - 2)) / 2) +
      this.at(at - 2) * (((d + 1) * d * (d - 1)) / 6)
    );
  }

  private sinc(at: number, part: number): number {
    const phase = Math.floor(part * SINC_PHASES + 0.5);
    const row = (phase % SINC_PHASES) * SINC_TAPS;
    const first = at - Math.floor(phase / SINC_PHASES) + SINC_AHEAD + 1 - SINC_TAPS;
    const products = Array.from({ length: SINC_TAPS }, (_, tap) =>
      round(SINC_TABLE[row + tap]! * this.at(first + tap)),
    );
    const lanes = [0, 1, 2, 3].map((lane) => {
      const [a, b, c, d] = [0, 4, 8, 12].map((tap) => products[tap + lane]!) as [number, number, number, number];
      return round(round(a + b) + round(c + d));
    }) as [number, number, number, number];
    return round(round(lanes[0] + lanes[2]) + round(lanes[1] + lanes[3]));
  }
}

/** Delays are whole multiples of 2^-32 frames. */
function delayAt(from: number, step: number, frame: number, least: number): number {
  const exact = BigInt(Math.floor(from / PART)) + BigInt(Math.floor(step / PART)) * BigInt(frame);
  return Math.max(Number(exact) * PART, Math.floor(least / PART) * PART);
}
