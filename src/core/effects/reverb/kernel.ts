import { CrossfadedDelay } from '../../dsp/crossfadedDelay';
import { DECAY_BANDS } from '../../dsp/decayFilters';
import { FeedbackNetwork, NETWORK_TICK } from '../../dsp/feedbackNetwork';
import { OFFSET_TAIL_SECONDS, OffsetFilter } from '../../dsp/offsetFilter';
import { Ramp } from '../../dsp/ramp';
import { takeSides, type Sides } from '../../dsp/sides';
import { HALF_PI } from '../../math/circle';
import { cos, dbToGain, exp, log, pow, sin } from '../../math/elementary';
import { SeededRandom } from '../../math/random';
import type { Doubles, Floats } from '../../wasm/arena';
import { wasm } from '../../wasm/module';
import { Ducker } from '../ducker';
import { MAXIMUM_BLOCK, type Inputs, type Kernel, type KernelContext, type KernelFactory } from '../kernel';
import { EqualPowerMix } from '../mixer';
import { ParameterKernel } from '../parameterKernel';
import { parameterIndices } from '../parameterIndices';
import type { ResolvedSetting } from '../settings';
import { ToneStage } from '../toneStage';
import { Diffuser } from './diffuser';
import { EarlyReflections } from './early';
import { TailEnvelope } from './envelope';
import { InputDeesser } from './inputDeesser';
import { lineFrames, linePattern, longestLineSeconds, middleLineSeconds } from './pattern';
import { ROOMS } from './rooms';
import { QUALITIES, reverbSpec } from './spec';

const P = parameterIndices(reverbSpec, [
  'preDelay',
  'inputGain',
  'lowCut',
  'highCut',
  'deEss',
  'deEssFrequency',
  'size',
  'shape',
  'decay',
  'earlyLate',
  'listen',
  'sourceAcross',
  'sourceAlong',
  'listenerAcross',
  'listenerAlong',
  'diffusion',
  'spacing',
  'modDepth',
  'modRate',
  'pitchAmount',
  'pitchInterval',
  'hold',
  'timeChange',
  'quality',
  'envelopeAmount',
  'envelopeThreshold',
  'envelopeAttack',
  'envelopeHold',
  'envelopeRelease',
  'wetLow',
  'wetLowFrequency',
  'wetMid',
  'wetMidFrequency',
  'wetHigh',
  'wetHighFrequency',
  'width',
  'mix',
  'duckAmount',
  'duckThreshold',
  'duckRelease',
]);

/** Factor of power for 60 dB. */
const LN_60_DB = 13.815510557964274;
/** A tail that has gone before it comes is not made up for without end. */
const LEAST_KEPT = 0.05;
const LONGEST_PRE_DELAY = 0.5;
const LARGEST_METRES = 120;
/** A size that is set by hand is reached in this time where it glides. */
const GLIDE_SECONDS = 0.4;
const MOST_DIFFUSION = 0.82;
/** At full movement pairs of lines are turned so far, and lines made longer by so much. */
const MOST_TURN = 0.9;
const MOST_SWAY_SECONDS = 0.0012;
/** A tail that is no longer fed is let go once nothing has come from it for this long. */
const QUIET_SECONDS = 1;
const QUIET = 1e-7;
/** Decay of what is left of a tail that is to last, in seconds. */
const LONGEST_DECAY = 240;

/** One of the tails: that of the quality there is, or one that still rings. */
class Tail {
  readonly network: FeedbackNetwork;
  readonly feed = new Ramp(0);
  readonly parts: Float64Array;
  seed = NaN;
  spacing = NaN;
  /** Frames for which it has been silent; those that are long silent are not worked out. */
  quiet = Infinity;

  constructor(
    context: KernelContext,
    lines: number,
    readonly sways: boolean,
  ) {
    const longest = longestLineSeconds(LARGEST_METRES) + 2 * MOST_SWAY_SECONDS;
    const { memory, sampleRate } = context;
    this.network = new FeedbackNetwork(memory, sampleRate, lines, longest * sampleRate, new SeededRandom(31 + lines));
    this.parts = new Float64Array(lines);
  }
}

/**
 * A room in three parts: early reflections of a box by image sources, a diffused feedback delay network as its tail, and
 * what is done before and after. Size, spacing and seed of the tail crossfade line by line, or glide with the size; the
 * quality crossfades to another network while the old one rings on. A sound goes into the tail the softer the longer
 * that rings, so that a steady sound is as loud in every room (Jot and Chaigne, 1991).
 */
class ReverbKernel extends ParameterKernel implements Kernel {
  readonly latencyFrames = 0;
  private readonly wasmKernels = wasm().kernels;
  private readonly tails: readonly Tail[];
  private readonly early: EarlyReflections;
  private readonly diffuser: Diffuser;
  private readonly preDelay: CrossfadedDelay;
  private readonly deesser: InputDeesser;
  private readonly offsets: readonly [OffsetFilter, OffsetFilter];
  private readonly cuts: ToneStage;
  private readonly tone: ToneStage;
  private readonly envelope: TailEnvelope;
  private readonly ducker: Ducker;
  private readonly mix: EqualPowerMix;
  private readonly taken: Sides;
  private readonly earlyLeft: Doubles;
  private readonly earlyRight: Doubles;
  private readonly fedLeft: Doubles;
  private readonly fedRight: Doubles;
  private readonly shareLeft: Doubles;
  private readonly shareRight: Doubles;
  private readonly tailLeft: Doubles;
  private readonly tailRight: Doubles;
  private readonly lateLeft: Doubles;
  private readonly lateRight: Doubles;
  private readonly wet: Sides;
  /** Values that move every tick. */
  private readonly logSize = new Ramp(0);
  private readonly logDecay = new Ramp(0);
  private readonly logFactors = Array.from({ length: DECAY_BANDS }, () => new Ramp(0));
  private readonly holding = new Ramp(0);
  private readonly spacing = new Ramp(0);
  private readonly diffusion = new Ramp(0);
  /** All that tails are told of. */
  private readonly tailRamps: readonly Ramp[];
  private aimed = true;
  private readonly movement = new Ramp(0);
  private readonly logRate = new Ramp(0);
  private readonly deEssFrequency = new Ramp(0);
  private readonly places = [new Ramp(0), new Ramp(0), new Ramp(0), new Ramp(0)] as const;
  /** Values that move every frame. */
  private readonly input = new Ramp(1);
  private readonly open = new Ramp(1);
  private readonly earlyGain = new Ramp(0);
  private readonly lateGain = new Ramp(0);
  private readonly width = new Ramp(1);
  /** Decay of each octave as a part of the whole. */
  private octaves: readonly number[];
  private seed: number;
  private offset = NETWORK_TICK;
  /** Level into the tail: at the last tick, its step by frame, and its target. */
  private level = 1;
  private levelStep = 0;
  private levelGoal = 1;

  constructor(context: KernelContext) {
    super(context);
    const { memory, sampleRate, values, settings } = context;
    this.octaves = (settings.decayOctaves as ResolvedSetting & { kind: 'octaves' }).factors;
    this.seed = (settings.seed as ResolvedSetting & { kind: 'seed' }).value;
    this.tails = QUALITIES.map(({ lines, sways }) => new Tail(context, lines, sways));
    const { logSize, logDecay, logFactors, holding, spacing, movement, logRate } = this;
    this.tailRamps = [logSize, logDecay, ...logFactors, holding, spacing, movement, logRate];
    const place = () => ({ across: 0, along: 0 });
    this.early = new EarlyReflections(memory, sampleRate, {
      room: ROOMS[values[P.shape]!]!,
      size: values[P.size]!,
      source: place(),
      listener: place(),
      order: QUALITIES[values[P.quality]!]!.order,
    });
    this.diffuser = new Diffuser(memory, sampleRate);
    this.preDelay = new CrossfadedDelay(memory, sampleRate, Math.ceil(LONGEST_PRE_DELAY * sampleRate));
    this.deesser = new InputDeesser(memory, sampleRate);
    this.offsets = [new OffsetFilter(sampleRate), new OffsetFilter(sampleRate)];
    this.cuts = new ToneStage(memory, sampleRate, ['lowCut', 'highCut']);
    this.tone = new ToneStage(memory, sampleRate, ['lowShelf', 'bell', 'highShelf']);
    this.envelope = new TailEnvelope(sampleRate);
    this.ducker = new Ducker(sampleRate);
    this.mix = new EqualPowerMix(memory, values[P.mix]!);
    const block = () => memory.doubles(MAXIMUM_BLOCK);
    this.taken = [block(), block()];
    this.earlyLeft = block();
    this.earlyRight = block();
    this.fedLeft = block();
    this.fedRight = block();
    this.shareLeft = block();
    this.shareRight = block();
    this.tailLeft = block();
    this.tailRight = block();
    this.lateLeft = block();
    this.lateRight = block();
    this.wet = [block(), block()];
    this.reset();
  }

  readMeters(out: Float64Array): void {
    out[0] = this.ducker.reductionDb;
  }

  tailSeconds(): number {
    const { v } = this;
    if (v[P.hold]! > 0) return Infinity;
    let longest = 0;
    for (const factor of this.octaves) longest = Math.max(longest, factor);
    const ring = v[P.decay]! * longest * 1.5;
    return v[P.preDelay]! / 1000 + 1.2 * longestLineSeconds(v[P.size]!) + ring + OFFSET_TAIL_SECONDS + 0.3;
  }

  get canSleep(): boolean {
    return this.v[P.hold] === 0 && this.ducker.reductionDb === 0;
  }

  locate(frame: number): void {
    for (const { network } of this.tails) network.locate(frame, this.isSounding);
  }

  setSetting(id: string, setting: ResolvedSetting): void {
    this.aimed = true;
    if (id === 'seed' && setting.kind === 'seed') this.seed = setting.value;
    if (id === 'decayOctaves' && setting.kind === 'octaves') {
      this.octaves = setting.factors;
      this.aim(this.rampFrames);
    }
  }

  reset(): void {
    this.aim(0);
    this.offset = NETWORK_TICK;
    for (const tail of this.tails) {
      tail.quiet = Infinity;
      if (tail.feed.value > 0) this.sendTail(tail, true);
    }
    this.takePlaces();
    this.early.reset();
    this.diffuser.aim(this.seed);
    this.diffuser.reset(this.diffusion.value, exp(this.logDecay.value));
    this.preDelay.reset();
    this.deesser.tune(exp(this.deEssFrequency.value));
    this.deesser.reset();
    for (const filter of this.offsets) filter.reset();
    this.cuts.reset();
    this.tone.reset();
    this.envelope.reset();
    this.ducker.reset();
    this.levelGoal = this.levelNow();
    this.isSounding = false;
  }

  protected aim(frames: number): void {
    const { v } = this;
    this.aimed = true;
    const held = v[P.hold]! > 0 ? 1 : 0;
    const glides = v[P.timeChange] === 0;
    const byHand = glides && frames === this.rampFrames && this.isSounding;
    this.logSize.moveTo(log(v[P.size]!), byHand ? Math.round(GLIDE_SECONDS * this.sampleRate) : frames);
    this.logDecay.moveTo(log(v[P.decay]!), frames);
    for (let band = 0; band < DECAY_BANDS; band++) {
      this.logFactors[band]!.moveTo(log(this.octaves[band]!), frames);
    }
    this.holding.moveTo(held, frames);
    this.spacing.moveTo(v[P.spacing]! / 100, frames);
    this.diffusion.moveTo((MOST_DIFFUSION * v[P.diffusion]!) / 100, frames);
    this.movement.moveTo(v[P.modDepth]! / 100, frames);
    this.logRate.moveTo(log(v[P.modRate]!), frames);
    this.deEssFrequency.moveTo(log(v[P.deEssFrequency]!), frames);
    this.places[0].moveTo(v[P.sourceAcross]! / 100, frames);
    this.places[1].moveTo(v[P.sourceAlong]! / 100, frames);
    this.places[2].moveTo(v[P.listenerAcross]! / 100, frames);
    this.places[3].moveTo(v[P.listenerAlong]! / 100, frames);
    this.input.moveTo(dbToGain(v[P.inputGain]!), frames);
    this.open.moveTo(v[P.hold] === 1 ? 0 : 1, frames);
    const share = (v[P.earlyLate]! / 100) * HALF_PI;
    this.earlyGain.moveTo(v[P.listen] === 2 || share >= HALF_PI ? 0 : cos(share), frames);
    this.lateGain.moveTo(v[P.listen] === 1 ? 0 : sin(share), frames);
    this.width.moveTo(v[P.width]! / 100, frames);
    this.preDelay.aim((v[P.preDelay]! * this.sampleRate) / 1000);
    this.deesser.aim(v[P.deEss]!, frames);
    this.cuts.aim(0, v[P.lowCut]! > 20 ? 1 : 0, v[P.lowCut]!, frames);
    this.cuts.aim(1, v[P.highCut]! < 20000 ? 1 : 0, v[P.highCut]!, frames);
    this.tone.aim(0, v[P.wetLow]!, v[P.wetLowFrequency]!, frames);
    this.tone.aim(1, v[P.wetMid]!, v[P.wetMidFrequency]!, frames);
    this.tone.aim(2, v[P.wetHigh]!, v[P.wetHighFrequency]!, frames);
    this.envelope.configure(
      v[P.envelopeAmount]! / 100,
      v[P.envelopeThreshold]!,
      v[P.envelopeAttack]!,
      v[P.envelopeHold]!,
      v[P.envelopeRelease]!,
      frames,
    );
    this.ducker.configure(v[P.duckAmount]!, v[P.duckThreshold]!, v[P.duckRelease]!);
    this.mix.moveTo(v[P.mix]!, frames);
    const ratio = pow(2, v[P.pitchInterval]! / 12);
    this.tails.forEach(({ network, feed }, quality) => {
      network.shift(v[P.pitchAmount]! / 100, ratio, frames);
      feed.moveTo(quality === v[P.quality] ? 1 : 0, frames);
    });
  }

  /** Input gain of the tail, so that a steady sound keeps its level. */
  private levelNow(): number {
    const passes = middleLineSeconds(exp(this.logSize.value)) / exp(this.logDecay.value);
    const kept = exp(-LN_60_DB * passes);
    return Math.sqrt((0.5 * (1 - kept)) / Math.max(kept, LEAST_KEPT));
  }

  private takePlaces(): void {
    const { setting } = this.early;
    const { v, places } = this;
    setting.room = ROOMS[v[P.shape]!]!;
    setting.size = exp(this.logSize.value);
    setting.source.across = places[0].value;
    setting.source.along = places[1].value;
    setting.listener.across = places[2].value;
    setting.listener.along = places[3].value;
    setting.order = QUALITIES[v[P.quality]!]!.order;
  }

  private tick(): void {
    this.offset = 0;
    const { early } = this;
    let moving = this.aimed;
    this.aimed = false;
    for (const ramp of this.tailRamps) {
      moving ||= !ramp.settled;
      ramp.skip(NETWORK_TICK);
    }
    for (const tail of this.tails) {
      if (moving && (tail.quiet < Infinity || tail.feed.value > 0)) this.sendTail(tail, false);
    }
    this.tickPlaces();
    early.tick();
    this.diffuser.aim(this.seed);
    this.diffuser.tick(this.diffusion.skip(NETWORK_TICK), exp(this.logDecay.value));
    if (!this.deEssFrequency.settled || !this.isSounding)
      this.deesser.tune(exp(this.deEssFrequency.skip(NETWORK_TICK)));
    this.cuts.tick(NETWORK_TICK);
    this.tone.tick(NETWORK_TICK);
    this.level = this.levelGoal;
    this.levelGoal = this.levelNow();
    this.levelStep = (this.levelGoal - this.level) / NETWORK_TICK;
    this.isSounding = true;
  }

  /** Tells the early reflections where everything stands, if anything has moved. */
  private tickPlaces(): void {
    const { setting } = this.early;
    const { across, along } = setting.source;
    const { room, size, listener, order } = setting;
    const { across: listenerAcross, along: listenerAlong } = listener;
    for (const place of this.places) place.skip(NETWORK_TICK);
    this.takePlaces();
    const same =
      room === setting.room &&
      size === setting.size &&
      order === setting.order &&
      across === setting.source.across &&
      along === setting.source.along &&
      listenerAcross === setting.listener.across &&
      listenerAlong === setting.listener.along;
    if (!same) this.early.retune();
  }

  /** Tells a tail its lengths, losses and movement. */
  private sendTail(tail: Tail, atOnce: boolean): void {
    const { network, parts } = tail;
    const { sampleRate, v } = this;
    const spacing = this.spacing.value;
    let changed = atOnce;
    if (this.seed !== tail.seed || spacing !== tail.spacing) {
      linePattern(this.seed, spacing, parts);
      tail.seed = this.seed;
      tail.spacing = spacing;
      changed = true;
    }
    network.glides = v[P.timeChange] === 0 && !this.logSize.settled;
    const size = exp(this.logSize.value);
    for (let line = 0; line < parts.length; line++) {
      const exact = lineFrames(parts[line]!, size, sampleRate);
      const length = network.glides ? exact : Math.round(exact);
      if (length === network.lengths[line]) continue;
      network.lengths[line] = length;
      changed = true;
    }
    const held = this.holding.value;
    for (let band = 0; band < DECAY_BANDS; band++) {
      const seconds = Math.min(LONGEST_DECAY, exp(this.logDecay.value + this.logFactors[band]!.value));
      const loss = ((held - 1) * 60) / (seconds * sampleRate);
      if (loss === network.losses[band]) continue;
      network.losses[band] = loss;
      changed = true;
    }
    const movement = this.movement.value;
    network.turnDepth = MOST_TURN * movement;
    // A hold is read at whole frames: interpolation would change it with each round.
    network.swayDepth = tail.sways ? MOST_SWAY_SECONDS * sampleRate * movement * movement * (1 - held) : 0;
    network.swingHz = exp(this.logRate.value);
    if (atOnce) network.reset();
    else if (changed) network.retune();
  }

  process(left: Floats, right: Floats, frames: number, inputs?: Inputs): void {
    const key = inputs?.[0];
    const { wet, ducker } = this;
    const [wetLeft, wetRight] = wet;
    const ducked = ducker.listen(key ? key.left : left, key ? key.right : right, frames);
    for (let start = 0; start < frames;) {
      if (this.offset === NETWORK_TICK) this.tick();
      const count = Math.min(frames - start, NETWORK_TICK - this.offset);
      this.stretch(left, right, start, count);
      this.offset += count;
      start += count;
    }
    this.envelope.process(wetLeft, wetRight, left, right, frames);
    this.wasmKernels.guardSides(wetLeft.byteOffset, wetRight.byteOffset, frames);
    for (let i = 0; ducked && i < frames; i++) {
      wetLeft[i] = wetLeft[i]! * ducker.gains[i]!;
      wetRight[i] = wetRight[i]! * ducker.gains[i]!;
    }
    this.mix.blend(left, right, wet, frames);
  }

  private stretch(left: Floats, right: Floats, start: number, count: number): void {
    const { taken, input, open, earlyLeft, earlyRight, fedLeft, fedRight } = this;
    const [inputLeft, inputRight] = taken;
    if (input.settled && open.settled) {
      const gain = input.value * open.value;
      takeSides(taken, left, right, count, gain, start);
    } else {
      for (let i = 0; i < count; i++) {
        const gain = input.next() * open.next();
        inputLeft[i] = left[start + i]! * gain;
        inputRight[i] = right[start + i]! * gain;
      }
    }
    this.offsets[0].process(inputLeft, count);
    this.offsets[1].process(inputRight, count);
    this.deesser.process(inputLeft, inputRight, count);
    this.cuts.process(inputLeft, inputRight, count);
    this.preDelay.process(inputLeft, inputRight, count);
    this.early.process(inputLeft, inputRight, earlyLeft, earlyRight, count, this.offset);
    const { wasmKernels, level, levelStep, offset } = this;
    wasmKernels.scaleMoving(fedLeft.byteOffset, inputLeft.byteOffset, level, levelStep, offset, count);
    wasmKernels.scaleMoving(fedRight.byteOffset, inputRight.byteOffset, level, levelStep, offset, count);
    this.diffuser.process(fedLeft, fedRight, count, this.offset);
    this.runTails(count);
    this.blendParts(start, count);
  }

  /** Sends what is fed through the tail of the quality there is, and silence through those that still ring. */
  private runTails(count: number): void {
    const { fedLeft, fedRight, lateLeft, lateRight, shareLeft, shareRight, tailLeft, tailRight } = this;
    let sounding = false;
    for (const tail of this.tails) {
      const { feed, network } = tail;
      const fed = feed.value > 0 || !feed.settled;
      if (!fed && tail.quiet > QUIET_SECONDS * this.sampleRate) {
        tail.quiet = Infinity;
        continue;
      }
      const whole = feed.settled && feed.value === 1;
      // One that is taken up again begins anew.
      if (tail.quiet === Infinity && !whole) this.sendTail(tail, true);
      for (let i = 0; !whole && i < count; i++) {
        const share = feed.next();
        shareLeft[i] = share * fedLeft[i]!;
        shareRight[i] = share * fedRight[i]!;
      }
      const outLeft = sounding ? tailLeft : lateLeft;
      const outRight = sounding ? tailRight : lateRight;
      if (whole) network.process(fedLeft, fedRight, outLeft, outRight, count);
      else network.process(shareLeft, shareRight, outLeft, outRight, count);
      tail.quiet = fed || this.isHeard(outLeft, outRight, count) ? 0 : tail.quiet + count;
      if (sounding) {
        this.wasmKernels.addScaled(lateLeft.byteOffset, tailLeft.byteOffset, 1, 0, count);
        this.wasmKernels.addScaled(lateRight.byteOffset, tailRight.byteOffset, 1, 0, count);
      }
      sounding = true;
    }
  }

  private isHeard(left: Doubles, right: Doubles, count: number): boolean {
    for (let i = 0; i < count; i++) if (Math.abs(left[i]!) > QUIET || Math.abs(right[i]!) > QUIET) return true;
    return false;
  }

  /** Early reflections and tail at their levels, with tone and width, into the wet blocks from `start` on. */
  private blendParts(start: number, count: number): void {
    const { earlyLeft, earlyRight, lateLeft, lateRight, earlyGain, lateGain, width, wet, wasmKernels } = this;
    const [wetLeft, wetRight] = wet;
    if (earlyGain.settled && lateGain.settled) {
      const [early, late] = [earlyGain.value, lateGain.value];
      const [left, right] = [earlyLeft.byteOffset, earlyRight.byteOffset];
      wasmKernels.mixScaled(left, left, early, 0, lateLeft.byteOffset, late, count);
      wasmKernels.mixScaled(right, right, early, 0, lateRight.byteOffset, late, count);
    } else {
      for (let i = 0; i < count; i++) {
        const early = earlyGain.next();
        const late = lateGain.next();
        earlyLeft[i] = earlyLeft[i]! * early + late * lateLeft[i]!;
        earlyRight[i] = earlyRight[i]! * early + late * lateRight[i]!;
      }
    }
    this.tone.process(earlyLeft, earlyRight, count);
    if (width.settled) {
      const at = 8 * start;
      const [left, right] = [wetLeft.byteOffset + at, wetRight.byteOffset + at];
      wasmKernels.widen(earlyLeft.byteOffset, earlyRight.byteOffset, left, right, 1, width.value, count);
      return;
    }
    for (let i = 0; i < count; i++) {
      const middle = 0.5 * (earlyLeft[i]! + earlyRight[i]!);
      const side = 0.5 * width.next() * (earlyLeft[i]! - earlyRight[i]!);
      wetLeft[start + i] = middle + side;
      wetRight[start + i] = middle - side;
    }
  }
}

export const createReverb: KernelFactory = (context) => new ReverbKernel(context);
