import { Ramp } from '../dsp/ramp';
import { balance } from '../dsp/balance';
import { MAXIMUM_BLOCK } from '../effects/kernel';
import { smoothstep } from '../math/smoothstep';
import { InsertNode } from './insertNode';
import { PeakMeter } from './peakMeter';
import type { PlanInsert, PlanStrip } from './plan';

const RAMP_SECONDS = 0.015;
const DIP_SECONDS = 0.01;

/**
 * Inserts, fader, pan and mute of a track or of the main output. Pan lowers the far side by a quarter cosine and
 * leaves the near side, so that the centre is 0 dB. Inserts arrive and leave by fading; a new order is taken up in a
 * short dip of the level into and out of every effect, so that none of them hears a jump.
 */
export class Strip {
  readonly id: string;
  readonly meter: PeakMeter;
  leaving = false;
  private nodes: InsertNode[];
  private waiting: InsertNode[] | null = null;
  private readonly dip = new Ramp(1);
  private readonly dipGains = new Float32Array(MAXIMUM_BLOCK);
  private readonly gains = new Float64Array(MAXIMUM_BLOCK);
  private readonly gainLeft: Ramp;
  private readonly gainRight: Ramp;
  private readonly rampFrames: number;
  private readonly dipFrames: number;

  constructor(
    plan: PlanStrip,
    private readonly sampleRate: number,
  ) {
    this.id = plan.id;
    this.meter = new PeakMeter(sampleRate);
    this.rampFrames = Math.round(RAMP_SECONDS * sampleRate);
    this.dipFrames = Math.round(DIP_SECONDS * sampleRate);
    this.nodes = plan.inserts.map((insert) => new InsertNode(insert, sampleRate, true));
    this.gainLeft = new Ramp(0);
    this.gainRight = new Ramp(0);
    this.setLevel(plan.gain, plan.pan, plan.audible, 0);
  }

  setLevel(gain: number, pan: number, audible: boolean, frames = this.rampFrames): void {
    const level = audible ? gain : 0;
    const sides = balance(pan);
    this.gainLeft.moveTo(level * sides.left, frames);
    this.gainRight.moveTo(level * sides.right, frames);
  }

  leave(): void {
    this.leaving = true;
    this.setLevel(0, 0, false);
  }

  get gone(): boolean {
    return this.leaving && this.gainLeft.settled && this.gainRight.settled;
  }

  update(plan: PlanStrip): void {
    this.leaving = false;
    this.setLevel(plan.gain, plan.pan, plan.audible);
    this.arrange(plan.inserts);
  }

  private arrange(inserts: readonly PlanInsert[]): void {
    const current = this.waiting ?? this.nodes;
    const known = new Map(current.map((node) => [node.id, node]));
    const wanted = new Set(inserts.map((insert) => insert.id));
    const next = inserts.map((insert) => {
      const node = known.get(insert.id);
      if (!node) return new InsertNode(insert, this.sampleRate, false);
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
    if (reordered || this.waiting) {
      this.waiting = next;
      this.dip.moveTo(0, this.dipFrames);
    } else {
      this.nodes = next;
    }
  }

  insert(id: string): InsertNode | undefined {
    return (this.waiting ?? this.nodes).find((node) => node.id === id);
  }

  get latencyFrames(): number {
    return (this.waiting ?? this.nodes).reduce((sum, node) => sum + node.latencyFrames, 0);
  }

  get tailSeconds(): number {
    return this.nodes.reduce((sum, node) => sum + node.tailSeconds, 0);
  }

  get faults(): { id: string; count: number }[] {
    return this.nodes.filter((node) => node.faults > 0).map((node) => ({ id: node.id, count: node.faults }));
  }

  locate(frame: number): void {
    for (const node of this.nodes) node.kernel.locate(frame);
  }

  reset(): void {
    for (const node of this.nodes) node.kernel.reset();
  }

  process(left: Float32Array, right: Float32Array, frames: number): void {
    const dipping = !this.dip.settled || this.dip.value !== 1;
    if (dipping) {
      for (let i = 0; i < frames; i++) {
        this.dipGains[i] = smoothstep(this.dip.next());
      }
    }
    for (let place = 0; place < this.nodes.length; place++) {
      const node = this.nodes[place]!;
      if (node.gone) {
        this.nodes.splice(place, 1);
        place--;
        continue;
      }
      if (dipping) this.applyDip(left, right, frames);
      node.process(left, right, frames);
    }
    if (dipping) this.applyDip(left, right, frames);
    this.gainLeft.fill(this.gains, frames);
    for (let i = 0; i < frames; i++) left[i] = left[i]! * this.gains[i]!;
    this.gainRight.fill(this.gains, frames);
    for (let i = 0; i < frames; i++) right[i] = right[i]! * this.gains[i]!;
    if (this.waiting && this.dip.settled) {
      this.nodes = this.waiting;
      this.waiting = null;
      this.dip.moveTo(1, this.dipFrames);
    }
    this.meter.process(left, right, frames);
  }

  /** Whether silence in surely gives silence out, so that a block can be passed over. */
  get passive(): boolean {
    return this.nodes.length === 0 && this.waiting === null && this.gainLeft.settled && this.gainRight.settled;
  }

  private applyDip(left: Float32Array, right: Float32Array, frames: number): void {
    for (let i = 0; i < frames; i++) {
      left[i] = left[i]! * this.dipGains[i]!;
      right[i] = right[i]! * this.dipGains[i]!;
    }
  }
}
