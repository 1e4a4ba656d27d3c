import { messageOf } from '@/core/errors';
import { heapOfThread } from '@/core/wasm/arena';
import type { Heap } from '@/core/wasm/heap';
import { provideWasm } from '@/core/wasm/module';
import { MAXIMUM_BLOCK } from '@/core/effects/kernel';
import { Engine } from '@/core/engine/engine';
import type { InsertNode } from '@/core/engine/insertNode';
import { OutputGuard } from '@/core/engine/outputGuard';
import { Monitor } from '@/core/listening/monitor';
import { Probe } from '@/core/engine/probe';
import type { Strip } from '@/core/engine/strip';
import { movedParameters, type Plan } from '@/core/engine/plan';
import { withDelta } from '@/core/engine/planChanges';
import type { PageMemory } from '@/core/pages/pagedSamples';
import { DropOuts } from './dropOuts';
import { WarmUp } from './warmUp';
import {
  GUARD_STATES,
  MAXIMUM_INSERTS,
  MAXIMUM_MODULATED,
  MAXIMUM_STRIPS,
  METER,
  INSERT_FAULTS,
  METER_HEADER,
  MONO_SHARES,
  MODULATED_VALUES,
  CLIPPED_SAMPLES,
  effectMeterSlots,
} from '@/core/protocol/meters';
import {
  ENGINE_PROCESSOR,
  type EngineProcessorOptions,
  type FromWorklet,
  type ToWorklet,
} from '@/core/protocol/worklet';

/** Blocks between two measurements of the load: about a second. */
const LOAD_BLOCKS = 384;

/** Blocks between two reads of effects' meters: still more often than a screen shows them. */
const TELL_BLOCKS = 4;

/** Bytes of freed memory that are zeroed in every block. */
const ZEROED_BYTES = 32768;

/** Runs the engine in the audio thread: messages in, sound out, levels and playhead through shared memory. */
class EngineProcessor extends AudioWorkletProcessor {
  private readonly engine: Engine;
  private readonly heap: Heap;
  private plan: Plan | null = null;
  private readonly warmUp = new WarmUp();
  private readonly meters: Float64Array;
  /** In the order of the plan. */
  private strips: readonly Strip[] = [];
  private inserts: readonly InsertNode[] = [];
  /** Meter slots of each insert, as views of the shared memory. */
  private meterViews: readonly Float64Array[] = [];
  private moved: readonly { readonly node: InsertNode; readonly index: number }[] = [];
  private readonly guard: OutputGuard;
  private readonly monitor: Monitor;
  private readonly dropOuts = new DropOuts(sampleRate);
  /** Memory of the sounds that are read by pages. */
  private readonly pages: PageMemory = { chunks: [], counters: new Int32Array(1) };
  /** The engine's rebuild count when the inserts were last listed. */
  private rebuilt = 0;
  private busyMs = 0;
  private blocks = 0;

  constructor(options: AudioWorkletNodeOptions) {
    super(options);
    const { meters, kernels, frame } = options.processorOptions as EngineProcessorOptions;
    provideWasm(() => kernels);
    this.meters = new Float64Array(meters);
    this.engine = new Engine(sampleRate);
    this.engine.seek(frame);
    this.heap = heapOfThread();
    this.monitor = new Monitor(sampleRate);
    this.guard = new OutputGuard(sampleRate);
    this.engine.onFault = ({ stripId, insertId, error, count }) =>
      this.tell({ kind: 'fault', stripId, insertId, message: messageOf(error), count });
    this.port.onmessage = ({ data }: MessageEvent<ToWorklet>) => {
      try {
        this.receive(data);
      } catch (error) {
        this.tell({ kind: 'failure', message: messageOf(error) });
      }
    };
  }

  private tell(message: FromWorklet): void {
    this.port.postMessage(message);
  }

  /** Takes up strips and effects whose meters are told. */
  private takeNodes(plan: Plan): void {
    this.strips = plan.strips.slice(0, MAXIMUM_STRIPS).map(({ id }) => this.engine.strip(id)!);
    this.inserts = plan.strips
      .flatMap((strip) => strip.inserts.map(({ id }) => this.engine.strip(strip.id)!.insert(id)!))
      .slice(0, MAXIMUM_INSERTS);
    this.meterViews = effectMeterSlots(plan.strips.flatMap((strip) => strip.inserts)).map(({ at, count }) =>
      this.meters.subarray(at, at + count),
    );
    this.moved = movedParameters(plan)
      .slice(0, MAXIMUM_MODULATED)
      .flatMap(({ insertId, index }) => {
        const node = this.inserts.find((one) => one.id === insertId);
        return node ? [{ node, index }] : [];
      });
    this.rebuilt = this.engine.rebuildCount;
  }

  private receive(message: ToWorklet): void {
    switch (message.kind) {
      case 'plan':
        this.plan = withDelta(this.plan, message.plan);
        this.engine.applyPlan(this.plan);
        this.takeNodes(this.plan);
        this.meters[METER.plans]!++;
        return;
      case 'changes':
        for (const change of message.changes) this.engine.change(change);
        return;
      case 'samples':
        this.engine.setSamples(message.assetId, { left: message.left, right: message.right });
        return;
      case 'paged': {
        const { assetId, frames, sides, table } = message;
        this.engine.setSamples(assetId, { frames, sides, table, memory: this.pages });
        return;
      }
      case 'pageMemory':
        // The sounds hold this very object.
        Object.assign(this.pages, message.memory);
        return;
      case 'drop':
        return this.engine.dropSamples(message.assetId);
      case 'resource':
        return this.engine.setResource(message.key, message.prepared);
      case 'probe':
        return this.engine.setProbe(message.targetId, message.memory && new Probe(message.memory));
      case 'listen':
        return this.monitor.listen(message.prepared);
      case 'guard':
        this.guard.on = message.on;
        return;
      case 'resume':
        this.engine.resetState();
        return this.guard.resume();
      case 'warm':
        if (this.plan) this.warmUp.step(this.plan, this.engine.sounds);
        return;
      case 'play':
        this.warmUp.end();
        return this.engine.play();
      case 'stop':
        return this.engine.stop();
      case 'seek':
        return this.engine.seek(message.frame);
    }
  }

  override process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const left = outputs[0]![0]!;
    const right = outputs[0]![1]!;
    // There is no finer clock here. Single readings are coarse; their sum over many blocks is right on average.
    const before = Date.now();
    for (let at = 0; at < left.length; at += MAXIMUM_BLOCK) {
      const frames = Math.min(MAXIMUM_BLOCK, left.length - at);
      const [l, r] =
        frames === left.length ? [left, right] : [left.subarray(at, at + frames), right.subarray(at, at + frames)];
      this.engine.renderBlock(l, r, frames);
      this.monitor.process(l, r, frames);
    }
    if (this.plan && this.rebuilt !== this.engine.rebuildCount) this.takeNodes(this.plan);
    this.guard.process(left, right, left.length);
    this.heap.zeroFreed(ZEROED_BYTES);
    this.busyMs += Date.now() - before;
    if (this.engine.playing) this.dropOuts.take(before, left.length);
    else this.dropOuts.rest();
    this.report(left.length);
    return true;
  }

  private report(frames: number): void {
    const { engine, meters } = this;
    meters[METER.positionFrame] = engine.position;
    meters[METER.playing] = engine.playing ? 1 : 0;
    meters[METER.latencyFrames] = engine.latencyFrames;
    const { on, tripped } = this.guard;
    meters[METER.guard] = tripped ? GUARD_STATES.tripped : on ? GUARD_STATES.on : GUARD_STATES.off;
    meters[METER.dropOuts] = this.dropOuts.count;
    for (let index = 0; index < this.strips.length; index++) {
      const { meter, mono } = this.strips[index]!;
      meters[METER_HEADER + 2 * index] = meter.left;
      meters[METER_HEADER + 2 * index + 1] = meter.right;
      meters[CLIPPED_SAMPLES + index] = meter.clippedSamples;
      meters[MONO_SHARES + index] = mono.left;
    }
    for (let index = 0; index < this.inserts.length; index++) {
      meters[INSERT_FAULTS + index] = this.inserts[index]!.faults;
    }
    if (this.blocks % TELL_BLOCKS === 0) {
      for (let index = 0; index < this.meterViews.length; index++)
        this.inserts[index]!.kernel.readMeters?.(this.meterViews[index]!);
    }
    for (let place = 0; place < this.moved.length; place++) {
      const { node, index } = this.moved[place]!;
      meters[MODULATED_VALUES + place] = node.valueOf(index);
    }
    meters[METER.blocks]!++;
    this.blocks++;
    if (this.blocks < LOAD_BLOCKS) return;
    meters[METER.tailSeconds] = engine.position < (this.plan?.endFrame ?? 0) ? Infinity : engine.tailSeconds;
    meters[METER.load] = this.busyMs / 1000 / ((this.blocks * frames) / sampleRate);
    this.blocks = 0;
    this.busyMs = 0;
  }
}

registerProcessor(ENGINE_PROCESSOR, EngineProcessor);
