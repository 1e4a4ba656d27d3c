import { messageOf } from '@/core/errors';
import { MAXIMUM_BLOCK } from '@/core/effects/kernel';
import { Engine } from '@/core/engine/engine';
import { MAXIMUM_STRIPS, METER, METER_HEADER } from '@/core/protocol/meters';
import {
  ENGINE_PROCESSOR,
  type EngineProcessorOptions,
  type FromWorklet,
  type ToWorklet,
} from '@/core/protocol/worklet';

/** Blocks between two readings of the load: about a second. */
const LOAD_BLOCKS = 384;

/** Runs the engine in the audio thread: messages in, sound out, levels and playhead through shared memory. */
class EngineProcessor extends AudioWorkletProcessor {
  private readonly engine = new Engine(sampleRate);
  private readonly meters: Float64Array;
  private tracks = 0;
  private busyMs = 0;
  private blocks = 0;

  constructor(options: AudioWorkletNodeOptions) {
    super(options);
    const { meters } = options.processorOptions as EngineProcessorOptions;
    this.meters = new Float64Array(meters);
    this.port.onmessage = ({ data }: MessageEvent<ToWorklet>) => {
      try {
        this.receive(data);
      } catch (error) {
        const failure: FromWorklet = { kind: 'failure', message: messageOf(error) };
        this.port.postMessage(failure);
      }
    };
  }

  private receive(message: ToWorklet): void {
    switch (message.kind) {
      case 'plan':
        this.engine.applyPlan(message.plan);
        this.tracks = message.plan.tracks.length;
        this.meters[METER.plans]!++;
        return;
      case 'changes':
        for (const change of message.changes) this.engine.change(change);
        return;
      case 'samples':
        this.engine.setSamples(message.assetId, { left: message.left, right: message.right });
        return;
      case 'play':
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
      if (frames === left.length) this.engine.renderBlock(left, right, frames);
      else this.engine.renderBlock(left.subarray(at, at + frames), right.subarray(at, at + frames), frames);
    }
    this.busyMs += Date.now() - before;
    this.report(left.length);
    return true;
  }

  private report(frames: number): void {
    const { engine, meters } = this;
    meters[METER.positionFrame] = engine.position;
    meters[METER.playing] = engine.playing ? 1 : 0;
    meters[METER.latencyFrames] = engine.latencyFrames;
    const main = engine.mainStrip;
    if (main) {
      meters[METER.overs] = main.meter.overs;
      meters[METER_HEADER] = main.meter.left;
      meters[METER_HEADER + 1] = main.meter.right;
    }
    for (let index = 0; index < Math.min(this.tracks, MAXIMUM_STRIPS - 1); index++) {
      const strip = engine.trackStrip(index);
      if (!strip) continue;
      meters[METER_HEADER + 2 * (index + 1)] = strip.meter.left;
      meters[METER_HEADER + 2 * (index + 1) + 1] = strip.meter.right;
    }
    meters[METER.blocks]!++;
    this.blocks++;
    if (this.blocks < LOAD_BLOCKS) return;
    meters[METER.load] = this.busyMs / 1000 / ((this.blocks * frames) / sampleRate);
    this.blocks = 0;
    this.busyMs = 0;
  }
}

registerProcessor(ENGINE_PROCESSOR, EngineProcessor);
