import { Ramp } from '../../dsp/ramp';
import {
  MAXIMUM_BLOCK,
  type Kernel,
  type KernelContext,
  type KernelFactory,
  type Inputs,
  type LineShare,
} from '../kernel';
import { RAMP_SECONDS } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import { EqualPowerMix } from '../mixer';
import { takeSides, type Sides } from '../../dsp/sides';
import type { Arena, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { TICK } from './delayTap';
import { Ducker } from '../ducker';
import { FeedbackDelayLine, L, type SharedBlock } from './feedbackDelayLine';
import { ARRANGEMENTS, FEED_IDS, feedsOf, LINES, type Feeds } from './routing';
import { Safety } from './safety';
import { delaySpec } from './spec';
import { Degradation, DEGRADATION_KINDS, type DegradationSettings } from './degradation';

/** Repeats count as gone 90 dB down. */
const GONE = 3.16e-5;
const MOST_PASSES = 20000;
const LINE_PARAMETERS = delaySpec.lists[0]!.parameters.length;
const P = parameterIndices(
  delaySpec,
  [
    'routing',
    'domain',
    'timeChange',
    'hold',
    'wear',
    'wow',
    'wowOn',
    'flutter',
    'flutterOn',
    'hiss',
    'hissOn',
    'hum',
    'humOn',
    'humFrequency',
    'bandwidth',
    'bandwidthOn',
    'saturation',
    'saturationOn',
    'duckAmount',
    'duckThreshold',
    'duckRelease',
    'safety',
    'safetyCeiling',
    'mix',
  ],
  FEED_IDS,
);
const PLACES = new Map(delaySpec.parameters.map(({ id }, index) => [id, index]));
const WHOLE = LINES * LINE_PARAMETERS;
const FIRST_FEED = PLACES.get(FEED_IDS[0]!)!;

/** Eight lines that feed one another, between the input and an equal-power mix. */
class DelayKernel implements Kernel {
  private readonly sampleRate: number;
  private readonly memory: Arena;
  private readonly v: number[];
  private readonly rampFrames: number;
  /** Lines are made when they are first switched on. */
  private readonly lines: (FeedbackDelayLine | null)[] = Array.from({ length: LINES }, () => null);
  /** Lines at work: switched on, or fading. */
  private active: number[] = [];
  /** Lines in a loop, and lines that sound only passes, in the order of feeding. */
  private readonly round: number[] = [];
  private readonly through: number[] = [];
  /** By line, a bit for each line that feeds it, over others too. */
  private readonly ways = new Uint8Array(LINES);
  /** True if the lines were held when that was reported. */
  private orderedHolding = false;
  /** Some of them are on their way out. */
  private leaving = false;
  private readonly fromInput = ramps();
  private readonly fromAll = ramps();
  private readonly fromLine = Array.from({ length: LINES }, ramps);
  private readonly wear: Degradation;
  private readonly ducker: Ducker;
  private readonly safety: Safety;
  private readonly holdRamp = new Ramp(0);
  private readonly sidesRamp = new Ramp(0);
  private readonly mix: EqualPowerMix;
  /** Frames since the last tick. */
  private offset = TICK;
  private due = true;
  private sounding = false;
  /** Outputs for the shares of the lines in use, when asked for. */
  private shares: readonly LineShare[] = [];
  private readonly taken: Sides;
  private readonly wet: Sides;
  private readonly wasmKernels = wasm().kernels;
  /** Output of all lines for feeding other lines; null while it is the same as their wet sound. */
  private plain: Sides | null = null;
  private readonly plainSum: Sides;
  private readonly share: Sides;
  private readonly around: { -readonly [K in keyof SharedBlock]: SharedBlock[K] };

  constructor({ sampleRate, values, memory }: KernelContext) {
    this.sampleRate = sampleRate;
    this.memory = memory;
    this.v = [...values];
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.wet = [block(), block()];
    this.plainSum = [block(), block()];
    this.share = [block(), block()];
    this.wear = new Degradation(memory, sampleRate, this.wearSettings());
    this.ducker = new Ducker(sampleRate);
    this.safety = new Safety(memory, sampleRate, this.rampFrames);
    this.mix = new EqualPowerMix(memory, values[P.mix]!);
    this.taken = [block(), block()];
    this.around = {
      inputLeft: this.taken[0],
      inputRight: this.taken[1],
      hold: new Float64Array(MAXIMUM_BLOCK),
      holding: false,
      sides: block(),
      sided: false,
      degradation: this.wear,
    };
    this.reset();
  }

  /** Safety alone looks ahead. */
  get latencyFrames(): number {
    return this.v[P.safety] === 1 ? this.safety.latencyFrames : 0;
  }

  /** Follows the loudest way of an impulse through the lines, pass by pass. */
  tailSeconds(): number {
    const { v } = this;
    if (v[P.hold] === 1) return Infinity;
    const feeds = this.feeds();
    const on = this.linesOn();
    const lines = on.flatMap((used, line) => (used ? [line] : []));
    const reach = Math.max(0, ...lines.map((line) => this.lines[line]!.reachSeconds));
    const gain = (target: number, source: number) => {
      const own = target === source ? Math.abs(this.lineValue(source, L.feedback)) / 100 : 0;
      return own + Math.abs(feeds.lines[target]![source]!) + 2 * Math.abs(feeds.all[target]!);
    };
    const heard = Math.max(1, ...lines.map((line) => this.lines[line]!.heardGain));
    let levels = lines.map((line) => Math.abs(feeds.input[line]!));
    let passes = 1;
    for (; passes < MOST_PASSES; passes++) {
      levels = lines.map((target) => lines.reduce((sum, source, n) => sum + gain(target, source) * levels[n]!, 0));
      const most = Math.max(0, ...levels);
      if (most * heard < GONE) return passes * reach;
      if (most > 1e6) return Infinity;
    }
    return Infinity;
  }

  setParameter(index: number, value: number, frames?: number): void {
    const { v } = this;
    v[index] = value;
    const over = frames ?? this.rampFrames;
    if (index < WHOLE) {
      const line = Math.floor(index / LINE_PARAMETERS);
      const one = index % LINE_PARAMETERS;
      if (one === L.on) this.switchLines(over);
      this.lines[line]?.setParameter(one, value, frames);
      this.balance(over);
      this.due = true;
    } else if (index === P.mix) {
      this.mix.moveTo(value, over);
      this.safety.setWet(value > 0, over);
    } else if (index === P.routing || (index >= FIRST_FEED && index < FIRST_FEED + FEED_IDS.length)) {
      this.connect(over);
      this.due = true;
    } else if (index === P.hold) {
      this.holdRamp.moveTo(value, over);
    } else if (index === P.domain) {
      this.sidesRamp.moveTo(value, over);
    } else if (index === P.safety) {
      this.safety.switch(value === 1);
    } else {
      this.configure(over);
      this.due = true;
    }
  }

  /** Hiss and hum go on in silence, and ducking lets go slowly. */
  get canSleep(): boolean {
    const { hiss, hum } = this.wearSettings();
    return hiss === 0 && hum === 0 && this.ducker.reductionDb === 0;
  }

  suspend(): void {
    this.sounding = false;
    for (const line of this.lines) line?.suspend();
  }

  locate(frame: number): void {
    for (const line of this.lines) line?.locate(frame);
    this.wear.locate(frame, this.sounding);
  }

  reset(): void {
    const { v } = this;
    this.configure(0);
    this.wear.reset();
    this.active = [];
    this.switchLines(0);
    for (const line of this.active) this.lines[line]!.reset(this.wear.shift);
    this.balance(0);
    this.holdRamp.moveTo(v[P.hold]!, 0);
    this.sidesRamp.moveTo(v[P.domain]!, 0);
    this.safety.reset(v[P.safety] === 1, v[P.mix]! > 0);
    this.ducker.reset();
    this.mix.moveTo(v[P.mix]!, 0);
    this.offset = TICK;
    this.due = true;
    this.sounding = false;
  }

  readMeters(out: Float64Array): void {
    out[0] = this.ducker.reductionDb + this.safety.reductionDb;
    const { active } = this;
    for (let n = 0; n < 2 * LINES; n++) {
      const line = active[n >> 1];
      out[1 + n] = line === undefined ? NaN : this.lines[line]!.delaySeconds((n & 1) as 0 | 1, this.offset);
    }
  }

  splitLines(into: readonly LineShare[]): number {
    this.shares = into;
    return this.active.length;
  }

  private lineValue(line: number, parameter: number): number {
    return this.v[line * LINE_PARAMETERS + parameter]!;
  }

  private linesOn(): boolean[] {
    return this.lines.map((_, line) => this.lineValue(line, L.on) === 1);
  }

  private feeds(): Feeds {
    return feedsOf(ARRANGEMENTS[this.v[P.routing]!]!, this.linesOn(), (id) => this.v[PLACES.get(id)!]!);
  }

  private connect(frames: number): void {
    const { input, all, lines } = this.feeds();
    for (let target = 0; target < LINES; target++) {
      this.fromInput[target]!.moveTo(input[target]!, frames);
      this.fromAll[target]!.moveTo(all[target]!, frames);
      for (let source = 0; source < LINES; source++) {
        this.fromLine[target]![source]!.moveTo(lines[target]![source]!, frames);
      }
    }
  }

  private switchLines(frames: number): void {
    const used = this.linesOn();
    this.leaving = this.active.some((line) => !used[line]);
    used.forEach((on, line) => {
      if (!on || this.active.includes(line)) return;
      if (this.lines[line]) this.lines[line].reset(this.wear.shift);
      else this.makeLine(line);
      this.lines[line]!.setDegraded(this.worn);
      this.lines[line]!.setAudible(false, 0);
      this.active = [...this.active, line].sort((a, b) => a - b);
    });
    this.connect(frames);
  }

  private makeLine(line: number): void {
    const values = this.v.slice(line * LINE_PARAMETERS, (line + 1) * LINE_PARAMETERS);
    this.lines[line] = new FeedbackDelayLine(this.memory, this.sampleRate, values, 101 + line);
  }

  /** A line that may be switched on while sound runs has its memory before. */
  prepareAutomation(index: number): void {
    const line = Math.floor(index / LINE_PARAMETERS);
    if (line < LINES && index % LINE_PARAMETERS === L.on && !this.lines[line]) this.makeLine(line);
  }

  private balance(frames: number): void {
    const on = this.linesOn();
    const soloed = on.some((used, line) => used && this.lineValue(line, L.solo) === 1);
    for (const line of this.active) {
      const open = this.lineValue(line, soloed ? L.solo : L.mute) === (soloed ? 1 : 0);
      this.lines[line]!.setAudible(on[line]! && open, frames);
    }
  }

  private wearSettings(): DegradationSettings {
    const { v } = this;
    const kind = DEGRADATION_KINDS[v[P.wear]!]!;
    const amount = (place: number, on: number) => (kind === 'off' || v[on] === 0 ? 0 : v[place]! / 100);
    return {
      kind,
      wow: amount(P.wow, P.wowOn),
      flutter: amount(P.flutter, P.flutterOn),
      hiss: amount(P.hiss, P.hissOn),
      hum: amount(P.hum, P.humOn),
      humHz: v[P.humFrequency] === 1 ? 60 : 50,
      bandwidth: amount(P.bandwidth, P.bandwidthOn),
      saturation: amount(P.saturation, P.saturationOn),
    };
  }

  private get worn(): boolean {
    return this.wearSettings().saturation > 0;
  }

  private configure(frames: number): void {
    const { v } = this;
    this.wear.set(this.wearSettings());
    for (const line of this.active) this.lines[line]!.setDegraded(this.worn);
    this.ducker.configure(v[P.duckAmount]!, v[P.duckThreshold]!, v[P.duckRelease]!);
    this.safety.setCeiling(v[P.safetyCeiling]!, frames);
  }

  process(left: Floats, right: Floats, frames: number, inputs?: Inputs): void {
    const key = inputs?.[0];
    const [wetLeft, wetRight] = this.wet;
    const ducked = this.ducker.listen(key ? key.left : left, key ? key.right : right, frames);
    this.encode(left, right, frames);
    wetLeft.fill(0, 0, frames);
    wetRight.fill(0, 0, frames);
    for (let start = 0; start < frames;) {
      const count = this.stretchFrom(start, frames);
      this.stretch(start, count);
      this.offset += count;
      start += count;
    }
    // Several lines, or middle and sides, add up: their sum is guarded as each of them is.
    this.wasmKernels.guardSides(wetLeft.byteOffset, wetRight.byteOffset, frames);
    if (ducked) {
      const { gains } = this.ducker;
      for (let i = 0; i < frames; i++) {
        wetLeft[i] = wetLeft[i]! * gains[i]!;
        wetRight[i] = wetRight[i]! * gains[i]!;
      }
    }
    for (const share of this.shares) {
      for (let i = 0; i < frames; i++) {
        const gain = ducked ? this.ducker.gains[i]! * this.mix.wetGain : this.mix.wetGain;
        share.left[i] = share.left[i]! * gain;
        share.right[i] = share.right[i]! * gain;
      }
    }
    this.mix.blend(left, right, this.wet, frames);
    this.safety.process(left, right, frames);
  }

  /** The input as the lines take it: left and right, or middle and sides; nothing while they are held. */
  private encode(left: Floats, right: Floats, frames: number): void {
    const { inputLeft, inputRight, hold, sides } = this.around;
    this.around.holding = !this.holdRamp.idle;
    this.holdRamp.fill(hold, frames);
    this.sidesRamp.fill(sides, frames);
    this.around.sided = !this.sidesRamp.idle;
    if (!this.around.sided && !this.around.holding) {
      takeSides(this.taken, left, right, frames);
      return;
    }
    for (let i = 0; i < frames; i++) {
      const l = left[i]!;
      const r = right[i]!;
      const middle = sides[i]!;
      const open = 1 - hold[i]!;
      inputLeft[i] = open * (l + middle * 0.5 * (r - l));
      inputRight[i] = open * (r + middle * (0.5 * (l - r) - r));
    }
  }

  /** Length of the next stretch; ticks when one is due. */
  private stretchFrom(start: number, frames: number): number {
    const { lines, around } = this;
    let still = this.still;
    if (this.due || (!still && this.offset >= TICK)) {
      this.tick();
      still = this.still;
    }
    let count = frames - start;
    if (!still) count = Math.min(count, TICK - this.offset);
    if (around.holding !== this.orderedHolding) this.order();
    for (const line of this.round) count = Math.min(count, lines[line]!.readable(this.offset, around.holding));
    return Math.max(1, count);
  }

  private get still(): boolean {
    if (this.leaving) return false;
    for (const line of this.active) if (!this.lines[line]!.still) return false;
    return true;
  }

  private tick(): void {
    const glide = this.v[P.timeChange] === 0;
    this.wear.tick(this.offset);
    if (this.leaving) {
      const on = this.linesOn();
      this.active = this.active.filter((line) => on[line] || !this.finished(line));
      this.leaving = this.active.some((line) => !on[line]);
    }
    for (const line of this.active) this.lines[line]!.tick(this.offset, glide, this.wear);
    this.order();
    this.offset = 0;
    this.due = false;
    this.sounding = true;
  }

  /** True if a line is silent. */
  private finished(line: number): boolean {
    return this.lines[line]!.silent && this.fromLine.every((sources) => sources[line]!.idle);
  }

  /**
   * Tells the lines whose sound comes back into them, by themselves or over others, from those that it only runs
   * through: these are written before they are read, in the order in which they feed one another, so that however short
   * they are they hold nothing up.
   */
  private order(): void {
    const { active, lines, round, through, ways } = this;
    round.length = 0;
    through.length = 0;
    const { holding, degradation } = this.around;
    this.orderedHolding = holding;
    const fromSound = degradation.noisy && degradation.rising;
    for (const line of active) {
      ways[line] = 0;
      for (const source of active) if (!this.fromLine[line]![source]!.idle) ways[line]! |= 1 << source;
    }
    // Transitive closure of feeding (Warshall, 1962).
    for (const over of active) for (const line of active) if (ways[line]! & (1 << over)) ways[line]! |= ways[over]!;
    for (const line of active) {
      const own = (ways[line]! & (1 << line)) !== 0;
      if (own || holding || fromSound || lines[line]!.hasFeedback || !this.fromAll[line]!.idle) round.push(line);
    }
    while (round.length + through.length < active.length) {
      for (const line of active)
        if (!round.includes(line) && !through.includes(line) && !this.waits(line)) through.push(line);
    }
  }

  /** True if a line is fed by one that is not placed yet. */
  private waits(line: number): boolean {
    for (const source of this.active) {
      if (this.fromLine[line]![source]!.idle) continue;
      if (!this.round.includes(source) && !this.through.includes(source)) return true;
    }
    return false;
  }

  private stretch(start: number, count: number): void {
    const { active, lines, around, offset, wet, wear, round, through } = this;
    const noisy = wear.noisy;
    // Hiss that rises with the sound has to wait for it; then every line does.
    if (noisy && !wear.rising) wear.makeNoise(wet[0], wet[1], start, count);
    let summed = false;
    for (const line of round) {
      lines[line]!.read(offset, count, around.holding, 0);
      if (!this.fromAll[line]!.idle) summed = true;
    }
    for (const line of through) {
      this.feed(line, start, count, null);
      lines[line]!.read(offset, count, around.holding, count);
    }
    let lifted = false;
    for (const line of active) if (lines[line]!.lifted) lifted = true;
    this.plain = lifted && summed ? this.plainSum : null;
    for (const block of this.plainSum) if (this.plain) block.fill(0, start, start + count);
    for (let n = 0; n < active.length; n++) {
      const share = this.shares[n];
      if (share) this.sendShare(lines[active[n]!]!, share, start, count);
      else lines[active[n]!]!.send(wet, start, count, around, this.plain);
    }
    if (noisy && wear.rising) wear.makeNoise(wet[0], wet[1], start, count);
    for (const line of round) this.feed(line, start, count, this.plain ?? wet);
  }

  /**
   * Writes a line: what it takes from the input, from others and from itself.
   * @param all the sum of all lines, where it is known
   */
  private feed(target: number, start: number, count: number, all: Sides | null): void {
    const { active, lines, around } = this;
    const line = lines[target]!;
    line.begin(start, count, around, this.fromInput[target]!);
    if (all && !this.fromAll[target]!.idle) line.take(all, start, count, this.fromAll[target]!);
    for (const source of active) {
      const gain = this.fromLine[target]![source]!;
      if (!gain.idle) line.take(lines[source]!.output, 0, count, gain);
    }
    line.finish(start, count, around);
  }

  /** Writes a line's share of the wet sound and adds it to the sum. */
  private sendShare(line: FeedbackDelayLine, { left, right }: LineShare, start: number, count: number): void {
    const { share, wet } = this;
    for (const block of share) block.fill(0, start, start + count);
    line.send(share, start, count, this.around, this.plain);
    for (let i = start; i < start + count; i++) {
      left[i] = share[0][i]!;
      right[i] = share[1][i]!;
      wet[0][i] = wet[0][i]! + left[i]!;
      wet[1][i] = wet[1][i]! + right[i]!;
    }
  }
}

function ramps(): Ramp[] {
  return Array.from({ length: LINES }, () => new Ramp(0));
}

export const createDelay: KernelFactory = (context) => new DelayKernel(context);
