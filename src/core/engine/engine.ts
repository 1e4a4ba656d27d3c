import { MAXIMUM_BLOCK } from '../effects/kernel';
import { ClipSource } from './clipSource';
import { Compensation } from './compensation';
import type { Plan, PlanChange, PlanTrack, Samples } from './plan';
import { Strip } from './strip';

/** Below this peak everywhere the engine counts as silent, and a start begins from clean effects. */
const SILENCE = 1e-5;

class Track {
  readonly strip: Strip;
  readonly source: ClipSource;
  readonly compensation = new Compensation();

  constructor(plan: PlanTrack, sampleRate: number, samples: ReadonlyMap<string, Samples>) {
    this.strip = new Strip(plan, sampleRate);
    this.source = new ClipSource(samples);
  }
}

/**
 * Renders a plan block by block: the same code live, in a worker and in Node, with the same bits. Plans may change
 * while it sounds; whatever keeps its id keeps its state.
 */
export class Engine {
  /** Frame of the session that the sources play next. */
  position = 0;
  playing = false;
  private plan: Plan | null = null;
  private tracks: Track[] = [];
  private main: Strip | null = null;
  private readonly samples = new Map<string, Samples>();
  private readonly trackLeft = new Float32Array(MAXIMUM_BLOCK);
  private readonly trackRight = new Float32Array(MAXIMUM_BLOCK);
  private readonly mixLeft = new Float32Array(MAXIMUM_BLOCK);
  private readonly mixRight = new Float32Array(MAXIMUM_BLOCK);

  constructor(readonly sampleRate: number) {}

  setSamples(assetId: string, samples: Samples): void {
    this.samples.set(assetId, samples);
  }

  /** Takes up a plan. Allocates: call it between blocks. */
  applyPlan(plan: Plan): void {
    if (plan.sampleRate !== this.sampleRate) {
      throw new Error(`The plan is for ${plan.sampleRate} Hz, the engine runs at ${this.sampleRate} Hz`);
    }
    const fresh = this.plan === null;
    const stretch = this.plan === null ? 1 : plan.framesPerBeat / this.plan.framesPerBeat;
    if (stretch !== 1) {
      const moved = Math.round(this.position * stretch);
      if (this.playing) for (const track of this.tracks) track.source.leave(this.position);
      this.position = moved;
      this.arrive();
    }
    const known = new Map(this.tracks.map((track) => [track.strip.id, track]));
    const next = plan.tracks.map((planned) => {
      const track = known.get(planned.id);
      if (track) track.strip.update(planned);
      return track ?? new Track(planned, this.sampleRate, this.samples);
    });
    plan.tracks.forEach((planned, index) => {
      next[index]!.source.setClips(planned.clips, this.position, this.playing && stretch === 1);
    });
    const wanted = new Set(plan.tracks.map((planned) => planned.id));
    for (const track of this.tracks) {
      if (wanted.has(track.strip.id)) continue;
      track.strip.leave();
      next.push(track);
    }
    this.tracks = next;
    if (this.main) this.main.update(plan.main);
    else this.main = new Strip(plan.main, this.sampleRate);
    this.plan = plan;
    this.compensate(fresh);
  }

  /** Makes all tracks as late as the latest. */
  private compensate(fresh: boolean): void {
    const latest = Math.max(0, ...this.tracks.map((track) => track.strip.latencyFrames));
    for (const track of this.tracks) track.compensation.setDelay(latest - track.strip.latencyFrames, fresh);
  }

  /** Frames by which the output is behind the sources. */
  get latencyFrames(): number {
    return Math.max(0, ...this.tracks.map((track) => track.strip.latencyFrames)) + (this.main?.latencyFrames ?? 0);
  }

  /** Seconds for which the effects outlast the sources. */
  get tailSeconds(): number {
    return Math.max(0, ...this.tracks.map((track) => track.strip.tailSeconds)) + (this.main?.tailSeconds ?? 0);
  }

  change(change: PlanChange): void {
    if (change.kind === 'strip') {
      this.strip(change.stripId)?.setLevel(change.gain, change.pan, change.audible);
      return;
    }
    for (const strip of this.strips()) {
      const node = strip.insert(change.insertId);
      if (!node) continue;
      if (change.kind === 'parameter') node.setParameter(change.index, change.value);
      else node.setBypass(change.bypass);
    }
  }

  strips(): Strip[] {
    return [...this.tracks.map((track) => track.strip), ...(this.main ? [this.main] : [])];
  }

  strip(id: string): Strip | undefined {
    return this.strips().find((strip) => strip.id === id);
  }

  get mainStrip(): Strip | null {
    return this.main;
  }

  trackStrip(index: number): Strip | null {
    return this.tracks[index]?.strip ?? null;
  }

  play(): void {
    if (this.playing) return;
    const silent = this.strips().every((strip) => strip.meter.left < SILENCE && strip.meter.right < SILENCE);
    if (silent) for (const strip of this.strips()) strip.reset();
    this.playing = true;
    this.arrive();
  }

  stop(): void {
    if (!this.playing) return;
    for (const track of this.tracks) track.source.leave(this.position);
    this.playing = false;
  }

  seek(frame: number): void {
    if (this.playing) for (const track of this.tracks) track.source.leave(this.position);
    this.position = Math.max(0, Math.round(frame));
    this.arrive();
  }

  private arrive(): void {
    for (const track of this.tracks) {
      track.source.enter(this.position);
      track.strip.locate(this.position);
    }
    this.main?.locate(this.position);
  }

  /** Renders the next `frames` (1 to 128) frames. */
  renderBlock(left: Float32Array, right: Float32Array, frames: number): void {
    const loop = this.plan?.loop;
    if (this.playing && loop && this.position < loop.endFrame && this.position + frames > loop.endFrame) {
      const first = loop.endFrame - this.position;
      this.renderStretch(left, right, 0, first);
      this.seek(loop.startFrame);
      this.renderStretch(left, right, first, frames - first);
      return;
    }
    this.renderStretch(left, right, 0, frames);
    if (this.playing && loop && this.position === loop.endFrame) this.seek(loop.startFrame);
  }

  private renderStretch(left: Float32Array, right: Float32Array, start: number, frames: number): void {
    const { trackLeft, trackRight, mixLeft, mixRight } = this;
    mixLeft.fill(0, 0, frames);
    mixRight.fill(0, 0, frames);
    for (let index = 0; index < this.tracks.length; index++) {
      const track = this.tracks[index]!;
      if (track.strip.gone) {
        this.tracks.splice(index, 1);
        index--;
        continue;
      }
      if (
        track.strip.passive &&
        track.compensation.idle &&
        track.source.silentFor(frames, this.position, this.playing)
      ) {
        track.source.skip(frames, this.playing);
        track.strip.meter.rest(frames);
        continue;
      }
      track.source.render(trackLeft, trackRight, frames, this.position, this.playing);
      track.strip.process(trackLeft, trackRight, frames);
      track.compensation.process(trackLeft, trackRight, frames);
      addTo(mixLeft, trackLeft, frames);
      addTo(mixRight, trackRight, frames);
    }
    this.main?.process(mixLeft, mixRight, frames);
    for (let i = 0; i < frames; i++) {
      left[start + i] = mixLeft[i]!;
      right[start + i] = mixRight[i]!;
    }
    if (this.playing) this.position += frames;
  }
}

function addTo(sum: Float32Array, block: Float32Array, frames: number): void {
  for (let i = 0; i < frames; i++) sum[i] = sum[i]! + block[i]!;
}
