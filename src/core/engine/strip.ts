import { SmoothRamp } from '../dsp/smoothRamp';
import { balance } from '../dsp/balance';
import { MAXIMUM_BLOCK, type MusicalContext } from '../effects/kernel';
import type { Prepared } from '../effects/prepare';
import { Arena } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { ClipSource } from './clipSource';
import { LatencyCompensator } from '../dsp/latencyCompensator';
import { CurvedLevel } from './curvedLevel';
import { InsertNode } from './insertNode';
import { MonoMeter } from './monoMeter';
import { PeakMeter } from './peakMeter';
import type { PlanInsert, PlanLevel, PlanStrip, SoundSource } from './plan';
import type { Probe } from './probe';

const RAMP_SECONDS = 0.015;
const DIP_SECONDS = 0.01;

/** Share of a side that stereo pan moves to the other, given the share that stays (quarter-cosine law). */
const crossShare = (stays: number): number => Math.sqrt(1 - stays * stays);

/**
 * A track, a return, a group or the main output: clips and what edges bring, inserts, fader, pan and mute. Pan lowers
 * the far side by a quarter cosine and leaves the near side, so that the centre is 0 dB; stereo pan also adds to the near
 * side the quarter sine of what the far side loses, so that the power of unlike sides stays. Inserts arrive and leave by
 * fading; a new order is taken up in a short dip of the level into and out of every effect, so that none of them
 * hears a jump.
 */
export class Strip {
  readonly id: string;
  readonly meter: PeakMeter;
  readonly mono: MonoMeter;
  readonly source: ClipSource;
  readonly memory = new Arena();
  /** Input of this block, to which routes add. */
  readonly left = this.memory.floats(MAXIMUM_BLOCK);
  readonly right = this.memory.floats(MAXIMUM_BLOCK);
  /** Signal behind the inserts and before the fader, if a route taps it there. */
  readonly preFaderLeft = this.memory.floats(MAXIMUM_BLOCK);
  readonly preFaderRight = this.memory.floats(MAXIMUM_BLOCK);
  /** Scratch blocks of routes: delayed signal and gains. */
  readonly delayedLeft = this.memory.floats(MAXIMUM_BLOCK);
  readonly delayedRight = this.memory.floats(MAXIMUM_BLOCK);
  readonly routeGains = this.memory.doubles(MAXIMUM_BLOCK);
  hasPreFaderTap = false;
  /** Probe for the analyser, before the inserts and after the fader, or null. */
  probe: Probe | null = null;
  /** True if a route has added to this block. */
  isFed = false;
  /** True unless this block is surely silent. */
  isSounding = false;
  isLeaving = false;
  /** True once it has thrown; it is silent until it is replaced. */
  isBroken = false;
  /** Id of the effect that is processing; null between effects. After a fault, the effect that threw. */
  processingInsertId: string | null = null;
  /** The plan last applied; null once changes have come since. */
  appliedPlan: PlanStrip | null = null;
  private nodes: InsertNode[];
  private pendingNodes: InsertNode[] | null = null;
  private upstreamLatencyFrames = 0;
  private readonly sourceLeft = this.memory.floats(MAXIMUM_BLOCK);
  private readonly sourceRight = this.memory.floats(MAXIMUM_BLOCK);
  private readonly sourceDelay = new LatencyCompensator(this.memory);
  private readonly dip = new SmoothRamp(1);
  private readonly dipGains = new Float32Array(MAXIMUM_BLOCK);
  private readonly gains = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly muteGains = this.memory.doubles(MAXIMUM_BLOCK);
  /** Pan of each frame of a block, and the gains of both sides. */
  private readonly pans = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly crossGains = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly sideLeft = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly sideRight = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly gain: CurvedLevel;
  private readonly pan: CurvedLevel;
  /** Share of what pan takes from a side that goes to the other, 0 to 1: stereo pan. */
  private readonly crossLevel: CurvedLevel;
  private readonly muteLevel: CurvedLevel;
  private readonly dipFrames: number;

  constructor(
    plan: PlanStrip,
    private readonly sampleRate: number,
    samples: ReadonlyMap<string, SoundSource>,
    private music: MusicalContext,
    private readonly resources: ReadonlyMap<string, Prepared>,
  ) {
    this.id = plan.id;
    this.meter = new PeakMeter(this.memory, sampleRate);
    this.mono = new MonoMeter(this.memory, sampleRate);
    this.source = new ClipSource(samples);
    this.dipFrames = Math.round(DIP_SECONDS * sampleRate);
    this.nodes = [];
    try {
      for (const insert of plan.inserts) this.nodes.push(new InsertNode(insert, sampleRate, music, resources, true));
    } catch (error) {
      this.dispose();
      throw error;
    }
    const rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.gain = new CurvedLevel(plan.gain, rampFrames, plan.curves?.gain);
    this.pan = new CurvedLevel(plan.pan, rampFrames, plan.curves?.pan);
    this.crossLevel = new CurvedLevel(plan.stereoPan ? 1 : 0, rampFrames);
    this.muteLevel = new CurvedLevel(plan.audible ? 1 : 0, rampFrames, plan.curves?.audible);
  }

  setLevel({ gain, pan, stereoPan, audible }: PlanLevel): void {
    this.gain.moveTo(gain);
    this.pan.moveTo(pan);
    this.crossLevel.moveTo(stereoPan ? 1 : 0);
    this.muteLevel.moveTo(audible ? 1 : 0);
  }

  fadeOut(): void {
    this.isLeaving = true;
    this.muteLevel.setCurve(undefined);
    this.muteLevel.moveTo(0);
  }

  get isGone(): boolean {
    return this.isLeaving && this.muteLevel.settled;
  }

  /** Gives its memory and that of its effects back. */
  dispose(): void {
    this.memory.free();
    for (const node of new Set([...this.nodes, ...(this.pendingNodes ?? [])])) node.dispose();
  }

  update(plan: PlanStrip): void {
    this.isLeaving = false;
    this.gain.setCurve(plan.curves?.gain);
    this.pan.setCurve(plan.curves?.pan);
    this.muteLevel.setCurve(plan.curves?.audible);
    this.setLevel(plan);
    this.updateInserts(plan.inserts);
  }

  private updateInserts(inserts: readonly PlanInsert[]): void {
    const current = this.pendingNodes ?? this.nodes;
    const known = new Map(current.map((node) => [node.id, node]));
    const wanted = new Set(inserts.map((insert) => insert.id));
    const next = inserts.map((insert) => {
      const node = known.get(insert.id);
      if (!node) return new InsertNode(insert, this.sampleRate, this.music, this.resources, false);
      node.update(insert);
      return node;
    });
    const stayed = current.filter((node) => wanted.has(node.id)).map((node) => node.id);
    const reordered = next.filter((node) => known.has(node.id)).some((node, place) => node.id !== stayed[place]);
    current.forEach((node, place) => {
      if (wanted.has(node.id)) return;
      node.fadeOut();
      const before = current.slice(0, place).findLast((one) => next.includes(one));
      next.splice(before ? next.indexOf(before) + 1 : 0, 0, node);
    });
    // The dip acts once an effect, so their number stays while it lasts.
    if (reordered || this.pendingNodes || this.isDipping) {
      this.pendingNodes = next;
      this.dip.moveTo(0, this.dipFrames);
    } else {
      this.nodes = next;
    }
  }

  private get isDipping(): boolean {
    return !this.dip.settled || this.dip.value !== 1;
  }

  /** Called when a resource has been prepared that an effect may wait for. */
  resourceArrived(): void {
    for (const node of this.inserts) node.resourceArrived();
  }

  /** Sets tempo and scale. */
  setMusicalContext(music: MusicalContext): void {
    this.music = music;
    for (const node of this.inserts) node.setMusicalContext(music);
  }

  insert(id: string): InsertNode | undefined {
    return (this.pendingNodes ?? this.nodes).find((node) => node.id === id);
  }

  get inserts(): readonly InsertNode[] {
    return this.pendingNodes ?? this.nodes;
  }

  get latencyFrames(): number {
    return this.inserts.reduce((sum, node) => sum + node.latencyFrames, 0);
  }

  /** True if the latency of an effect has changed. */
  refreshLatency(): boolean {
    let changed = false;
    for (const node of this.nodes) if (node.refreshLatency()) changed = true;
    return changed;
  }

  get tailSeconds(): number {
    return this.nodes.reduce((sum, node) => sum + node.tailSeconds, 0);
  }

  get faults(): { id: string; count: number }[] {
    return this.nodes.filter((node) => node.faults > 0).map((node) => ({ id: node.id, count: node.faults }));
  }

  /** @param frames latency of the routes that lead here */
  setUpstreamLatency(frames: number, fresh: boolean): void {
    this.upstreamLatencyFrames = frames;
    this.sourceDelay.setDelay(frames, fresh);
    let late = frames;
    for (const node of this.inserts) {
      node.upstreamLatencyFrames = late;
      late += node.latencyFrames;
    }
  }

  locate(position: number): void {
    for (const node of this.nodes) node.locate(position);
  }

  reset(position: number): void {
    const place = position - this.upstreamLatencyFrames - this.latencyFrames;
    for (const level of [this.gain, this.pan, this.crossLevel, this.muteLevel]) level.reset(place);
    for (const node of this.nodes) node.reset(position);
  }

  /** Adds the clips to the block and processes it in place. */
  process(frames: number, position: number, moving: boolean): void {
    const { left, right } = this;
    if (this.isBroken) {
      this.silence(frames);
      return;
    }
    const sourced = !this.source.silentFor(frames, position, moving);
    const playing = sourced || !this.sourceDelay.isSilent;
    const dipping = this.isDipping;
    this.isSounding = this.isFed || playing || dipping || !this.staysAsleep(frames);
    if (!sourced) this.source.skip(frames, moving);
    if (playing) this.playSource(sourced, frames, position, moving);
    this.probe?.before(left, right, frames);
    if (dipping) for (let i = 0; i < frames; i++) this.dipGains[i] = this.dip.next();
    for (let place = 0; place < this.nodes.length; place++) {
      const node = this.nodes[place]!;
      if (node.isGone && !dipping) {
        node.dispose();
        this.nodes.splice(place, 1);
        place--;
        continue;
      }
      if (dipping) this.applyDip(frames);
      this.processingInsertId = node.id;
      node.process(left, right, frames, position, moving);
    }
    this.processingInsertId = null;
    if (dipping) this.applyDip(frames);
    if (this.hasPreFaderTap && this.isSounding) {
      const { preFaderLeft, preFaderRight } = this;
      const { kernels } = wasm();
      kernels.copySides(preFaderLeft.byteOffset, preFaderRight.byteOffset, left.byteOffset, right.byteOffset, frames);
    }
    this.applyFader(frames, position - this.upstreamLatencyFrames - this.latencyFrames, moving);
    if (this.pendingNodes && this.dip.settled) {
      this.nodes = this.pendingNodes;
      this.pendingNodes = null;
      this.dip.moveTo(1, this.dipFrames);
    }
    if (this.isSounding) {
      this.meter.process(left, right, frames);
      this.mono.process(left, right, frames);
    } else {
      this.meter.rest(frames);
      this.mono.rest(frames);
    }
    this.probe?.after(left, right, frames);
  }

  /** Silences this block. */
  silence(frames: number): void {
    for (const side of [this.left, this.right, this.preFaderLeft, this.preFaderRight]) side.fill(0, 0, frames);
    this.isSounding = false;
    this.meter.rest(frames);
    this.mono.rest(frames);
  }

  /** Takes over the fault counts of a broken strip's effects, and fades in. */
  takeOverFrom(broken: Strip): void {
    const counts = new Map(broken.inserts.map(({ id, faults }) => [id, faults]));
    for (const node of this.inserts) node.faults = counts.get(node.id) ?? 0;
    this.muteLevel.comeIn();
  }

  /** @param sourced false if the clips are silent and only their delayed sound is left */
  private playSource(sourced: boolean, frames: number, position: number, moving: boolean): void {
    const { left, right, sourceLeft, sourceRight, sourceDelay } = this;
    const { kernels } = wasm();
    if (!sourceDelay.hasHistory) {
      this.source.render(left, right, frames, position, moving);
      return;
    }
    if (sourced) {
      kernels.clearSides(sourceLeft.byteOffset, sourceRight.byteOffset, frames);
      this.source.render(sourceLeft, sourceRight, frames, position, moving);
    }
    sourceDelay.process(sourceLeft, sourceRight, sourced, sourceLeft, sourceRight, frames);
    const [toLeft, toRight] = [left.byteOffset, right.byteOffset];
    kernels.mixFloats(toLeft, toRight, sourceLeft.byteOffset, sourceRight.byteOffset, 1, 0, frames);
  }

  private applyFader(frames: number, place: number, moving: boolean): void {
    const { left, right, gains, muteGains, pans, crossGains, sideLeft, sideRight } = this;
    if (this.gain.settled && this.pan.settled && this.crossLevel.settled && this.muteLevel.settled) {
      if (!this.isSounding) return;
      if (this.crossLevel.now > 0 && this.pan.now !== 0) this.addCrossPan(frames);
      const level = this.gain.now * this.muteLevel.now;
      const sides = balance(this.pan.now);
      const gainLeft = level * sides.left;
      const gainRight = level * sides.right;
      if (gainLeft !== 1 || gainRight !== 1) {
        wasm().kernels.scaleFloats(left.byteOffset, right.byteOffset, gainLeft, gainRight, frames);
      }
      return;
    }
    this.gain.fill(gains, frames, place, moving);
    this.pan.fill(pans, frames, place, moving);
    this.muteLevel.fill(muteGains, frames, place, moving);
    const crosses = !this.crossLevel.settled || this.crossLevel.now > 0;
    if (crosses) this.crossLevel.fill(crossGains, frames, place, moving);
    if (!this.isSounding) return;
    const { kernels } = wasm();
    kernels.balances(pans.byteOffset, sideLeft.byteOffset, sideRight.byteOffset, frames);
    if (crosses) this.addMovingCrossPan(frames);
    kernels.levelFloats(
      left.byteOffset,
      right.byteOffset,
      gains.byteOffset,
      muteGains.byteOffset,
      sideLeft.byteOffset,
      sideRight.byteOffset,
      frames,
    );
  }

  /** Stereo pan: adds to the near side the share taken from the far one. */
  private addCrossPan(frames: number): void {
    const sides = balance(this.pan.now);
    const [near, far] = this.pan.now < 0 ? [this.left, this.right] : [this.right, this.left];
    const share = this.crossLevel.now * crossShare(this.pan.now < 0 ? sides.right : sides.left);
    for (let i = 0; i < frames; i++) near[i] = near[i]! + share * far[i]!;
  }

  /** The same while gain, pan or mute move. */
  private addMovingCrossPan(frames: number): void {
    const { left, right, crossGains, sideLeft, sideRight } = this;
    for (let i = 0; i < frames; i++) {
      const l = left[i]!;
      const r = right[i]!;
      left[i] = l + crossGains[i]! * crossShare(sideRight[i]!) * r;
      right[i] = r + crossGains[i]! * crossShare(sideLeft[i]!) * l;
    }
  }

  /** True if silence in gives silence out for the next frames. */
  private staysAsleep(frames: number): boolean {
    if (this.pendingNodes) return false;
    for (const node of this.nodes) if (!node.staysAsleep(frames)) return false;
    return true;
  }

  private applyDip(frames: number): void {
    const { left, right } = this;
    for (let i = 0; i < frames; i++) {
      left[i] = left[i]! * this.dipGains[i]!;
      right[i] = right[i]! * this.dipGains[i]!;
    }
  }
}
