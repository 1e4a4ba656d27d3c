import { CrossfadedRead } from '../../dsp/crossfadedDelay';
import { LoudnessMatch } from '../../dsp/loudnessMatch';
import { Ramp } from '../../dsp/ramp';
import { takeSides, type Sides } from '../../dsp/sides';
import { Ring } from '../../dsp/ring';
import { dbToGain, gainToDb } from '../../math/elementary';
import type { Doubles, Floats } from '../../wasm/arena';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { PathPair, type PathAim } from './paths';
import { HIGH_CUT_OFF, LOW_CUT_OFF, midsideSpec, PATHS, type PathId } from './spec';
import { cutAt } from './transfer';

type PathKey = 'gain' | 'polarity' | 'delay' | 'lowCut' | 'highCut' | 'slope' | 'resonance' | 'solo' | 'mute';
const KEYS: readonly PathKey[] = [
  'gain',
  'polarity',
  'delay',
  'lowCut',
  'highCut',
  'slope',
  'resonance',
  'solo',
  'mute',
];
const P = parameterIndices(
  midsideSpec,
  ['amount', 'loop', 'inputFormat', 'outputFormat', 'autoLevel', 'holdLevel'],
  PATHS.flatMap(({ id }) => KEYS.map((key) => `${id}.${key}`)),
);
const placeOf = (path: PathId, key: PathKey) => midsideSpec.parameters.findIndex(({ id }) => id === `${path}.${key}`);
const PLACES = PATHS.map(
  ({ id }) => Object.fromEntries(KEYS.map((key) => [key, placeOf(id, key)])) as Record<PathKey, number>,
);

/** Frames between two looks at what moves; what goes round does so no faster. */
const TICK = 16;
const LONGEST_SECONDS = 0.05;
const SILENT_DB = -100;

/**
 * A two-by-two matrix between middle and sides, mid (left + right) / 2 and side (left - right) / 2 (Gerzon,
 * "Applications of Blumlein Shuffling to Stereo Microphone Techniques", 1994, for the frequency-dependent matrix). What
 * the paths change is added to what came in, so that a setting that changes nothing gives the same bits.
 *
 * The loop feeds each path across, as it comes out, into the other one; at most at unity whatever their gains and
 * resonances are, so that every setting dies away.
 */
class MidsideKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  /** Mid to mid and side to side; mid to side and side to mid. */
  private readonly direct: PathPair;
  private readonly across: PathPair;
  /** Input as mid and side, and output of both cross paths. */
  private readonly sources: readonly [Ring, Ring];
  private readonly rounds: readonly [Ring, Ring];
  /** In the order of the paths. */
  private readonly delays: readonly CrossfadedRead[];
  /** Feedback into mid to side and into side to mid. */
  private readonly roundDelays: readonly [CrossfadedRead, CrossfadedRead];
  private readonly round = [new Ramp(0), new Ramp(0)] as const;
  private readonly input = new Ramp(0);
  private readonly output = new Ramp(0);
  private readonly match: LoudnessMatch;
  private readonly mid: Doubles;
  private readonly side: Doubles;
  private readonly paths: readonly Doubles[];
  private readonly fed: Sides;
  private readonly before: Sides;
  private readonly after: Sides;
  private readonly longest: number;
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);
  private readonly one: Ring[] = [];
  private readonly into: Doubles[] = [];
  private offset = 0;
  /** Frames since nothing goes round any more; what went is gone when they are as many as the longest delay. */
  private quiet = Infinity;
  private formats = { same: true, moving: false };

  constructor(context: KernelContext) {
    super(context);
    const { memory } = context;
    const rate = this.sampleRate;
    this.longest = Math.ceil(LONGEST_SECONDS * rate) + 2 * MAXIMUM_BLOCK;
    const { longest } = this;
    this.direct = new PathPair(memory, rate);
    this.across = new PathPair(memory, rate);
    this.sources = [new Ring(memory, longest), new Ring(memory, longest)];
    this.rounds = [new Ring(memory, longest), new Ring(memory, longest)];
    this.delays = PATHS.map(() => new CrossfadedRead(memory, rate));
    this.roundDelays = [new CrossfadedRead(memory, rate), new CrossfadedRead(memory, rate)];
    this.match = new LoudnessMatch(memory, rate);
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.mid = block();
    this.side = block();
    this.paths = PATHS.map(block);
    this.fed = [block(), block()];
    this.before = [block(), block()];
    this.after = [block(), block()];
    this.reset();
  }

  /** True if it follows a past input. */
  get canSleep(): boolean {
    return this.v[P.autoLevel] === 0 && this.match.stands;
  }

  tailSeconds(): number {
    const { v } = this;
    const delay = (n: number) => v[PLACES[n]!.delay]! / 1000;
    const ring = this.direct.ringSeconds() + this.across.ringSeconds();
    const longest = Math.max(delay(0), delay(1), delay(2), delay(3));
    const loop = v[P.loop]! / 100;
    const least = TICK / this.sampleRate;
    const once = Math.max(delay(2), least) + Math.max(delay(3), least) + 2 * this.across.ringSeconds();
    const rounds = loop > 0 ? 90 / (-2 * gainToDb(loop)) + 1 : 0;
    return longest + ring + rounds * once;
  }

  locate(): void {}

  reset(): void {
    for (const ring of [...this.sources, ...this.rounds]) ring.clear();
    this.aim(0);
    for (const one of [...this.delays, ...this.roundDelays]) one.reset();
    this.direct.reset();
    this.across.reset();
    this.match.reset();
    this.quiet = Infinity;
    this.isSounding = false;
    this.offset = 0;
    this.look();
  }

  protected aim(frames: number): void {
    const { v } = this;
    const amount = v[P.amount]! / 100;
    const soloed = PLACES.some(({ solo }) => v[solo]! !== 0);
    for (let n = 0; n < PATHS.length; n++) {
      const place = PLACES[n]!;
      const aim = this.aimOf(n, amount, soloed);
      const pair = n < 2 ? this.direct : this.across;
      pair.aim((n % 2) as 0 | 1, aim, frames);
      const delay = Math.round((amount * v[place.delay]! * this.sampleRate) / 1000);
      this.delays[n]!.aim(delay);
      if (n < 2) continue;
      this.roundDelays[n - 2]!.aim(Math.max(TICK, delay));
      this.round[n - 2]!.moveTo(((amount * v[P.loop]!) / 100) * roundGain(aim), frames);
    }
    this.input.moveTo(v[P.inputFormat]!, frames);
    this.output.moveTo(v[P.outputFormat]!, frames);
  }

  /** Target of a path, between a neutral one and its parameters. */
  private aimOf(n: number, amount: number, soloed: boolean): PathAim {
    const { v } = this;
    const place = PLACES[n]!;
    const plain = n < 2 ? 1 : 0;
    const db = v[place.gain]!;
    const set = (v[place.polarity]! !== 0 ? -1 : 1) * (db <= SILENT_DB ? 0 : dbToGain(db));
    const silent = v[place.mute]! !== 0 || (soloed && v[place.solo]! === 0);
    return {
      gain: silent ? 0 : plain + amount * (set - plain),
      lowCut: cutAt(LOW_CUT_OFF, v[place.lowCut]!, amount),
      highCut: cutAt(HIGH_CUT_OFF, v[place.highCut]!, amount),
      gentle: v[place.slope]! === 0 ? 1 : 0,
      q: v[place.resonance]!,
    };
  }

  process(left: Floats, right: Floats, frames: number): void {
    this.isSounding = true;
    const { v, match, before, after, gains } = this;
    const follows = v[P.autoLevel] === 0 ? 'off' : v[P.holdLevel] === 0 ? 'on' : 'held';
    const matched = follows !== 'off' || !match.stands;
    if (matched) takeSides(before, left, right, frames);
    for (let from = 0; from < frames;) {
      if (this.offset === 0) this.look();
      const rest = frames - from;
      const count = this.stands(rest) ? rest : Math.min(rest, TICK - this.offset);
      this.piece(left, right, from, count);
      this.offset = (this.offset + count) % TICK;
      from += count;
    }
    if (!matched) return;
    takeSides(after, left, right, frames);
    match.follow(before, after, gains, frames, follows);
    for (let i = 0; i < frames; i++) {
      left[i] = left[i]! * gains[i]!;
      right[i] = right[i]! * gains[i]!;
    }
  }

  /** Nothing moves, and nothing goes round faster than so many frames: all of them can be done at once. */
  private stands(frames: number): boolean {
    const { roundDelays, direct, across, formats } = this;
    const slow = this.quiet > this.longest || Math.min(roundDelays[0].least, roundDelays[1].least) >= frames;
    return slow && direct.stands && across.stands && !formats.moving;
  }

  /** Sends everything that moves on to where it is after the next frames. */
  private look(): void {
    this.direct.tick(this.isSounding ? TICK : 0);
    this.across.tick(this.isSounding ? TICK : 0);
    this.formats.moving = !this.input.settled || !this.output.settled;
    this.formats.same = this.input.value === this.output.value;
  }

  private piece(left: Floats, right: Floats, from: number, frames: number): void {
    const { mid, side, sources, formats, paths } = this;
    const plain = !formats.moving && formats.same;
    if (formats.moving || this.input.value !== 0) {
      for (let i = 0; i < frames; i++) {
        const t = this.input.next();
        const l = left[from + i]!;
        const r = right[from + i]!;
        mid[i] = (l * (1 + t) + r * (1 - t)) / 2;
        side[i] = (l * (1 - t) - r * (1 - 3 * t)) / 2;
      }
    } else {
      for (let i = 0; i < frames; i++) {
        mid[i] = (left[from + i]! + right[from + i]!) / 2;
        side[i] = (left[from + i]! - right[from + i]!) / 2;
      }
    }
    sources[0].write(mid, frames, false);
    sources[1].write(side, frames, false);
    this.delayed(0, mid, frames);
    this.delayed(1, side, frames);
    this.delayed(2, mid, frames);
    this.delayed(3, side, frames);
    const [mm, ss, ms, sm] = paths as [Doubles, Doubles, Doubles, Doubles];
    this.direct.filter(mm, ss, frames);
    const goes = this.round.some((one) => one.value !== 0 || !one.settled);
    this.quiet = goes ? 0 : this.quiet + frames;
    if (this.quiet <= this.longest) this.goRound(ms, sm, frames);
    else this.across.filter(ms, sm, frames);
    level(mm, this.direct.courses[0].gain, frames);
    level(ss, this.direct.courses[1].gain, frames);
    level(ms, this.across.courses[0].gain, frames);
    level(sm, this.across.courses[1].gain, frames);
    const apart = this.output.value !== 0;
    for (let i = 0; i < frames; i++) {
      const toMid = mm[i]! - mid[i]! + sm[i]!;
      const toSide = ss[i]! - side[i]! + ms[i]!;
      if (plain) {
        left[from + i] = left[from + i]! + (apart ? toMid : toMid + toSide);
        right[from + i] = right[from + i]! + (apart ? toSide : toMid - toSide);
      } else {
        const u = this.output.next();
        const m = mid[i]! + toMid;
        const s = side[i]! + toSide;
        left[from + i] = m + (1 - u) * s;
        right[from + i] = (1 - u) * m - (1 - 2 * u) * s;
      }
    }
  }

  /** The delayed source of a path. */
  private delayed(path: number, source: Doubles, frames: number): void {
    const block = this.paths[path]!;
    const delay = this.delays[path]!;
    if (delay.passes) {
      for (let i = 0; i < frames; i++) block[i] = source[i]!;
      return;
    }
    this.one[0] = this.sources[path % 2]!;
    this.into[0] = block;
    delay.read(this.one, this.into, frames);
  }

  /** Filters the paths across, with what goes round between them. */
  private goRound(ms: Doubles, sm: Doubles, frames: number): void {
    const { rounds, round, roundDelays, fed, across } = this;
    // Output of side to mid goes into mid to side, and the reverse.
    for (const n of [0, 1] as const) {
      this.one[0] = rounds[1 - n]!;
      this.into[0] = fed[n];
      roundDelays[n].read(this.one, this.into, frames, 0);
    }
    for (let i = 0; i < frames; i++) {
      ms[i] = ms[i]! + fed[0][i]!;
      sm[i] = sm[i]! + fed[1][i]!;
    }
    across.filter(ms, sm, frames);
    for (let i = 0; i < frames; i++) {
      fed[0][i] = ms[i]! * round[0].next();
      fed[1][i] = sm[i]! * round[1].next();
    }
    rounds[0].write(fed[0], frames, true);
    rounds[1].write(fed[1], frames, true);
  }
}

/** Scales a block by a gain that may move. */
function level(block: Doubles, gain: Ramp, frames: number): void {
  if (gain.settled && gain.value === 1) return;
  if (gain.settled) {
    const { value } = gain;
    for (let i = 0; i < frames; i++) block[i] = block[i]! * value;
    return;
  }
  for (let i = 0; i < frames; i++) block[i] = block[i]! * gain.next();
}

/** Feedback gain of a cross path: its level, at most unity at the peak of its filters. */
function roundGain({ gain, gentle, q }: PathAim): number {
  const peak = gentle === 1 || q <= Math.SQRT1_2 ? 1 : q / Math.sqrt(1 - 1 / (4 * q * q));
  return Math.min(1, Math.max(-1, gain)) / (peak * peak);
}

export const createMidside: KernelFactory = (context) => new MidsideKernel(context);
