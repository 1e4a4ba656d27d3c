import { CutShare } from '../../dsp/cutShare';
import { FilterPair } from '../../dsp/filterPair';
import { LowFrequencyOscillator } from '../../dsp/lowFrequencyOscillator';
import { Ramp } from '../../dsp/ramp';
import { putSides, takeSides, type Sides } from '../../dsp/sides';
import { Ring, SINC_NEAREST } from '../../dsp/ring';
import { EIGHTH_TURN } from '../../math/circle';
import { cos, dbToGain, pow, sin } from '../../math/elementary';
import type { Doubles, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { MAXIMUM_BLOCK, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { doublerSpec, LONGEST_MS, LOW_MONO_OFF, MOST_COPIES } from './spec';

const P = parameterIndices(doublerSpec, [
  'mode',
  'voices',
  'side',
  'time',
  'drift',
  'detune',
  'width',
  'lowMono',
  'midScoop',
  'mix',
]);

/** Frames between two looks at what moves. */
const TICK = 64;
const GLIDE_SECONDS = 0.06;
/** By how much several copies are nearer and farther than the time that is set, as a part of it. */
const STAGGER = 0.3;
/** Largest wander of a copy: as a part of its delay, and in level. */
const WANDER = 0.5;
const WANDER_DB = 2;
/** A course between random values changes by no more than this in a cycle, and the fastest that it goes, in Hz. */
const STEEPEST = 3;
const FASTEST_HZ = 8;
/** Its level wanders at a pace of its own. */
const LEVEL_PACE = 0.7;
const SCOOP_HZ = 2500;
const SCOOP_Q = 0.8;

/** One copy. */
interface Copy {
  readonly left: Ramp;
  readonly right: Ramp;
  /** Its time beside the time that is set. */
  readonly stagger: Ramp;
  readonly wander: LowFrequencyOscillator;
  readonly level: LowFrequencyOscillator;
  /** Frames it is late by, and what that changes by in a frame. */
  delay: number;
  step: number;
  /** Target of its wandering level. */
  gain: number;
  gainStep: number;
  heard: boolean;
}

/**
 * A late copy on the other side (Haas, "The influence of a single echo on the audibility of speech", 1949), or copies
 * around the sound whose time and level wander along random courses of their own, each seeded. The pitch of a copy
 * follows from how fast its time changes: the course is as fast as brings it to the detuning that is asked for and never
 * further. The lows that are to stay are split off by a pair of second-order filters that sum to an all-pass (Linkwitz
 * and Riley, 1976), so that nothing is cancelled where they meet.
 */
class DoublerKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  readonly canSleep = true;
  private readonly wasmKernels = wasm().kernels;
  private readonly ring: Ring;
  private readonly copies: readonly Copy[];
  private readonly longest: number;
  private readonly glideFrames: number;
  private readonly time = new Ramp(0);
  /** Part of its time by which a copy wanders, and decibels. */
  private readonly wander = new Ramp(0);
  private readonly wanderDb = new Ramp(0);
  /** Gains that keep each side, and the middle. */
  private readonly kept = new Ramp(1);
  private readonly dryLeft = new Ramp(0);
  private readonly dryRight = new Ramp(0);
  /** Level of the lows, which the copies leave out. */
  private readonly dryLows = new Ramp(0);
  /** 0 leaves everything as it comes. */
  private readonly engaged = new Ramp(0);
  private readonly lows = new CutShare();
  private readonly low: FilterPair;
  private readonly high: FilterPair;
  private readonly scoop: FilterPair;
  private readonly scoopDb = new Ramp(0);
  private readonly lowBlocks: Sides;
  private readonly blocks: Sides;
  private readonly middle: Doubles;
  private readonly nothing: Doubles;
  private readonly copied: Doubles;
  private splits = false;
  private scoops = false;
  private offset = TICK;

  constructor(context: KernelContext) {
    super(context);
    const { memory, sampleRate } = context;
    this.glideFrames = Math.round(GLIDE_SECONDS * sampleRate);
    this.longest = Math.ceil(((1 + STAGGER) * (1 + WANDER) * LONGEST_MS * sampleRate) / 1000);
    this.ring = new Ring(memory, this.longest + SINC_NEAREST + 2 * MAXIMUM_BLOCK);
    this.copies = Array.from({ length: MOST_COPIES }, (_, n): Copy => ({
      left: new Ramp(0),
      right: new Ramp(0),
      stagger: new Ramp(1),
      wander: new LowFrequencyOscillator(sampleRate, 1301 + 17 * n),
      level: new LowFrequencyOscillator(sampleRate, 2203 + 19 * n),
      delay: 0,
      step: 0,
      gain: 1,
      gainStep: 0,
      heard: false,
    }));
    this.low = new FilterPair(memory, sampleRate, true);
    this.high = new FilterPair(memory, sampleRate, true);
    this.scoop = new FilterPair(memory, sampleRate, true);
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.lowBlocks = [block(), block()];
    this.blocks = [block(), block()];
    this.middle = block();
    this.nothing = block();
    this.copied = block();
    this.reset();
  }

  tailSeconds(): number {
    return (1 + STAGGER) * (1 + WANDER) * (this.v[P.time]! / 1000) + (this.v[P.lowMono]! > LOW_MONO_OFF ? 0.25 : 0.02);
  }

  override setParameter(index: number, value: number, frames?: number): void {
    this.v[index] = value;
    this.aim(frames ?? this.rampFrames, frames ?? this.glideFrames);
  }

  locate(frame: number): void {
    for (const { wander, level } of this.copies) {
      wander.locate(frame, 0, this.isSounding);
      level.locate(frame, 0, this.isSounding);
    }
    if (!this.isSounding) this.settle();
  }

  reset(): void {
    this.ring.clear();
    this.aim(0);
    for (const filter of [this.low, this.high, this.scoop]) filter.reset();
    this.isSounding = false;
    this.settle();
  }

  readMeters(out: Float64Array): void {
    for (let n = 0; n < MOST_COPIES; n++) {
      const { delay, step, left, right } = this.copies[n]!;
      const late = (delay + step * this.offset) / this.sampleRate;
      // Each is told once, at the side where more of it is heard.
      const heard = left.value > 0 || right.value > 0;
      out[2 * n] = heard && left.value >= right.value ? late : NaN;
      out[2 * n + 1] = heard && left.value < right.value ? late : NaN;
    }
  }

  protected aim(frames: number, glide = frames): void {
    const { v, copies } = this;
    const split = v[P.mode] === 0;
    const count = split ? 1 : v[P.voices]! + 1;
    const toRight = v[P.side] === 1;
    const width = v[P.width]! / 100;
    const mix = v[P.mix]! / 100;
    const dry = Math.min(1, 2 * (1 - mix));
    const wet = Math.min(1, 2 * mix);
    this.time.moveTo((v[P.time]! / 1000) * this.sampleRate, glide);
    const moves = v[P.detune]! > 0 ? v[P.drift]! / 100 : 0;
    this.wander.moveTo(moves * WANDER, glide);
    this.wanderDb.moveTo(moves * WANDER_DB, frames);
    this.engaged.moveTo(wet, frames);
    // A split moves the sound itself to the other side: its middle goes there, and its sides become softer.
    const apart = split ? width : 0;
    this.kept.moveTo(dry * (1 - apart), frames);
    this.dryLeft.moveTo(toRight ? dry * apart : 0, frames);
    this.dryRight.moveTo(toRight ? 0 : dry * apart, frames);
    this.dryLows.moveTo(dry, frames);
    this.lows.aim(v[P.lowMono]! > LOW_MONO_OFF ? v[P.lowMono]! : null, frames);
    this.scoopDb.moveTo(-v[P.midScoop]!, frames);
    const slope = pow(2, v[P.detune]! / 1200) - 1;
    for (let n = 0; n < MOST_COPIES; n++) {
      const { left, right, stagger, wander, level } = copies[n]!;
      const place = placeOf(n, count) * (toRight ? 1 : -1);
      const power = n < count ? wet / Math.sqrt(split ? 1 : count) : 0;
      // A split keeps its full level at each side; copies around keep their power wherever they stand.
      const at = (side: -1 | 1) =>
        split
          ? Math.min(1, 1 + side * place * width)
          : Math.SQRT2 * (side < 0 ? cos : sin)(EIGHTH_TURN * (1 + place * width));
      left.moveTo(power * at(-1), frames);
      right.moveTo(power * at(1), frames);
      if (n >= count) continue;
      const beside = count === 1 ? 1 : 1 + STAGGER * ((2 * n) / (count - 1) - 1);
      stagger.moveTo(beside, glide);
      const reach = moves * WANDER * beside * (v[P.time]! / 1000);
      const hz = reach > 0 ? Math.min(FASTEST_HZ, slope / (STEEPEST * reach)) : FASTEST_HZ;
      wander.configure('smoothRandom', hz);
      level.configure('smoothRandom', LEVEL_PACE * hz);
    }
  }

  /** Frames that a copy is late by, so many frames from now. */
  private delayOf(copy: Copy, ahead: number): number {
    const { wander, stagger } = copy;
    const swung = 1 + this.wander.value * wander.read(ahead * wander.cyclesAFrame);
    return Math.min(this.longest, Math.max(SINC_NEAREST + 1, this.time.value * stagger.value * swung));
  }

  private levelOf({ level }: Copy, ahead: number): number {
    const db = this.wanderDb.value;
    return db === 0 ? 1 : dbToGain(db * level.read(ahead * level.cyclesAFrame));
  }

  /** Goes to where everything is at once. */
  private settle(): void {
    this.offset = TICK;
    for (const copy of this.copies) {
      copy.delay = this.delayOf(copy, 0);
      copy.gain = this.levelOf(copy, 0);
      copy.step = copy.gainStep = 0;
    }
  }

  private tick(): void {
    const elapsed = this.isSounding ? TICK : 0;
    for (const ramp of [this.time, this.wander, this.wanderDb]) ramp.skip(elapsed);
    for (const copy of this.copies) {
      copy.wander.advance(elapsed);
      copy.level.advance(elapsed);
      copy.stagger.skip(elapsed);
      const silent = copy.left.idle && copy.right.idle;
      const late = this.delayOf(copy, TICK);
      const gain = this.levelOf(copy, TICK);
      copy.delay = silent ? late : copy.delay + copy.step * elapsed;
      copy.gain = silent ? gain : copy.gain + copy.gainStep * elapsed;
      copy.step = (late - copy.delay) / TICK;
      copy.gainStep = (gain - copy.gain) / TICK;
      copy.heard = !silent;
    }
    this.tuneFilters(elapsed);
    this.offset = 0;
    this.isSounding = true;
  }

  private tuneFilters(elapsed: number): void {
    const { lows, low, high, scoop, scoopDb } = this;
    if (lows.heard && !this.splits) {
      low.reset();
      high.reset();
      this.tuneSplit(0);
    }
    const scoops = scoopDb.value < 0 || !scoopDb.settled;
    if (scoops && !this.scoops) {
      scoop.reset();
      this.tuneScoop(0);
    }
    this.splits = lows.heard;
    this.scoops = scoops;
    const [splitMoves, scoopMoves] = [!lows.settled, !scoopDb.settled];
    lows.skip(elapsed);
    scoopDb.skip(elapsed);
    if (this.splits) this.tuneSplit(splitMoves ? elapsed : 0);
    if (scoops) this.tuneScoop(scoopMoves ? elapsed : 0);
  }

  /** Both sum to an all-pass, the highs turned over. */
  private tuneSplit(frames: number): void {
    const { hz, share } = this.lows;
    for (const side of [0, 1] as const) {
      this.low.shape(side, hz, 2, 0, 0, share, frames);
      this.high.shape(side, hz, 2, 1 - 2 * share, 2 * share, share, frames);
    }
  }

  private tuneScoop(frames: number): void {
    const gain = dbToGain(this.scoopDb.value);
    const k = 1 / (SCOOP_Q * Math.sqrt(gain));
    this.scoop.shape(0, SCOOP_HZ, k, 1, k * (gain - 1), 0, frames);
    this.scoop.shape(1, SCOOP_HZ, k, 1, k * (gain - 1), 0, frames);
  }

  process(left: Floats, right: Floats, frames: number): void {
    for (let start = 0; start < frames;) {
      if (this.offset === TICK) this.tick();
      for (const copy of this.copies) copy.heard ||= !copy.left.idle || !copy.right.idle;
      const count = Math.min(frames - start, TICK - this.offset);
      this.piece(left, right, start, count);
      this.offset += count;
      start += count;
    }
  }

  private piece(left: Floats, right: Floats, start: number, frames: number): void {
    const { blocks, lowBlocks, middle, ring, kept, dryLeft, dryRight, splits } = this;
    const [l, r] = blocks;
    takeSides(blocks, left, right, frames, 1, start);
    if (splits) {
      takeSides(lowBlocks, left, right, frames, 1, start);
      this.low.process(lowBlocks[0], lowBlocks[1], frames);
      this.high.process(l, r, frames);
    }
    for (let i = 0; i < frames; i++) middle[i] = (l[i]! + r[i]!) / 2;
    ring.write(middle, frames, false);
    for (let i = 0; i < frames; i++) {
      const keep = kept.next();
      const toLeft = dryLeft.next();
      const toRight = dryRight.next();
      l[i] = keep * l[i]! + toLeft * middle[i]!;
      r[i] = keep * r[i]! + toRight * middle[i]!;
    }
    for (const copy of this.copies) if (copy.heard) this.addCopy(copy, frames);
    if (this.scoops) this.scoopMiddle(frames);
    this.putTogether(left, right, start, frames);
  }

  /** The copies and the lows beside them, as far as it is engaged. */
  private putTogether(left: Floats, right: Floats, start: number, frames: number): void {
    const { blocks, lowBlocks, dryLows, engaged, splits } = this;
    const [l, r] = blocks;
    if (splits) {
      for (let i = 0; i < frames; i++) {
        const below = dryLows.next();
        l[i] = l[i]! + below * lowBlocks[0][i]!;
        r[i] = r[i]! + below * lowBlocks[1][i]!;
      }
    } else {
      dryLows.pass(frames);
    }
    if (engaged.settled && engaged.value === 1) {
      putSides(left, right, blocks, frames, 1, start);
      return;
    }
    for (let i = 0; i < frames; i++) {
      const share = engaged.next();
      if (share === 0) continue;
      const dryL = left[start + i]!;
      const dryR = right[start + i]!;
      left[start + i] = dryL + share * (l[i]! - dryL);
      right[start + i] = dryR + share * (r[i]! - dryR);
    }
  }

  private addCopy(copy: Copy, frames: number): void {
    const { ring, copied, offset, wasmKernels } = this;
    const [l, r] = this.blocks;
    ring.read(copied, copy.delay, copy.step, offset, SINC_NEAREST, frames, frames);
    if (copy.left.settled && copy.right.settled) {
      const [place, toLeft, toRight] = [copied.byteOffset, copy.left.value, copy.right.value];
      wasmKernels.scaleMoving(place, place, copy.gain, copy.gainStep, offset, frames);
      wasmKernels.addScaled(l.byteOffset, place, toLeft, 0, frames);
      wasmKernels.addScaled(r.byteOffset, place, toRight, 0, frames);
      return;
    }
    for (let i = 0; i < frames; i++) {
      const x = copied[i]! * (copy.gain + (offset + i) * copy.gainStep);
      l[i] = l[i]! + x * copy.left.next();
      r[i] = r[i]! + x * copy.right.next();
    }
  }

  /** Takes presence out of the middle alone. */
  private scoopMiddle(frames: number): void {
    const { middle, nothing, scoop } = this;
    const [l, r] = this.blocks;
    for (let i = 0; i < frames; i++) middle[i] = (l[i]! + r[i]!) / 2;
    for (let i = 0; i < frames; i++) {
      l[i] = l[i]! - middle[i]!;
      r[i] = r[i]! - middle[i]!;
    }
    scoop.process(middle, nothing, frames);
    for (let i = 0; i < frames; i++) {
      l[i] = l[i]! + middle[i]!;
      r[i] = r[i]! + middle[i]!;
    }
  }
}

/** Pan of a copy, -1 to 1: the first at the chosen side, the others alternating. */
function placeOf(n: number, count: number): number {
  if (count === 1) return 1;
  const far = 1 - (2 * Math.floor(n / 2)) / count;
  return count % 2 === 1 && n === count - 1 ? 0 : n % 2 === 0 ? far : -far;
}

export const createDoubler: KernelFactory = (context) => new DoublerKernel(context);
