import { TWO_PI } from '../math/circle';
import { cos, exp, sin } from '../math/elementary';
import type { Arena, Doubles } from '../wasm/arena';
import { wasm } from '../wasm/module';

/** An analogue prototype in units of its own frequency: (n2 s^2 + n1 s + n0) / (s^2 + s / q + 1). */
export interface Prototype {
  readonly frequencyHz: number;
  readonly q: number;
  readonly n2: number;
  readonly n1: number;
  readonly n0: number;
}

/** A first-order one: (n1 s + n0) / (s + 1). */
export interface FirstOrderPrototype {
  readonly frequencyHz: number;
  readonly n1: number;
  readonly n0: number;
}

/** Poles are kept below this part of half the rate, where a sampled filter can still have them. */
const HIGHEST_POLE = 0.95;
/** Highest part of the rate at which magnitudes are matched. */
const HIGHEST_MATCH = 0.36;

/** Squared magnitude of a prototype. */
function power({ frequencyHz, q, n2, n1, n0 }: Prototype, atHz: number): number {
  const w = atHz / frequencyHz;
  const square = w * w;
  const top = n0 - n2 * square;
  const bottom = 1 - square;
  return (top * top + n1 * n1 * square) / (bottom * bottom + square / (q * q));
}

/** Weights of the squared magnitudes at 0 Hz and at Nyquist, and of the product term, at a frequency. */
function weights(hz: number, rate: number): { p0: number; p1: number; p2: number } {
  const half = sin((Math.PI * hz) / rate);
  const p1 = half * half;
  const p0 = 1 - p1;
  return { p0, p1, p2: 4 * p0 * p1 };
}

/** Coefficients of a section: three of the integrators, then the weights of input, band and low. */
const COEFFICIENTS = 6;
/** Index of the coefficients in the state, behind the two integrators; everything is there for left and right. */
const FIRST = 4;

/**
 * One filter section of first or second order, for two channels, whose magnitude follows an analogue prototype up to a quarter of the
 * rate, where a bilinear transform is already narrowed: poles by impulse invariance, zeros so that the squared
 * magnitude agrees at three frequencies, 0, the prototype's own and a quarter of the rate (after Vicanek, "Matched
 * second order digital filters", 2016, which takes other three). Error below a quarter of the rate: under 0.1 dB for
 * boosts, their inverses, shelves of Q up to 1 and cuts up to 8 kHz at 48 kHz. It runs
 * as a state-variable filter with trapezoidal integrators and mixed outputs, which stays stable while it is retuned.
 */
export class MatchedFilter {
  private readonly wasmKernels = wasm().kernels;
  private readonly state: Doubles;
  /** Steps of the coefficients per frame. */
  private readonly steps: Doubles;
  private readonly goal = new Float64Array(COEFFICIENTS);
  private gliding = 0;
  /** Frames over which the next configuration is reached; 0 is at once. */
  glideFrames = 0;

  constructor(
    memory: Arena,
    private readonly sampleRate: number,
  ) {
    this.state = memory.doubles(FIRST + 2 * COEFFICIENTS);
    this.steps = memory.doubles(2 * COEFFICIENTS);
  }

  reset(): void {
    this.state.fill(0, 0, FIRST);
  }

  /** True if its coefficients are not moving. */
  get still(): boolean {
    return this.gliding === 0;
  }

  /** Address of its state, for kernels over several sections. */
  get place(): number {
    return this.state.byteOffset;
  }

  /** @param inverse true for one over the prototype, whose zeros must lie in the left half plane */
  configure(prototype: Prototype, inverse = false): void {
    const rate = this.sampleRate;
    const own = prototype.frequencyHz;
    const w = Math.min((TWO_PI * own) / rate, HIGHEST_POLE * Math.PI);
    const zeta = 0.5 / prototype.q;
    const decay = exp(-zeta * w);
    let a1: number;
    if (zeta <= 1) {
      a1 = -2 * decay * cos(Math.sqrt(1 - zeta * zeta) * w);
    } else {
      const spread = exp(Math.sqrt(zeta * zeta - 1) * w);
      a1 = -decay * (spread + 1 / spread);
    }
    const a2 = decay * decay;
    const A0 = (1 + a1 + a2) * (1 + a1 + a2);
    const A1 = (1 - a1 + a2) * (1 - a1 + a2);
    const A2 = -4 * a2;
    const quarter = 0.25 * rate;
    if (prototype.n0 === 0 && prototype.n1 === 0) {
      // A low cut keeps its double zero at 0 Hz; its level is right at its own frequency.
      const { p0, p1, p2 } = weights(Math.min(own, quarter), rate);
      const level = (A0 * p0 + A1 * p1 + A2 * p2) * power(prototype, Math.min(own, quarter));
      const b = Math.sqrt(level) / (4 * p1);
      return this.realize(a1, a2, b, -2 * b, b);
    }
    if (prototype.n1 === 0 && prototype.n2 !== 0) {
      // A notch keeps its zeros on its own frequency; its level is right at 0 Hz.
      const turn = -2 * cos(w);
      const b = (1 + a1 + a2) / (2 + turn);
      return this.realize(a1, a2, b, b * turn, b);
    }
    // High ones are matched on their own frequency and below it, as far up as a sampled filter can follow.
    const near = own < 0.2 * rate ? own : 0.14 * rate;
    const far = own < 0.25 * rate ? quarter : Math.min(own, HIGHEST_MATCH * rate);
    const { p0, p1, p2 } = weights(near, rate);
    const { p0: f0, p1: f1, p2: f2 } = weights(far, rate);
    const B0 = A0 * prototype.n0 * prototype.n0;
    const nearRest = (A0 * p0 + A1 * p1 + A2 * p2) * power(prototype, near) - B0 * p0;
    const farRest = (A0 * f0 + A1 * f1 + A2 * f2) * power(prototype, far) - B0 * f0;
    const determinant = p1 * f2 - p2 * f1;
    let B1 = (nearRest * f2 - p2 * farRest) / determinant;
    let B2 = (p1 * farRest - nearRest * f1) / determinant;
    if (B1 < 0) {
      B1 = 0;
      B2 = nearRest / p2;
    }
    const root0 = Math.sqrt(B0);
    const root1 = Math.sqrt(B1);
    const W = 0.5 * (root0 + root1);
    const b0 = 0.5 * (W + Math.sqrt(Math.max(0, W * W + B2)));
    const b1 = 0.5 * (root0 - root1);
    const b2 = b0 === 0 ? 0 : -B2 / (4 * b0);
    if (inverse) this.realize(b1 / b0, b2 / b0, 1 / b0, a1 / b0, a2 / b0);
    else this.realize(a1, a2, b0, b1, b2);
  }

  configureFirstOrder({ frequencyHz, n1, n0 }: FirstOrderPrototype): void {
    const rate = this.sampleRate;
    const w = Math.min((TWO_PI * frequencyHz) / rate, HIGHEST_POLE * Math.PI);
    const a1 = -exp(-w);
    const powerAt = (hz: number) => {
      const square = (hz / frequencyHz) * (hz / frequencyHz);
      return (n0 * n0 + n1 * n1 * square) / (1 + square);
    };
    const A0 = (1 + a1) * (1 + a1);
    const A1 = (1 - a1) * (1 - a1);
    const middleHz = n1 === 0 ? 0.25 * rate : Math.min(Math.max(frequencyHz, 0.1 * rate), 0.22 * rate);
    const { p0, p1 } = weights(middleHz, rate);
    const B0 = A0 * n0 * n0;
    const B1 = Math.max(0, ((A0 * p0 + A1 * p1) * powerAt(middleHz) - B0 * p0) / p1);
    const root0 = Math.sqrt(B0);
    const root1 = Math.sqrt(B1);
    // A zero at -1 against a pole there leaves a first-order section.
    const b0 = 0.5 * (root0 + root1);
    const b1 = 0.5 * (root0 - root1);
    const extra = 0.5;
    this.realize(a1 + extra, a1 * extra, b0, b1 + b0 * extra, b1 * extra);
  }

  /** Turns z-plane coefficients into those of the state-variable structure, and sets out for them. */
  private realize(a1: number, a2: number, b0: number, b1: number, b2: number): void {
    const { goal, state, steps } = this;
    const scale = 4 / (1 - a1 + a2);
    const g = Math.sqrt((1 + a1 + a2) / (1 - a1 + a2));
    const k = ((1 - a2) * scale) / (2 * g);
    const high = ((b0 - b1 + b2) * scale) / 4;
    const low = ((b0 + b1 + b2) * scale) / (4 * g * g);
    const band = ((b0 - b2) * scale) / (2 * g);
    goal[0] = 1 / (1 + g * (g + k));
    goal[1] = g * goal[0];
    goal[2] = g * goal[1];
    goal[3] = high;
    goal[4] = band - high * k;
    goal[5] = low - high;
    this.gliding = this.glideFrames;
    if (this.gliding === 0) return this.arrive();
    for (let i = 0; i < COEFFICIENTS; i++) {
      steps[2 * i] = steps[2 * i + 1] = (goal[i]! - state[FIRST + 2 * i]!) / this.gliding;
    }
  }

  private arrive(): void {
    for (let i = 0; i < COEFFICIENTS; i++) this.state[FIRST + 2 * i] = this.state[FIRST + 2 * i + 1] = this.goal[i]!;
  }

  /** Filters `frames` frames of both blocks from `start` on in place. */
  process(left: Doubles, right: Doubles, frames: number, start: number): void {
    const { wasmKernels, state, steps } = this;
    const moving = Math.min(frames, this.gliding);
    const first = left.byteOffset + 8 * start;
    const second = right.byteOffset + 8 * start;
    if (moving > 0) {
      wasmKernels.filterGliding(state.byteOffset, steps.byteOffset, first, second, moving);
      this.gliding -= moving;
      if (this.gliding === 0) this.arrive();
    }
    if (frames > moving) {
      wasmKernels.filterPair(state.byteOffset, first + 8 * moving, second + 8 * moving, frames - moving);
    }
  }
}
