import { PLAIN_MUSIC, type Music } from '../effects/kernel';
import type { InsertNode } from './insertNode';
import type { Prepared } from '../effects/prepare';
import { KeyPath, Path } from './path';
import { keysOf, neededBy, type Plan, type PlanChange, type PlanStrip, type Samples } from './plan';
import type { Probe } from './probe';
import { wasm } from '../wasm/module';
import { Strip } from './strip';

/** A strip that has thrown is built anew after so long, and after twice as long each time that it throws again soon. */
const REBUILD_SECONDS = 0.05;
const LONGEST_REBUILD_SECONDS = 5;
const MOST_DOUBLINGS = 10;
/** A strip that has worked for so long again counts as mended. */
const MENDED_SECONDS = 10;

/** Something that was thrown while sound runs. */
export interface EngineFault {
  readonly stripId: string;
  /** The effect that was at work; null for the rest of a strip. */
  readonly insertId: string | null;
  readonly error: unknown;
  /** Faults of this strip in a row. */
  readonly count: number;
}

/** When a strip that has thrown is rebuilt, in frames of `elapsed`, and its faults in a row. */
interface Repair {
  readonly dueFrame: number;
  readonly count: number;
}

/** Below this peak everywhere the engine counts as silent, and a start begins from clean effects. */
const SILENCE = 1e-5;

/**
 * Renders a plan block by block: the same code live, in a worker and in Node, with the same bits. Plans may change
 * while it sounds; whatever keeps its id keeps its state. Every path is held back so that what started together
 * arrives together, sends and keys included.
 */
export class Engine {
  /** Frame of the session that the sources play next. */
  position = 0;
  playing = false;
  private plan: Plan | null = null;
  /** In signal order; the last is what is heard. */
  private strips: Strip[] = [];
  private paths: Path[] = [];
  private keys: KeyPath[] = [];
  /** By place of the strip: what leaves it. */
  private outgoing: Path[][] = [];
  private keying: KeyPath[][] = [];
  private outputLateness: number[] = [];
  private readonly probes = new Map<string, Probe>();
  private readonly samples = new Map<string, Samples>();
  private readonly resources = new Map<string, Prepared>();
  private readonly loops = wasm().loops;
  /** By strip; those that are long mended go. */
  private readonly repairs = new Map<string, Repair>();
  /** Frames rendered while repairs are due. */
  private elapsed = 0;
  /** Number of strips rebuilt so far. When it changes, references to strips and effects are out of date. */
  rebuilt = 0;
  /**
   * Told when a strip has thrown: it is silent from this block on and built anew a little later, and everything else
   * sounds on. Where nobody is told, as in a render, what is thrown ends it.
   */
  onFault: ((fault: EngineFault) => void) | null = null;

  constructor(readonly sampleRate: number) {}

  setSamples(assetId: string, samples: Samples): void {
    this.samples.set(assetId, samples);
  }

  /** Hands over what has been prepared for effects; they take it up at once, or when a plan names it. */
  setResource(key: string, prepared: Prepared): void {
    this.resources.set(key, prepared);
    for (const strip of this.strips) strip.resourceArrived();
  }

  private dropResources(needed: ReadonlyMap<string, unknown>): void {
    for (const key of this.resources.keys()) if (!needed.has(key)) this.resources.delete(key);
  }

  get sounds(): ReadonlyMap<string, Samples> {
    return this.samples;
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
      if (this.playing) for (const strip of this.strips) strip.source.leave(this.position);
      this.position = moved;
      this.arrive();
    }
    this.takeStrips(plan, this.playing && stretch === 1);
    this.takePaths(plan, fresh);
    this.plan = plan;
    if (!fresh) this.dropResources(neededBy(plan));
    this.arrangePaths(fresh);
    this.attachProbes();
  }

  /** Gives all memory back; the engine has nothing to play after that. */
  dispose(): void {
    for (const key of this.keys) key.dispose();
    for (const strip of this.strips) strip.dispose();
    this.strips = [];
    this.paths = [];
    this.keys = [];
    this.plan = null;
  }

  /** Lets the sound before and after an effect or a strip be watched; null ends it. */
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
  private takeStrips(plan: Plan, fading: boolean): void {
    const known = new Map(this.strips.map((strip) => [strip.id, strip]));
    const music = musicOf(plan);
    const before = this.plan;
    const same = before?.framesPerBeat === plan.framesPerBeat && sameScale(before.scale, plan.scale);
    if (before && !same) for (const strip of this.strips) strip.follow(music);
    const next = plan.strips.map((planned) => {
      const strip = known.get(planned.id) ?? this.newStrip(planned, music);
      if (strip.planned === planned && !strip.leaving) return strip;
      if (known.has(planned.id)) strip.update(planned);
      strip.source.setClips(planned.clips, this.position, fading);
      strip.planned = planned;
      return strip;
    });
    // What leaves keeps its place ahead of what it fed while it fades.
    for (let index = this.strips.length - 1; index >= 0; index--) {
      const strip = this.strips[index]!;
      if (next.includes(strip)) continue;
      strip.leave();
      const follower = this.strips.slice(index + 1).find((one) => next.includes(one));
      next.splice(follower ? next.indexOf(follower) : 0, 0, strip);
    }
    this.strips = next;
  }

  private takePaths(plan: Plan, fresh: boolean): void {
    const known = new Map(this.paths.map((path) => [path.id, path]));
    const next: Path[] = [];
    for (const edge of plan.edges) {
      const from = this.strip(edge.fromId)!;
      const to = this.strip(edge.toId)!;
      const path = known.get(edge.id);
      if (path && path.from === from && path.to === to && path.tap === edge.tap) {
        path.update(edge);
        next.push(path);
      } else {
        next.push(new Path(edge, from, to, edge.tap, this.sampleRate, fresh));
      }
    }
    for (const path of this.paths) {
      if (next.includes(path)) continue;
      if (!this.strips.includes(path.from) || !this.strips.includes(path.to)) {
        path.dispose();
        continue;
      }
      path.leave();
      next.push(path);
    }
    this.paths = next;
    const keys: KeyPath[] = [];
    for (const planned of plan.strips) {
      for (const one of planned.inserts) {
        const insert = this.strip(planned.id)!.insert(one.id)!;
        const wanted = keysOf(one).flatMap(({ slot, key }) => {
          const from = this.strip(key.stripId);
          if (!from) return [];
          const same = this.keys.find(
            (path) => path.insert === insert && path.slot === slot && path.from === from && path.key.tap === key.tap,
          );
          return [same ?? new KeyPath(key, from, insert, slot)];
        });
        insert.listenTo(new Map(wanted.map((path) => [path.slot, path])));
        keys.push(...wanted);
      }
    }
    for (const key of this.keys) if (!keys.includes(key)) key.dispose();
    this.keys = keys;
  }

  /** Sorts paths by where they begin and works out how long each holds its sound back. */
  private arrangePaths(fresh: boolean): void {
    const { strips, paths, keys } = this;
    this.outgoing = strips.map((strip) => paths.filter((path) => path.from === strip));
    this.keying = strips.map((strip) => keys.filter((key) => key.from === strip));
    const leaves = new Map<Strip, number>();
    this.outputLateness = strips.map((strip, place) => {
      strip.tappedBeforeFader =
        this.outgoing[place]!.some((path) => path.tap === 'beforeFader') ||
        this.keying[place]!.some((key) => key.key.tap === 'beforeFader');
      const arrivals = paths.filter((path) => path.to === strip && !path.leaving);
      let late = Math.max(0, ...arrivals.map((path) => leaves.get(path.from) ?? 0));
      for (const { from, ahead } of keysInto(strip, keys)) late = Math.max(late, (leaves.get(from) ?? 0) - ahead);
      strip.setLateness(late, fresh);
      for (const path of paths) if (path.to === strip) path.delay.setDelay(late - (leaves.get(path.from) ?? 0), fresh);
      for (const { path, from, ahead } of keysInto(strip, keys)) {
        path.delay.setDelay(late + ahead - (leaves.get(from) ?? 0), fresh);
      }
      leaves.set(strip, late + strip.latencyFrames);
      return late + strip.latencyFrames;
    });
  }

  /** Frames by which the output is behind the sources. */
  get latencyFrames(): number {
    return this.outputLateness.at(-1) ?? 0;
  }

  /** Frames by which what leaves a strip is behind the sources. */
  latenessOf(stripId: string): number {
    return this.outputLateness[this.strips.findIndex(({ id }) => id === stripId)] ?? 0;
  }

  /** Seconds for which the effects outlast the sources, along the longest path that carries sound. */
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
          (tap === 'beforeFader' || isHeard(planned.get(fromId)!)),
      );
      const isFed = arriving.length > 0 || own.clips.length > 0 || strip.inserts.some((insert) => insert.soundsUnfed);
      if (isFed)
        tails.set(strip.id, Math.max(0, ...arriving.map((edge) => tails.get(edge.fromId)!)) + strip.tailSeconds);
    }
    return tails.get(plan.strips.at(-1)!.id) ?? 0;
  }

  change(change: PlanChange): void {
    switch (change.kind) {
      case 'level': {
        const strip = this.strip(change.stripId);
        if (strip) strip.planned = null;
        return strip?.setLevel(change);
      }
      case 'edge':
        return this.paths.find((path) => path.id === change.edgeId && !path.leaving)?.setGain(change.gain);
      case 'parameter':
        return this.touch(change.insertId, (insert) => insert.setParameter(change.index, change.value));
      case 'setting':
        return this.touch(change.insertId, (insert) => insert.set(change.id, change.setting));
      case 'event':
        for (const strip of this.strips) strip.insert(change.insertId)?.happens(change.event);
        return;
      case 'hand':
        for (const strip of this.strips) {
          for (const insert of strip.inserts) insert.moveHand(change.id, change.part);
          strip.planned = null;
        }
        return;
      case 'bypass':
        return this.touch(change.insertId, (insert) => insert.setBypass(change.bypass));
    }
  }

  /** Changes an effect beside the plan that its strip has taken up. */
  private touch(insertId: string, change: (insert: InsertNode) => void): void {
    for (const strip of this.strips) {
      const insert = strip.insert(insertId);
      if (!insert) continue;
      strip.planned = null;
      change(insert);
    }
  }

  strip(id: string): Strip | undefined {
    return this.strips.find((strip) => strip.id === id);
  }

  play(): void {
    if (this.playing) return;
    const silent = this.strips.every((strip) => strip.meter.left < SILENCE && strip.meter.right < SILENCE);
    if (silent) this.forget();
    this.playing = true;
    this.arrive();
  }

  /** Lets all effects begin from silence where the session is. */
  forget(): void {
    for (const strip of this.strips) strip.reset(this.position);
    this.strips.forEach((_, place) => {
      for (const path of this.outgoing[place]!) path.reset(this.position - this.outputLateness[place]!);
    });
    this.arrive();
  }

  stop(): void {
    if (!this.playing) return;
    for (const strip of this.strips) strip.source.leave(this.position);
    this.playing = false;
  }

  seek(frame: number): void {
    if (this.playing) for (const strip of this.strips) strip.source.leave(this.position);
    this.position = Math.max(0, Math.round(frame));
    this.arrive();
  }

  private arrive(): void {
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
      this.renderStretch(left, right, 0, first);
      this.seek(loop.startFrame);
      this.renderStretch(left, right, first, frames - first);
      return;
    }
    this.renderStretch(left, right, 0, frames);
    if (this.playing && loop && this.position === loop.endFrame) this.seek(loop.startFrame);
  }

  private renderStretch(left: Float32Array, right: Float32Array, start: number, frames: number): void {
    const { playing, loops } = this;
    if (this.repairs.size > 0) this.mend(frames);
    if (this.latencyChanged()) this.arrangePaths(false);
    const { strips } = this;
    for (const strip of strips) {
      loops.clearSides(strip.left.byteOffset, strip.right.byteOffset, frames);
      strip.fed = false;
    }
    let departed = false;
    for (let place = 0; place < strips.length; place++) {
      const strip = strips[place]!;
      try {
        if (this.renderStrip(place, frames)) departed = true;
      } catch (error) {
        this.breakOff(strip, error, frames);
      }
    }
    const heard = strips.at(-1);
    for (let i = 0; i < frames; i++) {
      left[start + i] = heard ? heard.left[i]! : 0;
      right[start + i] = heard ? heard.right[i]! : 0;
    }
    if (departed) this.removeDeparted();
    if (playing) this.position += frames;
  }

  /** Lets a strip work and hands on what comes out of it; returns whether anything of it is to be taken away. */
  private renderStrip(place: number, frames: number): boolean {
    const { position, playing } = this;
    const strip = this.strips[place]!;
    let departed = false;
    strip.process(frames, position, playing);
    const after = position - this.outputLateness[place]!;
    for (const path of this.outgoing[place]!) {
      path.process(frames, after, playing);
      if (path.gone) departed = true;
    }
    for (const key of this.keying[place]!) key.process(frames);
    return departed || strip.gone;
  }

  private breakOff(strip: Strip, error: unknown, frames: number): void {
    if (!this.onFault) throw error;
    strip.broken = true;
    strip.silence(frames);
    const insertId = strip.working;
    const insert = insertId === null ? undefined : strip.insert(insertId);
    if (insert) insert.faults++;
    const { count } = this.postpone(strip.id);
    this.onFault({ stripId: strip.id, insertId, error, count });
  }

  /** A strip is built anew later, the later the more often it has thrown. */
  private postpone(stripId: string): Repair {
    const count = (this.repairs.get(stripId)?.count ?? 0) + 1;
    const seconds = Math.min(LONGEST_REBUILD_SECONDS, REBUILD_SECONDS * (1 << Math.min(MOST_DOUBLINGS, count - 1)));
    const repair = { count, dueFrame: this.elapsed + Math.round(seconds * this.sampleRate) };
    this.repairs.set(stripId, repair);
    return repair;
  }

  /** Builds strips anew whose time has come. Allocates, as a plan that is taken up does. */
  private mend(frames: number): void {
    this.elapsed += frames;
    for (const [stripId, { dueFrame }] of [...this.repairs]) {
      const strip = this.strip(stripId);
      if (strip?.broken) {
        if (this.elapsed >= dueFrame) this.rebuild(strip);
      } else if (!strip || this.elapsed >= dueFrame + MENDED_SECONDS * this.sampleRate) this.repairs.delete(stripId);
    }
  }

  private rebuild(broken: Strip): void {
    const { plan } = this;
    if (!plan) return;
    const planned = plan.strips.find(({ id }) => id === broken.id);
    const strip = planned && this.successorOf(broken, plan, planned);
    if (strip === null) return;
    if (strip) this.strips = this.strips.map((one) => (one === broken ? strip : one));
    else {
      // It was leaving: nothing of it is to be heard any more.
      this.repairs.delete(broken.id);
      this.strips = this.strips.filter((one) => one !== broken);
    }
    this.takePaths(plan, false);
    broken.dispose();
    this.arrangePaths(false);
    this.attachProbes();
    this.rebuilt++;
  }

  /** The strip that takes the place of a broken one; null when it throws as well, and is tried again later. */
  private successorOf(broken: Strip, plan: Plan, planned: PlanStrip): Strip | null {
    let strip: Strip | null = null;
    try {
      strip = this.newStrip(planned, musicOf(plan));
      strip.source.setClips(planned.clips, this.position, false);
      strip.planned = planned;
      strip.replaces(broken);
      strip.source.enter(this.position);
      strip.locate(this.position);
      return strip;
    } catch (error) {
      strip?.dispose();
      const { count } = this.postpone(broken.id);
      this.onFault?.({ stripId: broken.id, insertId: null, error, count });
      return null;
    }
  }

  private newStrip(planned: PlanStrip, music: Music): Strip {
    return new Strip(planned, this.sampleRate, this.samples, music, this.resources);
  }

  /** Whether an effect has taken another latency with a change of its parameters. */
  private latencyChanged(): boolean {
    let changed = false;
    for (const strip of this.strips) if (strip.refreshLatency()) changed = true;
    return changed;
  }

  private removeDeparted(): void {
    for (const strip of this.strips) if (strip.gone) strip.dispose();
    this.strips = this.strips.filter((strip) => !strip.gone);
    this.paths = this.paths.filter((path) => {
      const stays = !path.gone && this.strips.includes(path.from) && this.strips.includes(path.to);
      if (!stays) path.dispose();
      return stays;
    });
    this.arrangePaths(false);
  }
}

/** Tempo and key that effects of a plan follow. */
const musicOf = ({ framesPerBeat, scale = PLAIN_MUSIC.scale }: Plan): Music => ({ framesPerBeat, scale });

/** False for a strip that is muted throughout. */
const isHeard = ({ audible, curves }: PlanStrip): boolean => audible || curves?.audible !== undefined;

function sameScale(a: readonly number[] | undefined, b: readonly number[] | undefined): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

/** The keys that steer effects of a strip, and by how much the effects before each delay the sound. */
function* keysInto(strip: Strip, keys: readonly KeyPath[]): Generator<{ path: KeyPath; from: Strip; ahead: number }> {
  let ahead = 0;
  for (const node of strip.inserts) {
    for (const path of keys) if (path.insert === node) yield { path, from: path.from, ahead };
    ahead += node.latencyFrames;
  }
}
