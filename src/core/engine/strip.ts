import { SmoothRamp } from '../dsp/smoothRamp';
import { balance } from '../dsp/balance';
import { MAXIMUM_BLOCK, type Music } from '../effects/kernel';
import type { Prepared } from '../effects/prepare';
import { Arena } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { ClipSource } from './clipSource';
import { Compensation } from '../dsp/compensation';
import { CurvedLevel } from './curvedLevel';
import { InsertNode } from './insertNode';
import { MonoMeter } from './monoMeter';
import { PeakMeter } from './peakMeter';
import type { PlanInsert, PlanLevel, PlanStrip, Samples } from './plan';
import type { Probe } from './probe';

const RAMP_SECONDS = 0.015;
const DIP_SECONDS = 0.01;

/** The sine of a cosine: how much of a side goes over when so much of it stays. */
const taken = (stays: number): number => Math.sqrt(1 - stays * stays);

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
  /** What arrives in this block; edges add to it. */
  readonly left = this.memory.floats(MAXIMUM_BLOCK);
  readonly right = this.memory.floats(MAXIMUM_BLOCK);
  /** The sound after the effects and before the fader, where somebody listens there. */
  readonly beforeLeft = this.memory.floats(MAXIMUM_BLOCK);
  readonly beforeRight = this.memory.floats(MAXIMUM_BLOCK);
  /** Room for a path to hold the sound back in, and for its gains. */
  readonly heldLeft = this.memory.floats(MAXIMUM_BLOCK);
  readonly heldRight = this.memory.floats(MAXIMUM_BLOCK);
  readonly pathGains = this.memory.doubles(MAXIMUM_BLOCK);
  tappedBeforeFader = false;
  /** Somebody watches the sound before its effects and after its fader. */
  probe: Probe | null = null;
  /** Whether an edge has added anything to this block. */
  fed = false;
  /** Whether this block can hold anything but silence. */
  sounding = false;
  leaving = false;
  /** It has thrown, and stays silent until it is replaced. */
  broken = false;
  /** Id of the effect that is processing; null between effects. After a fault, the effect that threw. */
  working: string | null = null;
  /** The part of a plan that it has taken up as a whole; null when changes have come since. */
  planned: PlanStrip | null = null;
  private nodes: InsertNode[];
  private waiting: InsertNode[] | null = null;
  private late = 0;
  private readonly sourceLeft = this.memory.floats(MAXIMUM_BLOCK);
  private readonly sourceRight = this.memory.floats(MAXIMUM_BLOCK);
  private readonly sourceDelay = new Compensation(this.memory);
  private readonly dip = new SmoothRamp(1);
  private readonly dipGains = new Float32Array(MAXIMUM_BLOCK);
  private readonly gains = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly opens = this.memory.doubles(MAXIMUM_BLOCK);
  /** Pans of the frames of a block, and what they make of either side. */
  private readonly pans = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly crossings = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly sideLeft = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly sideRight = this.memory.doubles(MAXIMUM_BLOCK);
  private readonly gain: CurvedLevel;
  private readonly pan: CurvedLevel;
  /** How much of what pan takes from a side goes to the other, 0 to 1. */
  private readonly crossing: CurvedLevel;
  private readonly open: CurvedLevel;
  private readonly dipFrames: number;

  constructor(
    plan: PlanStrip,
    private readonly sampleRate: number,
    samples: ReadonlyMap<string, Samples>,
    private music: Music,
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
    this.crossing = new CurvedLevel(plan.stereoPan ? 1 : 0, rampFrames);
    this.open = new CurvedLevel(plan.audible ? 1 : 0, rampFrames, plan.curves?.audible);
  }

  setLevel({ gain, pan, stereoPan, audible }: PlanLevel): void {
    this.gain.moveTo(gain);
    this.pan.moveTo(pan);
    this.crossing.moveTo(stereoPan ? 1 : 0);
    this.open.moveTo(audible ? 1 : 0);
  }

  leave(): void {
    this.leaving = true;
    this.open.setCurve(undefined);
    this.open.moveTo(0);
  }

  get gone(): boolean {
    return this.leaving && this.open.settled;
  }

  /** Gives its memory and that of its effects back. */
  dispose(): void {
    this.memory.free();
    for (const node of new Set([...this.nodes, ...(this.waiting ?? [])])) node.dispose();
  }

  update(plan: PlanStrip): void {
    this.leaving = false;
    this.gain.setCurve(plan.curves?.gain);
    this.pan.setCurve(plan.curves?.pan);
    this.open.setCurve(plan.curves?.audible);
    this.setLevel(plan);
    this.arrange(plan.inserts);
  }

  private arrange(inserts: readonly PlanInsert[]): void {
    const current = this.waiting ?? this.nodes;
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
      node.leave();
      const before = current.slice(0, place).findLast((one) => next.includes(one));
      next.splice(before ? next.indexOf(before) + 1 : 0, 0, node);
    });
    // The dip acts once an effect, so their number stays while it lasts.
    if (reordered || this.waiting || this.isDipping) {
      this.waiting = next;
      this.dip.moveTo(0, this.dipFrames);
    } else {
      this.nodes = next;
    }
  }

  private get isDipping(): boolean {
    return !this.dip.settled || this.dip.value !== 1;
  }

  /** Something has been prepared that an effect may wait for. */
  resourceArrived(): void {
    for (const node of this.inserts) node.resourceArrived();
  }

  /** Takes up another tempo and key of the session. */
  follow(music: Music): void {
    this.music = music;
    for (const node of this.inserts) node.follow(music);
  }

  insert(id: string): InsertNode | undefined {
    return (this.waiting ?? this.nodes).find((node) => node.id === id);
  }

  get inserts(): readonly InsertNode[] {
    return this.waiting ?? this.nodes;
  }

  get latencyFrames(): number {
    return this.inserts.reduce((sum, node) => sum + node.latencyFrames, 0);
  }

  /** Whether the latency of an effect is another than before. */
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

  /** @param frames by which what edges bring is behind the session */
  setLateness(frames: number, fresh: boolean): void {
    this.late = frames;
    this.sourceDelay.setDelay(frames, fresh);
    let late = frames;
    for (const node of this.inserts) {
      node.lateFrames = late;
      late += node.latencyFrames;
    }
  }

  locate(position: number): void {
    for (const node of this.nodes) node.locate(position);
  }

  reset(position: number): void {
    const place = position - this.late - this.latencyFrames;
    for (const level of [this.gain, this.pan, this.crossing, this.open]) level.reset(place);
    for (const node of this.nodes) node.reset(position);
  }

  /** Takes in the clips, then works on the block in place. */
  process(frames: number, position: number, moving: boolean): void {
    const { left, right } = this;
    if (this.broken) {
      this.silence(frames);
      return;
    }
    const sourced = !this.source.silentFor(frames, position, moving);
    const playing = sourced || !this.sourceDelay.empty;
    const dipping = this.isDipping;
    this.sounding = this.fed || playing || dipping || !this.sleepsFor(frames);
    if (!sourced) this.source.skip(frames, moving);
    if (playing) this.play(sourced, frames, position, moving);
    this.probe?.before(left, right, frames);
    if (dipping) for (let i = 0; i < frames; i++) this.dipGains[i] = this.dip.next();
    for (let place = 0; place < this.nodes.length; place++) {
      const node = this.nodes[place]!;
      if (node.gone && !dipping) {
        node.dispose();
        this.nodes.splice(place, 1);
        place--;
        continue;
      }
      if (dipping) this.applyDip(frames);
      this.working = node.id;
      node.process(left, right, frames, position, moving);
    }
    this.working = null;
    if (dipping) this.applyDip(frames);
    if (this.tappedBeforeFader && this.sounding) {
      const { beforeLeft, beforeRight } = this;
      const { loops } = wasm();
      loops.copySides(beforeLeft.byteOffset, beforeRight.byteOffset, left.byteOffset, right.byteOffset, frames);
    }
    this.applyFader(frames, position - this.late - this.latencyFrames, moving);
    if (this.waiting && this.dip.settled) {
      this.nodes = this.waiting;
      this.waiting = null;
      this.dip.moveTo(1, this.dipFrames);
    }
    if (this.sounding) {
      this.meter.process(left, right, frames);
      this.mono.process(left, right, frames);
    } else {
      this.meter.rest(frames);
      this.mono.rest(frames);
    }
    this.probe?.after(left, right, frames);
  }

  /** Nothing comes out of this block. */
  silence(frames: number): void {
    for (const side of [this.left, this.right, this.beforeLeft, this.beforeRight]) side.fill(0, 0, frames);
    this.sounding = false;
    this.meter.rest(frames);
    this.mono.rest(frames);
  }

  /** Takes over how often effects of the same ids have broken so far, and comes in out of silence. */
  replaces(broken: Strip): void {
    const counts = new Map(broken.inserts.map(({ id, faults }) => [id, faults]));
    for (const node of this.inserts) node.faults = counts.get(node.id) ?? 0;
    this.open.comeIn();
  }

  /** @param sourced false when its clips are silent, and only what is held back of them sounds */
  private play(sourced: boolean, frames: number, position: number, moving: boolean): void {
    const { left, right, sourceLeft, sourceRight, sourceDelay } = this;
    const { loops } = wasm();
    if (!sourceDelay.holds) {
      this.source.render(left, right, frames, position, moving);
      return;
    }
    if (sourced) {
      loops.clearSides(sourceLeft.byteOffset, sourceRight.byteOffset, frames);
      this.source.render(sourceLeft, sourceRight, frames, position, moving);
    }
    sourceDelay.process(sourceLeft, sourceRight, sourced, sourceLeft, sourceRight, frames);
    const [toLeft, toRight] = [left.byteOffset, right.byteOffset];
    loops.mixFloats(toLeft, toRight, sourceLeft.byteOffset, sourceRight.byteOffset, 1, 0, frames);
  }

  private applyFader(frames: number, place: number, moving: boolean): void {
    const { left, right, gains, opens, pans, crossings, sideLeft, sideRight } = this;
    if (this.gain.settled && this.pan.settled && this.crossing.settled && this.open.settled) {
      if (!this.sounding) return;
      if (this.crossing.now > 0 && this.pan.now !== 0) this.cross(frames);
      const level = this.gain.now * this.open.now;
      const sides = balance(this.pan.now);
      const gainLeft = level * sides.left;
      const gainRight = level * sides.right;
      if (gainLeft !== 1 || gainRight !== 1) {
        wasm().loops.scaleFloats(left.byteOffset, right.byteOffset, gainLeft, gainRight, frames);
      }
      return;
    }
    this.gain.fill(gains, frames, place, moving);
    this.pan.fill(pans, frames, place, moving);
    this.open.fill(opens, frames, place, moving);
    const crosses = !this.crossing.settled || this.crossing.now > 0;
    if (crosses) this.crossing.fill(crossings, frames, place, moving);
    if (!this.sounding) return;
    const { loops } = wasm();
    loops.balances(pans.byteOffset, sideLeft.byteOffset, sideRight.byteOffset, frames);
    if (crosses) this.crossMoving(frames);
    loops.levelFloats(
      left.byteOffset,
      right.byteOffset,
      gains.byteOffset,
      opens.byteOffset,
      sideLeft.byteOffset,
      sideRight.byteOffset,
      frames,
    );
  }

  /** Adds to the near side what pan takes from the far one. */
  private cross(frames: number): void {
    const sides = balance(this.pan.now);
    const [near, far] = this.pan.now < 0 ? [this.left, this.right] : [this.right, this.left];
    const share = this.crossing.now * taken(this.pan.now < 0 ? sides.right : sides.left);
    for (let i = 0; i < frames; i++) near[i] = near[i]! + share * far[i]!;
  }

  /** The same while anything moves. */
  private crossMoving(frames: number): void {
    const { left, right, crossings, sideLeft, sideRight } = this;
    for (let i = 0; i < frames; i++) {
      const l = left[i]!;
      const r = right[i]!;
      left[i] = l + crossings[i]! * taken(sideRight[i]!) * r;
      right[i] = r + crossings[i]! * taken(sideLeft[i]!) * l;
    }
  }

  /** Whether silence in surely gives silence out within the next frames. */
  private sleepsFor(frames: number): boolean {
    if (this.waiting) return false;
    for (const node of this.nodes) if (!node.sleepsFor(frames)) return false;
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
