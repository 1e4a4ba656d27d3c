import {
  MAXIMUM_BLOCK,
  type Kernel,
  type KernelEvent,
  type SidechainBlock,
  type MusicalContext,
} from '../effects/kernel';
import { KERNELS } from '../effects/kernels.generated';
import type { Prepared } from '../effects/prepare';
import { meterSlots } from '../effects/meters';
import { effectById } from '../effects/registry';
import type { ResolvedSetting, ResolvedSettings } from '../effects/settings';
import { Arena, type Floats } from '../wasm/arena';
import { wasm } from '../wasm/module';
import { ParameterAutomation, type PartProcessor } from './parameterAutomation';
import { BypassCrossfade } from './bypassCrossfade';
import { NotePlayer } from './notePlayer';
import type { PlanInsert, PlanNote } from './plan';
import type { Probe } from './probe';
import { SilenceGate, type Suspendable } from './silenceGate';

const NO_NOTES: readonly PlanNote[] = [];

/**
 * An insert of a strip: its kernel with parameter automation, bypass crossfade and silence gate. A kernel whose output is not
 * finite is reset, silenced for the block and counted.
 */
export class InsertNode implements Suspendable, PartProcessor {
  readonly id: string;
  readonly kernel: Kernel;
  private readonly memory = new Arena();
  faults = 0;
  isLeaving = false;
  /** Upstream latency in frames at this insert's input. */
  upstreamLatencyFrames = 0;
  /** Probe for the analyser, before and after it, or null. */
  probe: Probe | null = null;
  private bypass: boolean;
  private settings: ResolvedSettings;
  /** Keys of the resource that it needs and of the one that it has. */
  private resource: string | undefined;
  private loadedResource: string | undefined;
  private readonly automation: ParameterAutomation;
  private readonly crossfade: BypassCrossfade;
  private readonly silenceGate: SilenceGate;
  private readonly notes: NotePlayer;
  /** True if it has a sweep of its own, which goes on while the session is stopped. */
  private readonly hasSweep: boolean;
  private readonly slots: readonly string[];
  /** Side chains by slot; null where it gets its own input. */
  private inputs: readonly (SidechainBlock | null)[];
  private hasSidechain = false;
  private wasPlayed = false;
  /** True if its notes sound without input. */
  private readonly playsAlone: boolean;
  /** The current block, and scratch for parts of it and of its side chains. */
  private readonly block: { left: Floats; right: Floats; frames: number; frame: number; moving: boolean };
  private readonly part: { left: Floats; right: Floats };
  private readonly partInputs: (SidechainBlock | null)[];
  private readonly partSidechains: readonly SidechainBlock[];

  /** @param fresh true if nothing plays yet and no fade is needed */
  constructor(
    insert: PlanInsert,
    sampleRate: number,
    music: MusicalContext,
    private readonly resources: ReadonlyMap<string, Prepared>,
    fresh: boolean,
  ) {
    const factory = KERNELS[insert.effect];
    if (!factory) throw new Error(`No kernel for the effect ${insert.effect}`);
    const spec = effectById(insert.effect);
    this.id = insert.id;
    this.hasSweep = meterSlots(spec, 'place') !== null;
    this.playsAlone = spec.soundsAlone === true;
    this.slots = (spec.inputs ?? []).map(({ id }) => id);
    this.inputs = this.slots.map(() => null);
    this.partInputs = this.slots.map(() => null);
    this.bypass = insert.bypass;
    this.settings = insert.settings ?? {};
    try {
      this.part = this.newBlock();
      this.partSidechains = this.slots.map(() => this.newBlock());
      this.block = { ...this.part, frames: 0, frame: 0, moving: false };
      const { values, settings = {} } = insert;
      this.kernel = factory({ sampleRate, values, settings, music, memory: this.memory });
      this.notes = new NotePlayer(this.kernel);
      this.notes.setNotes(insert.notes ?? NO_NOTES);
      this.resource = insert.resource?.key;
      this.loadResource();
      this.silenceGate = new SilenceGate(this.memory, this.kernel, sampleRate);
      this.crossfade = new BypassCrossfade(
        this.memory,
        sampleRate,
        this.kernel.latencyFrames,
        fresh && this.isHeard ? 1 : 0,
      );
    } catch (error) {
      this.memory.free();
      throw error;
    }
    this.updateCrossfade();
    this.crossfade.setDifference(insert.difference ?? false, fresh);
    this.automation = new ParameterAutomation(insert, this.kernel, sampleRate);
  }

  private newBlock(): { left: Floats; right: Floats } {
    return { left: this.memory.floats(MAXIMUM_BLOCK), right: this.memory.floats(MAXIMUM_BLOCK) };
  }

  get isGone(): boolean {
    return this.isLeaving && this.crossfade.settled;
  }

  /** Frees its memory. It cannot be used afterwards. */
  dispose(): void {
    this.memory.free();
  }

  get latencyFrames(): number {
    return this.isLeaving ? 0 : this.kernel.latencyFrames;
  }

  /** True if it can sound without input. */
  get soundsWithoutInput(): boolean {
    return !this.bypass && ((this.playsAlone && !this.notes.idle) || this.kernel.canSleep === undefined);
  }

  get tailSeconds(): number {
    return this.bypass ? 0 : this.kernel.tailSeconds(!this.notes.idle);
  }

  update(insert: PlanInsert): void {
    this.isLeaving = false;
    this.resource = insert.resource?.key;
    this.loadResource();
    this.setBypass(insert.bypass);
    this.crossfade.setDifference(insert.difference ?? false, false);
    this.automation.update(insert);
    this.notes.setNotes(insert.notes ?? NO_NOTES);
    for (const [id, setting] of Object.entries(insert.settings ?? {})) this.setSetting(id, setting);
  }

  /** True if its notes sound without input, or it was just played by hand. */
  private get isPlaying(): boolean {
    return this.wasPlayed || (this.playsAlone && !this.notes.idle);
  }

  /** Sets its side chains, by slot. */
  setSidechains(sounds: ReadonlyMap<string, SidechainBlock>): void {
    this.inputs = this.slots.map((slot) => sounds.get(slot) ?? null);
    this.hasSidechain = this.inputs.some((one) => one !== null);
    this.automation.setFollowerInputs(sounds);
  }

  /** Current value of a parameter, automated and modulated. */
  valueOf(index: number): number {
    return this.automation.valueOf(index);
  }

  setParameter(index: number, value: number): void {
    this.automation.set(index, value);
  }

  moveMacro(id: string, part: number): void {
    this.automation.moveMacro(id, part);
  }

  setSetting(id: string, setting: ResolvedSetting): void {
    if (JSON.stringify(this.settings[id]) === JSON.stringify(setting)) return;
    this.settings = { ...this.settings, [id]: setting };
    this.kernel.setSetting?.(id, setting);
  }

  /** Sets tempo and scale. */
  setMusicalContext(music: MusicalContext): void {
    this.kernel.setMusicalContext?.(music);
  }

  /** Handles a note played by hand, which wakes it. */
  handleEvent(event: KernelEvent): void {
    this.kernel.handleEvent?.(event, 0);
    this.wasPlayed = true;
  }

  /** Follows the kernel's latency; returns true if it has changed. */
  refreshLatency(): boolean {
    if (this.isLeaving || this.kernel.latencyFrames === this.crossfade.latencyFrames) return false;
    this.crossfade.latencyFrames = this.kernel.latencyFrames;
    return true;
  }

  setBypass(bypass: boolean): void {
    this.bypass = bypass;
    this.updateCrossfade();
  }

  fadeOut(): void {
    this.isLeaving = true;
    this.updateCrossfade();
  }

  private updateCrossfade(): void {
    this.crossfade.fadeTo(this.isHeard ? 1 : 0);
  }

  /** False while bypassed, fading out or waiting for its resource: the dry signal plays instead. */
  private get isHeard(): boolean {
    return !this.bypass && !this.isLeaving && (this.resource === undefined || this.loadedResource !== undefined);
  }

  /** Hands its resource to the kernel once it is there. */
  private loadResource(): void {
    const { resource } = this;
    const prepared =
      resource === undefined || resource === this.loadedResource ? undefined : this.resources.get(resource);
    if (!prepared) return;
    this.kernel.setResource?.(prepared);
    this.loadedResource = resource;
  }

  /** The same while playing, with a fade. */
  resourceArrived(): void {
    this.loadResource();
    this.updateCrossfade();
  }

  /** @param position session frame that the sources play next */
  locate(position: number): void {
    this.kernel.locate(position - this.upstreamLatencyFrames);
  }

  /** Resets the kernel; automated parameters are set without ramps. */
  reset(position: number): void {
    this.automation.reset(position - this.upstreamLatencyFrames);
    this.kernel.reset();
  }

  /** True if `frames` frames of silence come out as silence without any work. */
  staysAsleep(frames: number): boolean {
    return !this.hasSidechain && !this.isPlaying && this.silenceGate.staysAsleep(frames);
  }

  process(left: Floats, right: Floats, frames: number, position: number, moving: boolean): void {
    this.probe?.before(left, right, frames);
    this.silenceGate.process(this, left, right, frames, position, moving, this.hasSidechain || this.isPlaying);
    this.wasPlayed = false;
    this.probe?.after(left, right, frames);
  }

  /** Notes that sound now start again when it wakes. */
  suspend(): void {
    this.notes.stop();
    this.kernel.suspend?.();
  }

  wake(position: number, moving: boolean): void {
    this.kernel.locate(moving ? position - this.upstreamLatencyFrames : this.automation.clock);
  }

  /** Skips silence; automation and modulators go on, so that they are shown and resumed in the right place. */
  skipSilence(frames: number, position: number, moving: boolean): void {
    this.crossfade.skip(frames);
    this.automation.process(null, frames, position - this.upstreamLatencyFrames, moving, null);
    if (this.hasSweep) this.kernel.locate(this.automation.clock);
  }

  processAwake(left: Floats, right: Floats, frames: number, position: number, moving: boolean): void {
    const { block } = this;
    block.left = left;
    block.right = right;
    block.frames = frames;
    this.crossfade.captureDry(left, right, frames);
    block.frame = position - this.upstreamLatencyFrames;
    if (!moving && !this.notes.idle) this.notes.stop();
    block.moving = moving;
    this.automation.process(block, frames, block.frame, moving, this);
    if (!wasm().kernels.isFinite(left.byteOffset, right.byteOffset, frames)) {
      this.kernel.reset();
      left.fill(0, 0, frames);
      right.fill(0, 0, frames);
      this.faults++;
    }
    this.crossfade.blend(left, right, frames);
  }

  /** Processes a part of the block. */
  processPart(from: number, frames: number): void {
    const { block, part, inputs, partInputs, partSidechains } = this;
    if (block.moving && !this.notes.idle) this.notes.play(block.frame + from, frames);
    if (frames === block.frames) {
      this.kernel.process(block.left, block.right, frames, inputs);
      return;
    }
    copy(block, from, part, 0, frames);
    for (let n = 0; n < inputs.length; n++) {
      const input = inputs[n];
      if (input) copy(input, from, partSidechains[n]!, 0, frames);
      partInputs[n] = input ? partSidechains[n]! : null;
    }
    this.kernel.process(part.left, part.right, frames, partInputs);
    copy(part, 0, block, from, frames);
  }
}

function copy(source: SidechainBlock, from: number, target: SidechainBlock, to: number, frames: number): void {
  const { left, right } = source;
  const { left: toLeft, right: toRight } = target;
  for (let i = 0; i < frames; i++) {
    toLeft[to + i] = left[from + i]!;
    toRight[to + i] = right[from + i]!;
  }
}
