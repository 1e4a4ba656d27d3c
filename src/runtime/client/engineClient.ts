import type { KernelEvent } from '@/core/effects/kernel';
import { meterSlots, type MeterKind } from '@/core/effects/meters';
import { effectById } from '@/core/effects/registry';
import type { Prepared } from '@/core/effects/prepare';
import { movedParameters, neededBy, type Plan, type PlanInsert, type SoundSource } from '@/core/engine/plan';
import { changesBetween, deltaOf } from '@/core/engine/planChanges';
import { isPaged, type PageMemory } from '@/core/pages/pagedSamples';
import { lossOf } from '@/core/engine/monoMeter';
import { newProbeMemory, Probe } from '@/core/engine/probe';
import { KinetikonError, messageOf } from '@/core/errors';
import {
  GUARD_STATES,
  METER,
  INSERT_FAULTS,
  METER_HEADER,
  MONO_SHARES,
  MODULATED_VALUES,
  CLIPPED_SAMPLES,
  METER_SLOTS,
  effectMeterSlots,
} from '@/core/protocol/meters';
import {
  ENGINE_PROCESSOR,
  type EngineProcessorOptions,
  type FromWorklet,
  type ToWorklet,
  WARM_STEPS,
} from '@/core/protocol/worklet';
import { compiledKernels } from './kernels';

/** `off` before the first start; `waiting` when the browser holds sound back; `lost` when the audio thread ended. */
export type EngineState = 'off' | 'running' | 'waiting' | 'lost';

const SILENT = { left: 0, right: 0 };

export interface EngineEvents {
  onState(state: EngineState): void;
  onProblem(error: KinetikonError): void;
  /** A strip threw; it is being built anew. */
  onFault(fault: Extract<FromWorklet, { kind: 'fault' }>): void;
}

/** Interval of the check that blocks are rendered, in ms, and checks without any after which sound counts as stopped. */
const LOOK_MS = 500;
const STILL_LOOKS = 10;
/** A second loss within this time, in ms, is not recovered from without Play. */
const AGAIN_MS = 5000;

/** Rest between two steps of the warm-up. */
const WARM_PAUSE_MS = 20;

/** The engine in the audio thread, as the interface sees it. Survives a lost context: the next start builds anew. */
export class EngineClient {
  readonly meters = new Float64Array(new SharedArrayBuffer(METER_SLOTS * 8));
  /** Probes by insert or strip, with the number of their users. */
  private readonly watched = new Map<
    string,
    { readonly memory: SharedArrayBuffer; readonly probe: Probe; by: number }
  >();
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private plan: Plan | null = null;
  /** The last plan that was sent as such. */
  private sent: Plan | null = null;
  private stripSlots: ReadonlyMap<string, number> = new Map();
  private insertSlots: ReadonlyMap<string, number> = new Map();
  /** First meter slot of each insert, and its effect. */
  private toldSlots: ReadonlyMap<string, { readonly at: number; readonly effect: string }> = new Map();
  private movedSlots: ReadonlyMap<string, number> = new Map();
  private readonly samples = new Map<string, SoundSource>();
  private pageMemory: PageMemory | null = null;
  private readonly resources = new Map<string, Prepared>();
  private guarded = true;
  private listening: Prepared | null = null;
  private starting: Promise<void> | null = null;
  private watching: ReturnType<typeof setInterval> | undefined;
  private recoveredAt = -Infinity;

  constructor(private readonly events: EngineEvents) {}

  get state(): EngineState {
    if (!this.context || !this.node) return 'off';
    return this.context.state === 'running' ? 'running' : 'waiting';
  }

  /** Loads the engine into the audio thread; sound stays off until `play`. */
  async prepare(): Promise<void> {
    const rate = this.plan?.sampleRate;
    if (rate === undefined) return;
    if (this.context && this.context.sampleRate !== rate) await this.dispose();
    this.starting ??= this.load(rate).catch((error: unknown) => {
      this.starting = null;
      throw error;
    });
    return this.starting;
  }

  private async load(rate: number): Promise<void> {
    const kernels = await compiledKernels();
    let context: AudioContext;
    try {
      context = new AudioContext({ sampleRate: rate, latencyHint: 'interactive' });
      await context.audioWorklet.addModule('/audio/worklet.js');
    } catch (error) {
      throw new KinetikonError('engine.unavailable', `Sound could not be started at ${rate} Hz: ${messageOf(error)}`, {
        kept: 'The session is untouched.',
        next: 'Check the audio device, then press play again.',
        cause: error,
      });
    }
    const processorOptions: EngineProcessorOptions = {
      meters: this.meters.buffer as SharedArrayBuffer,
      kernels,
      frame: this.meters[METER.positionFrame]!,
    };
    const node = new AudioWorkletNode(context, ENGINE_PROCESSOR, {
      numberOfInputs: 0,
      numberOfOutputs: 1,
      outputChannelCount: [2],
      processorOptions,
    });
    node.port.onmessage = ({ data }: MessageEvent<FromWorklet>) => {
      if (data.kind === 'fault') {
        // The strip is rebuilt from the plan it has: it gets the one of now, with all changes since.
        this.sent = null;
        if (this.plan) this.send(this.plan);
        this.events.onFault(data);
      } else
        this.events.onProblem(new KinetikonError('engine.stopped', `The engine refused a change: ${data.message}`));
    };
    const gone = (reason: string) => {
      if (this.context === context) void this.recover(reason);
    };
    node.onprocessorerror = () => gone('the audio thread stopped');
    context.onstatechange = () => {
      if (context.state === 'closed') gone('the audio device was lost');
      else this.events.onState(this.state);
    };
    context.addEventListener('error', () => gone('the audio device was lost'));
    node.connect(context.destination);
    this.context = context;
    this.node = node;
    this.watchBlocks(context);
    if (this.pageMemory) this.post({ kind: 'pageMemory', memory: this.pageMemory });
    for (const [assetId, sound] of this.samples) this.sendSamples(assetId, sound);
    for (const [key, prepared] of this.resources) this.post({ kind: 'resource', key, prepared });
    this.sent = null;
    if (this.plan) this.send(this.plan);
    for (const [targetId, { memory }] of this.watched) this.post({ kind: 'probe', targetId, memory });
    this.post({ kind: 'guard', on: this.guarded });
    if (this.listening) this.post({ kind: 'listen', prepared: this.listening });
  }

  /** Checks that blocks are rendered: a lost device or a machine that slept may stop them without an event. */
  private watchBlocks(context: AudioContext): void {
    let blocks = this.meters[METER.blocks]!;
    let still = 0;
    clearInterval(this.watching);
    this.watching = setInterval(() => {
      const now = this.meters[METER.blocks]!;
      still = context.state === 'running' && now === blocks ? still + 1 : 0;
      blocks = now;
      if (still >= STILL_LOOKS) void this.recover('the audio device stopped');
    }, LOOK_MS);
  }

  /** Builds the audio thread anew after it was lost, and plays on from where it was. */
  private async recover(reason: string): Promise<void> {
    const { playing, context } = this;
    if (!context) return;
    const frame = this.meters[METER.positionFrame]!;
    await this.dispose();
    this.meters[METER.positionFrame] = frame;
    this.events.onState('lost');
    const recent = performance.now() - this.recoveredAt < AGAIN_MS;
    this.recoveredAt = performance.now();
    try {
      if (recent) throw new Error('it stopped again at once');
      await this.prepare();
      if (playing) await this.play();
      this.events.onProblem(
        new KinetikonError('engine.recovered', `Sound stopped: ${reason}. It was started again.`, {
          kept: playing ? 'It plays on from the same place.' : 'The session is untouched.',
        }),
      );
    } catch (error) {
      this.events.onProblem(
        new KinetikonError('engine.stopped', `Sound stopped: ${reason}, and could not be started again.`, {
          kept: 'The session is untouched.',
          next: 'Check the audio device, then press play.',
          cause: error,
        }),
      );
    }
  }

  /** Lets the engine work through the plan unheard, a little at a time, until it is to sound. */
  async warmUp(): Promise<void> {
    for (let step = 0; step < WARM_STEPS && this.state === 'waiting'; step++) {
      this.post({ kind: 'warm' });
      await new Promise((resolve) => setTimeout(resolve, WARM_PAUSE_MS));
    }
  }

  private post(message: ToWorklet): void {
    this.node?.port.postMessage(message);
  }

  /** Sends what the audio thread does not have of a plan. */
  private send(plan: Plan): void {
    if (!this.node) return;
    this.post({ kind: 'plan', plan: deltaOf(this.sent, plan) });
    this.sent = plan;
  }

  /** Hands over a plan; when only values differ from the last one, only those travel. */
  setPlan(plan: Plan): void {
    const changes = this.plan ? changesBetween(this.plan, plan) : null;
    const rateChanged = this.plan !== null && this.plan.sampleRate !== plan.sampleRate;
    this.plan = plan;
    if (changes === null) this.takeSlots(plan);
    if (rateChanged) {
      this.samples.clear();
      void this.dispose();
    } else if (changes === null) {
      this.send(plan);
    } else if (changes.length > 0) {
      this.post({ kind: 'changes', changes });
    }
  }

  /** Locates the meters of strips and effects, which are read at display rate. */
  private takeSlots(plan: Plan): void {
    const inserts = plan.strips.flatMap((strip) => strip.inserts);
    this.stripSlots = new Map(plan.strips.map(({ id }, place) => [id, place]));
    this.insertSlots = new Map(inserts.map(({ id }, place) => [id, place]));
    this.toldSlots = new Map(
      effectMeterSlots(inserts).map(({ at }, place) => [inserts[place]!.id, { at, effect: inserts[place]!.effect }]),
    );
    this.movedSlots = new Map(
      movedParameters(plan).map(({ insertId, index }, place) => [`${insertId} ${index}`, MODULATED_VALUES + place]),
    );
  }

  setSamples(assetId: string, samples: SoundSource): void {
    this.samples.set(assetId, samples);
    this.sendSamples(assetId, samples);
  }

  private sendSamples(assetId: string, samples: SoundSource): void {
    if (isPaged(samples)) {
      const { frames, sides, table } = samples;
      this.post({ kind: 'paged', assetId, frames, sides, table });
    } else this.post({ kind: 'samples', assetId, left: samples.left, right: samples.right });
  }

  /** Memory in which the pages of long sounds lie; it has grown. */
  setPageMemory(memory: PageMemory): void {
    this.pageMemory = memory;
    this.post({ kind: 'pageMemory', memory });
  }

  /** Lets a sound go that nothing plays. */
  dropSamples(assetId: string): void {
    if (this.samples.delete(assetId)) this.post({ kind: 'drop', assetId });
  }

  /** Hands over what has been prepared for effects; it is kept for as long as a plan needs it. */
  setResource(key: string, prepared: Prepared): void {
    this.resources.set(key, prepared);
    this.post({ kind: 'resource', key, prepared });
  }

  /** Inserts of the plan whose resource has not been handed over yet. */
  missingResources(): PlanInsert[] {
    const needed = this.plan ? neededBy(this.plan) : new Map<string, PlanInsert>();
    for (const key of this.resources.keys()) if (!needed.has(key)) this.resources.delete(key);
    return [...needed].flatMap(([key, insert]) => (this.resources.has(key) ? [] : [insert]));
  }

  /** Starts sounding; the browser may ask for a gesture first. */
  async play(): Promise<void> {
    await this.prepare();
    await this.context?.resume();
    this.post({ kind: 'play' });
    this.events.onState(this.state);
  }

  /** Lets the effects be heard without playing the session, as for keys that are played by hand. */
  async wake(): Promise<void> {
    await this.prepare();
    if (this.context?.state === 'running') return;
    await this.context?.resume();
    this.events.onState(this.state);
  }

  /** Lets an effect play what a hand has just played. */
  happen(insertId: string, event: KernelEvent): void {
    this.post({ kind: 'changes', changes: [{ kind: 'event', insertId, event }] });
  }

  /** Seconds from a key to its sound that the device and the browser take. */
  get outputSeconds(): number {
    const { context } = this;
    return context ? context.baseLatency + (context.outputLatency || 0) : 0;
  }

  stop(): void {
    this.post({ kind: 'stop' });
  }

  seek(frame: number): void {
    this.meters[METER.positionFrame] = frame;
    this.post({ kind: 'seek', frame });
  }

  /** Frame heard now: what the sources play, less what the effects hold back. */
  get heardFrame(): number {
    const frame = this.meters[METER.positionFrame]!;
    return this.playing ? Math.max(0, frame - this.meters[METER.latencyFrames]!) : frame;
  }

  get playing(): boolean {
    return this.meters[METER.playing] === 1;
  }

  /** Seconds for which the effects outlast the last clip or note; Infinity until that is over. */
  get tailSeconds(): number {
    return this.meters[METER.tailSeconds]!;
  }

  /** Peak of a strip now. */
  level(stripId: string): { left: number; right: number } {
    const place = this.stripSlots.get(stripId);
    if (place === undefined) return SILENT;
    const at = METER_HEADER + 2 * place;
    return { left: this.meters[at]!, right: this.meters[at + 1]! };
  }

  /** Decibels that a strip has lost in mono over the last seconds; 0 while nothing is known. */
  monoLoss(stripId: string): number {
    const place = this.stripSlots.get(stripId);
    return place === undefined || this.state !== 'running' ? 0 : lossOf(this.meters[MONO_SHARES + place]!);
  }

  /** Samples of a strip beyond full scale so far. */
  overs(stripId: string): number {
    const place = this.stripSlots.get(stripId);
    return place === undefined ? 0 : this.meters[CLIPPED_SAMPLES + place]!;
  }

  /** Resets of an effect after invalid output. */
  faults(insertId: string): number {
    const place = this.insertSlots.get(insertId);
    return place === undefined ? 0 : this.meters[INSERT_FAULTS + place]!;
  }

  /** The guard of the output has stopped the sound. */
  get guardTripped(): boolean {
    return this.meters[METER.guard] === GUARD_STATES.tripped;
  }

  /** Lets the output be heard in a listening place; null is the plain one. Nothing of it is in a bounce. */
  listen(prepared: Prepared | null): void {
    this.listening = prepared;
    this.post({ kind: 'listen', prepared });
  }

  /** Turns the guard on, which stops output over +6 dBFS. */
  setGuard(on: boolean): void {
    this.guarded = on;
    this.post({ kind: 'guard', on });
  }

  /** Lets the sound be heard again that the guard has stopped; effects begin from silence. */
  resume(): void {
    this.post({ kind: 'resume' });
  }

  /** Times the sound broke off so far. */
  get dropOuts(): number {
    return this.meters[METER.dropOuts]!;
  }

  /**
   * Current value of an effect's meter.
   * @param figure index within a meter of several slots
   * @returns null while the engine is not running, or if the effect has no such meter
   */
  meterValue(insertId: string, kind: MeterKind, figure = 0): number | null {
    const slot = this.toldSlots.get(insertId);
    const slots = slot && meterSlots(effectById(slot.effect), kind);
    if (!slots || this.state !== 'running') return null;
    return this.meters[slot.at + slots.at + figure]!;
  }

  /** Current value of a modulated parameter, by its index; null if it is not modulated or the engine is not running. */
  movedValue(insertId: string, index: number): number | null {
    const at = this.movedSlots.get(`${insertId} ${index}`);
    return at === undefined || this.state !== 'running' ? null : this.meters[at]!;
  }

  /** Watches the sound before and after an effect or a strip, until what is returned is called. */
  watch(targetId: string): { readonly probe: Probe; readonly end: () => void } {
    const memory = newProbeMemory();
    const one = this.watched.get(targetId) ?? { memory, probe: new Probe(memory), by: 0 };
    one.by++;
    this.watched.set(targetId, one);
    if (one.by === 1) this.post({ kind: 'probe', targetId, memory });
    const end = () => {
      one.by--;
      if (one.by > 0) return;
      this.watched.delete(targetId);
      this.post({ kind: 'probe', targetId, memory: null });
    };
    return { probe: one.probe, end };
  }

  async dispose(): Promise<void> {
    const { context } = this;
    this.node?.disconnect();
    this.node = null;
    this.context = null;
    this.starting = null;
    clearInterval(this.watching);
    this.meters[METER.playing] = 0;
    if (context) {
      context.onstatechange = null;
      if (context.state !== 'closed') await context.close();
    }
  }
}
