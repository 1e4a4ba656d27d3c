import { DEFAULT_MUSICAL_CONTEXT, type MusicalContext } from '../effects/kernel';
import type { InsertNode } from './insertNode';
import type { Prepared } from '../effects/prepare';
import { SidechainRoute, Route } from './route';
import { keysOf, neededBy, type Plan, type PlanChange, type PlanStrip, type SoundSource } from './plan';
import type { Probe } from './probe';
import { wasm } from '../wasm/module';
import { Strip } from './strip';

/** Delay before a strip that has thrown is rebuilt; it doubles each time the strip throws again soon. */
const REBUILD_SECONDS = 0.05;
const LONGEST_REBUILD_SECONDS = 5;
const MOST_DOUBLINGS = 10;
/** After this long without a fault a strip counts as mended. */
const MENDED_SECONDS = 10;

/** An error thrown while rendering. */
export interface EngineFault {
  readonly stripId: string;
  /** The effect that threw; null for the rest of a strip. */
  readonly insertId: string | null;
  readonly error: unknown;
  /** Faults of this strip in a row. */
  readonly count: number;
}

/** A pending rebuild: its time in `elapsedFrames`, and the strip's faults in a row. */
interface Repair {
  readonly dueFrame: number;
  readonly count: number;
}

/** Peak below which all strips count as silent; playback then starts from reset effects. */
const SILENCE = 1e-5;

/**
 * Renders a plan block by block: the same code live, in a worker and in Node, with the same bits. Plans may change while it
 * plays; strips and inserts that keep their id keep their state. Latency is compensated on every route, sends and side
 * chains included.
 */
export class Engine {
  /** Session frame that the sources play next. */
  position = 0;
  playing = false;
  private plan: Plan | null = null;
  /** Strips in signal order; the last is the output. */
  private strips: Strip[] = [];
  private routes: Route[] = [];
  private sidechains: SidechainRoute[] = [];
  /** Routes by index of the strip that they leave. */
  private routesByStrip: Route[][] = [];
  private sidechainsByStrip: SidechainRoute[][] = [];
  private outputLatencies: number[] = [];
  private readonly probes = new Map<string, Probe>();
  private readonly samples = new Map<string, SoundSource>();
  private readonly resources = new Map<string, Prepared>();
  private readonly wasmKernels = wasm().kernels;
  /** Pending rebuilds by strip id. */
  private readonly repairs = new Map<string, Repair>();
  /** Frames rendered while rebuilds are pending. */
  private elapsedFrames = 0;
  /** Number of strips rebuilt so far. When it changes, references to strips and effects are out of date. */
  rebuildCount = 0;
  /**
   * Called when a strip has thrown: it is silent from this block on and rebuilt later; all other strips play on. Without a
   * handler, as in a render, the error is thrown on.
   */
  onFault: ((fault: EngineFault) => void) | null = null;

  constructor(readonly sampleRate: number) {}

  setSamples(assetId: string, samples: SoundSource): void {
    this.samples.set(assetId, samples);
  }

  /** Adds a prepared resource; effects use it at once, or once a plan names it. */
  setResource(key: string, prepared: Prepared): void {
    this.resources.set(key, prepared);
    for (const strip of this.strips) strip.resourceArrived();
  }

  private dropResources(needed: ReadonlyMap<string, unknown>): void {
    for (const key of this.resources.keys()) if (!needed.has(key)) this.resources.delete(key);
  }

  dropSamples(assetId: string): void {
    this.samples.delete(assetId);
  }

  get sounds(): ReadonlyMap<string, SoundSource> {
    return this.samples;
  }

  /** Applies a plan. Allocates: call it between blocks. */
  applyPlan(plan: Plan): void {
    if (plan.sampleRate !== this.sampleRate) {
      throw new Error(`The plan is for ${plan.sampleRate} Hz, the engine runs at ${this.sampleRate} Hz`);
    }
    const fresh = this.plan === null;
    const stretch = this.plan === null ? 1 : plan.framesPerBeat / this.plan.framesPerBeat;
    if (stretch !== 1) {
      const moved = Math.round(this.position * stretch);
      if (this.playing) for (const strip of this.strips) strip.source.leave(this.position);
      this.position = moved;
      this.locate();
    }
    this.updateStrips(plan, this.playing && stretch === 1);
    this.updateRoutes(plan, fresh);
    this.plan = plan;
    if (!fresh) this.dropResources(neededBy(plan));
    this.compensateLatencies(fresh);
    this.attachProbes();
  }

  /** Frees all memory. The engine cannot be used afterwards. */
  dispose(): void {
    for (const key of this.sidechains) key.dispose();
    for (const strip of this.strips) strip.dispose();
    this.strips = [];
    this.routes = [];
    this.sidechains = [];
    this.plan = null;
  }

  /** Attaches a probe before and after an effect or a strip; null removes it. */
  setProbe(targetId: string, probe: Probe | null): void {
    if (probe) this.probes.set(targetId, probe);
    else this.probes.delete(targetId);
    this.attachProbes();
  }

  private attachProbes(): void {
    for (const strip of this.strips) {
      strip.probe = this.probes.get(strip.id) ?? null;
      for (const insert of strip.inserts) insert.probe = this.probes.get(insert.id) ?? null;
    }
  }

  /** @param fading clips that are taken away sound on for as long as they fade */
  private updateStrips(plan: Plan, fading: boolean): void {
    const known = new Map(this.strips.map((strip) => [strip.id, strip]));
    const music = musicOf(plan);
    const before = this.plan;
    const same = before?.framesPerBeat === plan.framesPerBeat && sameScale(before.scale, plan.scale);
    if (before && !same) for (const strip of this.strips) strip.setMusicalContext(music);
    const next = plan.strips.map((planned) => {
      const strip = known.get(planned.id) ?? this.newStrip(planned, music);
      if (strip.appliedPlan === planned && !strip.isLeaving) return strip;
      if (known.has(planned.id)) strip.update(planned);
      strip.source.setClips(planned.clips, this.position, fading);
      strip.appliedPlan = planned;
      return strip;
    });
    // A strip that fades out stays ahead of the strips that it feeds.
    for (let index = this.strips.length - 1; index >= 0; index--) {
      const strip = this.strips[index]!;
      if (next.includes(strip)) continue;
      strip.fadeOut();
      const follower = this.strips.slice(index + 1).find((one) => next.includes(one));
      next.splice(follower ? next.indexOf(follower) : 0, 0, strip);
    }
    this.strips = next;
  }

  private updateRoutes(plan: Plan, fresh: boolean): void {
    const known = new Map(this.routes.map((path) => [path.id, path]));
    const next: Route[] = [];
    for (const edge of plan.edges) {
      const from = this.strip(edge.fromId)!;
      const to = this.strip(edge.toId)!;
      const path = known.get(edge.id);
      if (path && path.source === from && path.destination === to && path.tap === edge.tap) {
        path.update(edge);
        next.push(path);
      } else {
        next.push(new Route(edge, from, to, edge.tap, this.sampleRate, fresh));
      }
    }
    for (const path of this.routes) {
      if (next.includes(path)) continue;
      if (!this.strips.includes(path.source) || !this.strips.includes(path.destination)) {
        path.dispose();
        continue;
      }
      path.fadeOut();
      next.push(path);
    }
    this.routes = next;
    const keys: SidechainRoute[] = [];
    for (const planned of plan.strips) {
      for (const one of planned.inserts) {
        const insert = this.strip(planned.id)!.insert(one.id)!;
        const wanted = keysOf(one).flatMap(({ slot, key }) => {
          const from = this.strip(key.stripId);
          if (!from) return [];
          const same = this.sidechains.find(
            (path) => path.insert === insert && path.slot === slot && path.source === from && path.key.tap === key.tap,
          );
          return [same ?? new SidechainRoute(key, from, insert, slot)];
        });
        insert.setSidechains(new Map(wanted.map((path) => [path.slot, path])));
        keys.push(...wanted);
      }
    }
    for (const key of this.sidechains) if (!keys.includes(key)) key.dispose();
    this.sidechains = keys;
  }

  /** Groups routes by source strip and sets the delay of each latency compensator. */
  private compensateLatencies(fresh: boolean): void {
    const { strips, routes, sidechains } = this;
    this.routesByStrip = strips.map((strip) => routes.filter((path) => path.source === strip));
    this.sidechainsByStrip = strips.map((strip) => sidechains.filter((key) => key.source === strip));
    const leaves = new Map<Strip, number>();
    this.outputLatencies = strips.map((strip, place) => {
      strip.hasPreFaderTap =
        this.routesByStrip[place]!.some((path) => path.tap === 'beforeFader') ||
        this.sidechainsByStrip[place]!.some((key) => key.key.tap === 'beforeFader');
      const arrivals = routes.filter((path) => path.destination === strip && !path.isLeaving);
      let late = Math.max(0, ...arrivals.map((path) => leaves.get(path.source) ?? 0));
      for (const { from, ahead } of sidechainsInto(strip, sidechains))
        late = Math.max(late, (leaves.get(from) ?? 0) - ahead);
      strip.setUpstreamLatency(late, fresh);
      for (const path of routes)
        if (path.destination === strip) path.delay.setDelay(late - (leaves.get(path.source) ?? 0), fresh);
      for (const { path, from, ahead } of sidechainsInto(strip, sidechains)) {
        path.delay.setDelay(late + ahead - (leaves.get(from) ?? 0), fresh);
      }
      leaves.set(strip, late + strip.latencyFrames);
      return late + strip.latencyFrames;
    });
  }

  /** Latency of the output, in frames. */
  get latencyFrames(): number {
    return this.outputLatencies.at(-1) ?? 0;
  }

  /** Latency at the output of a strip, in frames. */
  outputLatencyOf(stripId: string): number {
    return this.outputLatencies[this.strips.findIndex(({ id }) => id === stripId)] ?? 0;
  }

  /** Tail of the effects in seconds, along the longest route that carries sound. */
  get tailSeconds(): number {
    const { plan } = this;
    if (!plan) return 0;
    const planned = new Map(plan.strips.map((strip) => [strip.id, strip]));
    const tails = new Map<string, number>();
    for (const strip of this.strips) {
      const own = planned.get(strip.id);
      if (!own) continue;
      const arriving = plan.edges.filter(
        ({ fromId, toId, tap, gain, curve }) =>
          toId === strip.id &&
          tails.has(fromId) &&
          (gain > 0 || curve !== undefined) &&
          (tap === 'beforeFader' || canBeHeard(planned.get(fromId)!)),
      );
      const isFed =
        arriving.length > 0 || own.clips.length > 0 || strip.inserts.some((insert) => insert.soundsWithoutInput);
      if (isFed)
        tails.set(strip.id, Math.max(0, ...arriving.map((edge) => tails.get(edge.fromId)!)) + strip.tailSeconds);
    }
    return tails.get(plan.strips.at(-1)!.id) ?? 0;
  }

  change(change: PlanChange): void {
    switch (change.kind) {
      case 'level': {
        const strip = this.strip(change.stripId);
        if (strip) strip.appliedPlan = null;
        return strip?.setLevel(change);
      }
      case 'edge':
        return this.routes.find((path) => path.id === change.edgeId && !path.isLeaving)?.setGain(change.gain);
      case 'parameter':
        return this.updateInsert(change.insertId, (insert) => insert.setParameter(change.index, change.value));
      case 'setting':
        return this.updateInsert(change.insertId, (insert) => insert.setSetting(change.id, change.setting));
      case 'event':
        for (const strip of this.strips) strip.insert(change.insertId)?.handleEvent(change.event);
        return;
      case 'hand':
        for (const strip of this.strips) {
          for (const insert of strip.inserts) insert.moveMacro(change.id, change.part);
          strip.appliedPlan = null;
        }
        return;
      case 'bypass':
        return this.updateInsert(change.insertId, (insert) => insert.setBypass(change.bypass));
    }
  }

  /** Changes an insert apart from the plan that its strip has applied. */
  private updateInsert(insertId: string, change: (insert: InsertNode) => void): void {
    for (const strip of this.strips) {
      const insert = strip.insert(insertId);
      if (!insert) continue;
      strip.appliedPlan = null;
      change(insert);
    }
  }

  strip(id: string): Strip | undefined {
    return this.strips.find((strip) => strip.id === id);
  }

  play(): void {
    if (this.playing) return;
    const silent = this.strips.every((strip) => strip.meter.left < SILENCE && strip.meter.right < SILENCE);
    if (silent) this.resetState();
    this.playing = true;
    this.locate();
  }

  /** Resets all effects at the current position. */
  resetState(): void {
    for (const strip of this.strips) strip.reset(this.position);
    this.strips.forEach((_, place) => {
      for (const path of this.routesByStrip[place]!) path.reset(this.position - this.outputLatencies[place]!);
    });
    this.locate();
  }

  stop(): void {
    if (!this.playing) return;
    for (const strip of this.strips) strip.source.leave(this.position);
    this.playing = false;
  }

  seek(frame: number): void {
    if (this.playing) for (const strip of this.strips) strip.source.leave(this.position);
    this.position = Math.max(0, Math.round(frame));
    this.locate();
  }

  private locate(): void {
    for (const strip of this.strips) {
      strip.source.enter(this.position);
      strip.locate(this.position);
    }
  }

  /** Renders the next `frames` (1 to LONGEST_BLOCK) frames. */
  renderBlock(left: Float32Array, right: Float32Array, frames: number): void {
    const loop = this.plan?.loop;
    if (this.playing && loop && this.position < loop.endFrame && this.position + frames > loop.endFrame) {
      const first = loop.endFrame - this.position;
      this.renderPart(left, right, 0, first);
      this.seek(loop.startFrame);
      this.renderPart(left, right, first, frames - first);
      return;
    }
    this.renderPart(left, right, 0, frames);
    if (this.playing && loop && this.position === loop.endFrame) this.seek(loop.startFrame);
  }

  private renderPart(left: Float32Array, right: Float32Array, start: number, frames: number): void {
    const { playing, wasmKernels } = this;
    if (this.repairs.size > 0) this.rebuildBroken(frames);
    if (this.refreshLatencies()) this.compensateLatencies(false);
    const { strips } = this;
    for (const strip of strips) {
      wasmKernels.clearSides(strip.left.byteOffset, strip.right.byteOffset, frames);
      strip.isFed = false;
    }
    let departed = false;
    for (let place = 0; place < strips.length; place++) {
      const strip = strips[place]!;
      try {
        if (this.renderStrip(place, frames)) departed = true;
      } catch (error) {
        this.silenceBroken(strip, error, frames);
      }
    }
    const heard = strips.at(-1);
    for (let i = 0; i < frames; i++) {
      left[start + i] = heard ? heard.left[i]! : 0;
      right[start + i] = heard ? heard.right[i]! : 0;
    }
    if (departed) this.removeGone();
    if (playing) this.position += frames;
  }

  /** Renders a strip and its routes; returns true if any of them has faded out and can be removed. */
  private renderStrip(index: number, frames: number): boolean {
    const { position, playing } = this;
    const strip = this.strips[index]!;
    let departed = false;
    strip.process(frames, position, playing);
    const after = position - this.outputLatencies[index]!;
    for (const path of this.routesByStrip[index]!) {
      path.process(frames, after, playing);
      if (path.isGone) departed = true;
    }
    for (const key of this.sidechainsByStrip[index]!) key.process(frames);
    return departed || strip.isGone;
  }

  private silenceBroken(strip: Strip, error: unknown, frames: number): void {
    if (!this.onFault) throw error;
    strip.isBroken = true;
    strip.silence(frames);
    const insertId = strip.processingInsertId;
    const insert = insertId === null ? undefined : strip.insert(insertId);
    if (insert) insert.faults++;
    const { count } = this.scheduleRepair(strip.id);
    this.onFault({ stripId: strip.id, insertId, error, count });
  }

  /** Schedules the rebuild of a strip, later the more often it has thrown. */
  private scheduleRepair(stripId: string): Repair {
    const count = (this.repairs.get(stripId)?.count ?? 0) + 1;
    const seconds = Math.min(LONGEST_REBUILD_SECONDS, REBUILD_SECONDS * (1 << Math.min(MOST_DOUBLINGS, count - 1)));
    const repair = { count, dueFrame: this.elapsedFrames + Math.round(seconds * this.sampleRate) };
    this.repairs.set(stripId, repair);
    return repair;
  }

  /** Rebuilds the strips that are due. Allocates, as applying a plan does. */
  private rebuildBroken(frames: number): void {
    this.elapsedFrames += frames;
    for (const [stripId, { dueFrame }] of [...this.repairs]) {
      const strip = this.strip(stripId);
      if (strip?.isBroken) {
        if (this.elapsedFrames >= dueFrame) this.replaceBroken(strip);
      } else if (!strip || this.elapsedFrames >= dueFrame + MENDED_SECONDS * this.sampleRate)
        this.repairs.delete(stripId);
    }
  }

  private replaceBroken(broken: Strip): void {
    const { plan } = this;
    if (!plan) return;
    const planned = plan.strips.find(({ id }) => id === broken.id);
    const strip = planned && this.rebuildStrip(broken, plan, planned);
    if (strip === null) return;
    if (strip) this.strips = this.strips.map((one) => (one === broken ? strip : one));
    else {
      // It was fading out: it is not rebuilt.
      this.repairs.delete(broken.id);
      this.strips = this.strips.filter((one) => one !== broken);
    }
    this.updateRoutes(plan, false);
    broken.dispose();
    this.compensateLatencies(false);
    this.attachProbes();
    this.rebuildCount++;
  }

  /** The replacement of a broken strip; null if it throws as well, and is tried again later. */
  private rebuildStrip(broken: Strip, plan: Plan, planned: PlanStrip): Strip | null {
    let strip: Strip | null = null;
    try {
      strip = this.newStrip(planned, musicOf(plan));
      strip.source.setClips(planned.clips, this.position, false);
      strip.appliedPlan = planned;
      strip.takeOverFrom(broken);
      strip.source.enter(this.position);
      strip.locate(this.position);
      return strip;
    } catch (error) {
      strip?.dispose();
      const { count } = this.scheduleRepair(broken.id);
      this.onFault?.({ stripId: broken.id, insertId: null, error, count });
      return null;
    }
  }

  private newStrip(planned: PlanStrip, music: MusicalContext): Strip {
    return new Strip(planned, this.sampleRate, this.samples, music, this.resources);
  }

  /** True if the latency of an effect has changed with its parameters. */
  private refreshLatencies(): boolean {
    let changed = false;
    for (const strip of this.strips) if (strip.refreshLatency()) changed = true;
    return changed;
  }

  private removeGone(): void {
    for (const strip of this.strips) if (strip.isGone) strip.dispose();
    this.strips = this.strips.filter((strip) => !strip.isGone);
    this.routes = this.routes.filter((path) => {
      const stays = !path.isGone && this.strips.includes(path.source) && this.strips.includes(path.destination);
      if (!stays) path.dispose();
      return stays;
    });
    this.compensateLatencies(false);
  }
}

/** Tempo and scale of a plan, for its effects. */
const musicOf = ({ framesPerBeat, scale = DEFAULT_MUSICAL_CONTEXT.scale }: Plan): MusicalContext => ({
  framesPerBeat,
  scale,
});

/** False for a strip that is muted throughout. */
const canBeHeard = ({ audible, curves }: PlanStrip): boolean => audible || curves?.audible !== undefined;

function sameScale(a: readonly number[] | undefined, b: readonly number[] | undefined): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

/** The side chains into a strip, each with the latency of the inserts ahead of its effect, in frames. */
function* sidechainsInto(
  strip: Strip,
  keys: readonly SidechainRoute[],
): Generator<{ path: SidechainRoute; from: Strip; ahead: number }> {
  let ahead = 0;
  for (const node of strip.inserts) {
    for (const path of keys) if (path.insert === node) yield { path, from: path.source, ahead };
    ahead += node.latencyFrames;
  }
}
