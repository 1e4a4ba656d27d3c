import { MAXIMUM_BLOCK, type Kernel, type KernelEvent, type KeySound, type Music } from '../effects/kernel';
import { KERNELS } from '../effects/kernels.generated';
import type { Prepared } from '../effects/prepare';
import { readingAt } from '../effects/readings';
import { effectById } from '../effects/registry';
import type { ResolvedSetting, ResolvedSettings } from '../effects/settings';
import { Arena, type Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { Driving, type DrivenWork } from './driving';
import { DryBlend } from './dryBlend';
import { NotePlayer } from './notePlayer';
import type { PlanInsert, PlanNote } from './plan';
import type { Probe } from './probe';
import { Resting, type Restable } from './resting';

const NO_NOTES: readonly PlanNote[] = [];

/**
 * An effect in a chain: its kernel, what drives its parameters, the dry sound beside it, and its rest. A kernel that puts
 * out anything not finite is reset and counted; the rest plays on.
 */
export class InsertNode implements Restable, DrivenWork {
  readonly id: string;
  readonly kernel: Kernel;
  private readonly memory = new Arena();
  faults = 0;
  leaving = false;
  /** Frames by which the sound that arrives here is behind the session. */
  lateFrames = 0;
  /** Somebody watches the sound before and after it. */
  probe: Probe | null = null;
  private bypass: boolean;
  private settings: ResolvedSettings;
  /** What it works with, and whether it has ever been there. */
  private resource: string | undefined;
  private taken: string | undefined;
  private readonly driving: Driving;
  private readonly blend: DryBlend;
  private readonly resting: Resting;
  private readonly notes: NotePlayer;
  /** It has a sweep of its own, which goes on while the session stands still. */
  private readonly sweeps: boolean;
  private readonly slots: readonly string[];
  /** Other sounds that it listens to, by slot; null where its own input takes the place. */
  private inputs: readonly (KeySound | null)[];
  private listens = false;
  private played = false;
  /** Its notes sound though nothing comes in. */
  private readonly soundsAlone: boolean;
  /** The block under work, and room for parts of it and of what it listens to. */
  private readonly block: { left: Floats; right: Floats; frames: number; frame: number; moving: boolean };
  private readonly part: { left: Floats; right: Floats };
  private readonly partInputs: (KeySound | null)[];
  private readonly partSounds: readonly KeySound[];

  /** @param fresh true when nothing sounds yet, so that no fade is needed */
  constructor(
    insert: PlanInsert,
    sampleRate: number,
    music: Music,
    private readonly resources: ReadonlyMap<string, Prepared>,
    fresh: boolean,
  ) {
    const factory = KERNELS[insert.effect];
    if (!factory) throw new Error(`No kernel for the effect ${insert.effect}`);
    const spec = effectById(insert.effect);
    this.id = insert.id;
    this.sweeps = readingAt(spec, 'place') !== null;
    this.soundsAlone = spec.soundsAlone === true;
    this.slots = (spec.inputs ?? []).map(({ id }) => id);
    this.inputs = this.slots.map(() => null);
    this.partInputs = this.slots.map(() => null);
    this.bypass = insert.bypass;
    this.settings = insert.settings ?? {};
    try {
      this.part = this.newSound();
      this.partSounds = this.slots.map(() => this.newSound());
      this.block = { ...this.part, frames: 0, frame: 0, moving: false };
      const { values, settings = {} } = insert;
      this.kernel = factory({ sampleRate, values, settings, music, memory: this.memory });
      this.notes = new NotePlayer(this.kernel);
      this.notes.setNotes(insert.notes ?? NO_NOTES);
      this.resource = insert.resource?.key;
      this.takeResource();
      this.resting = new Resting(this.memory, this.kernel, sampleRate);
      this.blend = new DryBlend(this.memory, sampleRate, this.kernel.latencyFrames, fresh && this.heard ? 1 : 0);
    } catch (error) {
      this.memory.free();
      throw error;
    }
    this.fade();
    this.blend.setDifference(insert.difference ?? false, fresh);
    this.driving = new Driving(insert, this.kernel, sampleRate);
  }

  private newSound(): { left: Floats; right: Floats } {
    return { left: this.memory.floats(MAXIMUM_BLOCK), right: this.memory.floats(MAXIMUM_BLOCK) };
  }

  get gone(): boolean {
    return this.leaving && this.blend.settled;
  }

  /** Gives its memory back: it is not asked for anything any more. */
  dispose(): void {
    this.memory.free();
  }

  get latencyFrames(): number {
    return this.leaving ? 0 : this.kernel.latencyFrames;
  }

  /** True if it can sound though nothing comes in. */
  get soundsUnfed(): boolean {
    return !this.bypass && ((this.soundsAlone && !this.notes.idle) || this.kernel.rests === undefined);
  }

  get tailSeconds(): number {
    return this.bypass ? 0 : this.kernel.tailSeconds(!this.notes.idle);
  }

  update(insert: PlanInsert): void {
    this.leaving = false;
    this.resource = insert.resource?.key;
    this.takeResource();
    this.setBypass(insert.bypass);
    this.blend.setDifference(insert.difference ?? false, false);
    this.driving.update(insert);
    this.notes.setNotes(insert.notes ?? NO_NOTES);
    for (const [id, setting] of Object.entries(insert.settings ?? {})) this.set(id, setting);
  }

  /** It has notes that sound by themselves, or has just been played by hand. */
  private get plays(): boolean {
    return this.played || (this.soundsAlone && !this.notes.idle);
  }

  /** Takes up the sounds it listens to, by slot. */
  listenTo(sounds: ReadonlyMap<string, KeySound>): void {
    this.inputs = this.slots.map((slot) => sounds.get(slot) ?? null);
    this.listens = this.inputs.some((one) => one !== null);
    this.driving.listenTo(sounds);
  }

  /** Where automation or modulation has a parameter now; its set value where neither moves it. */
  valueOf(index: number): number {
    return this.driving.valueOf(index);
  }

  setParameter(index: number, value: number): void {
    this.driving.set(index, value);
  }

  moveHand(id: string, part: number): void {
    this.driving.moveHand(id, part);
  }

  set(id: string, setting: ResolvedSetting): void {
    if (JSON.stringify(this.settings[id]) === JSON.stringify(setting)) return;
    this.settings = { ...this.settings, [id]: setting };
    this.kernel.set?.(id, setting);
  }

  /** Takes up another tempo and key of the session. */
  follow(music: Music): void {
    this.kernel.follow?.(music);
  }

  /** Something played by hand, which wakes it. */
  happens(event: KernelEvent): void {
    this.kernel.happens?.(event, 0);
    this.played = true;
  }

  /** Takes up another latency of the kernel; returns whether there was one. */
  refreshLatency(): boolean {
    if (this.leaving || this.kernel.latencyFrames === this.blend.latencyFrames) return false;
    this.blend.latencyFrames = this.kernel.latencyFrames;
    return true;
  }

  setBypass(bypass: boolean): void {
    this.bypass = bypass;
    this.fade();
  }

  leave(): void {
    this.leaving = true;
    this.fade();
  }

  private fade(): void {
    this.blend.fadeTo(this.heard ? 1 : 0);
  }

  /** Until what it works with is there, the dry sound stands in its place. */
  private get heard(): boolean {
    return !this.bypass && !this.leaving && (this.resource === undefined || this.taken !== undefined);
  }

  /** Takes up what has been prepared for it, as soon as it is there. */
  private takeResource(): void {
    const { resource } = this;
    const prepared = resource === undefined || resource === this.taken ? undefined : this.resources.get(resource);
    if (!prepared) return;
    this.kernel.take?.(prepared);
    this.taken = resource;
  }

  /** The same while sound runs. */
  resourceArrived(): void {
    this.takeResource();
    this.fade();
  }

  /** @param position place in the session that the sources play next */
  locate(position: number): void {
    this.kernel.locate(position - this.lateFrames);
  }

  /** Forgets all sound; automated parameters go to their places at once. */
  reset(position: number): void {
    this.driving.reset(position - this.lateFrames);
    this.kernel.reset();
  }

  /** Whether it makes nothing of so many frames of silence. */
  sleepsFor(frames: number): boolean {
    return !this.listens && !this.plays && this.resting.sleepsFor(frames);
  }

  process(left: Floats, right: Floats, frames: number, position: number, moving: boolean): void {
    this.probe?.before(left, right, frames);
    this.resting.process(this, left, right, frames, position, moving, this.listens || this.plays);
    this.played = false;
    this.probe?.after(left, right, frames);
  }

  /** Notes that are under way begin again when it wakes. */
  beginRest(): void {
    this.notes.stop();
    this.kernel.beginRest?.();
  }

  wake(position: number, moving: boolean): void {
    this.kernel.locate(moving ? position - this.lateFrames : this.driving.clock);
  }

  /** Silence goes in and comes out; what moves goes on moving, so that it is shown and picked up where it is. */
  passOver(frames: number, position: number, moving: boolean): void {
    this.blend.passOver(frames);
    this.driving.move(null, frames, position - this.lateFrames, moving, null);
    if (this.sweeps) this.kernel.locate(this.driving.clock);
  }

  workOn(left: Floats, right: Floats, frames: number, position: number, moving: boolean): void {
    const { block } = this;
    block.left = left;
    block.right = right;
    block.frames = frames;
    this.blend.before(left, right, frames);
    block.frame = position - this.lateFrames;
    if (!moving && !this.notes.idle) this.notes.stop();
    block.moving = moving;
    this.driving.move(block, frames, block.frame, moving, this);
    if (!wasm().loops.isFinite(left.byteOffset, right.byteOffset, frames)) {
      this.kernel.reset();
      left.fill(0, 0, frames);
      right.fill(0, 0, frames);
      this.faults++;
    }
    this.blend.after(left, right, frames);
  }

  /** Lets the kernel work on a part of the block. */
  work(from: number, frames: number): void {
    const { block, part, inputs, partInputs, partSounds } = this;
    if (block.moving && !this.notes.idle) this.notes.play(block.frame + from, frames);
    if (frames === block.frames) {
      this.kernel.process(block.left, block.right, frames, inputs);
      return;
    }
    copy(block, from, part, 0, frames);
    for (let n = 0; n < inputs.length; n++) {
      const input = inputs[n];
      if (input) copy(input, from, partSounds[n]!, 0, frames);
      partInputs[n] = input ? partSounds[n]! : null;
    }
    this.kernel.process(part.left, part.right, frames, partInputs);
    copy(part, 0, block, from, frames);
  }
}

function copy(source: KeySound, from: number, target: KeySound, to: number, frames: number): void {
  const { left, right } = source;
  const { left: toLeft, right: toRight } = target;
  for (let i = 0; i < frames; i++) {
    toLeft[to + i] = left[from + i]!;
    toRight[to + i] = right[from + i]!;
  }
}
