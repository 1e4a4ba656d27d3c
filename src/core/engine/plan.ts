import type { LfoShape } from '../dsp/lowFrequencyOscillator';
import type { RulerScale } from '../effects/scale';
import { sameCurve } from './curve';

/** What the engine plays: plain data, compiled from a session document. Times in frames, gains as factors. */

/**
 * A value over time as straight pieces between corners; before the first and after the last it stays. Two corners on
 * one frame are a jump, taken on that frame.
 */
export interface PlanCurve {
  readonly frames: readonly number[] | Float64Array;
  readonly values: readonly number[] | Float64Array;
}

export interface PlanClip {
  readonly id: string;
  readonly assetId: string;
  readonly startFrame: number;
  /** Frames of the sound left out at its beginning. */
  readonly offsetFrame: number;
  readonly lengthFrames: number;
  readonly gain: number;
  readonly fadeInFrames: number;
  readonly fadeOutFrames: number;
  /** Replaces the gain where it is there. */
  readonly gainCurve?: PlanCurve;
}

/** Where a send or a key takes its sound: after all effects of the strip, before its fader or after it. */
export type Tap = 'beforeFader' | 'afterFader';

export interface PlanKey {
  readonly stripId: string;
  readonly tap: Tap;
}

/** Where a modulation comes from; rates in cycles, steps or points a second, phases in parts of a cycle or pattern. */
export type PlanSource =
  | {
      readonly kind: 'oscillator';
      readonly shape: LfoShape;
      readonly rateHz: number;
      readonly phase: number;
      readonly seed: number;
    }
  /** Steps from -1 to 1, each as long as a cycle of the rate. */
  | { readonly kind: 'pattern'; readonly steps: readonly number[]; readonly rateHz: number; readonly phase: number }
  | { readonly kind: 'walk'; readonly rateHz: number; readonly phase: number; readonly seed: number }
  | {
      readonly kind: 'follower';
      /** What it listens to; null is what goes into the effect itself. */
      readonly key: PlanKey | null;
      readonly attackSeconds: number;
      readonly releaseSeconds: number;
      readonly gainDb: number;
    };

/** A source that moves one parameter along its ruler. */
export interface PlanModulation {
  readonly id: string;
  /** Place of the parameter. */
  readonly index: number;
  readonly ruler: RulerScale;
  /** Whole values only: a switch, or places of a choice. */
  readonly stepped?: true;
  readonly source: PlanSource;
  /** -1 to 1, as a part of the ruler. */
  readonly depth: number;
  /** To both sides of the value, only up from it, or only down. */
  readonly polarity: 'both' | 'up' | 'down';
  readonly smoothingSeconds: number;
}

export interface PlanInsert {
  readonly id: string;
  readonly effect: string;
  /** All parameters in kernel order. */
  readonly values: readonly number[];
  readonly bypass: boolean;
  /** Plays what it adds to the sound and takes from it instead of the sound itself. */
  readonly difference?: boolean;
  /** Null for the effect's own input. */
  readonly key?: PlanKey | null;
  /** Automation by the place of the parameter. */
  readonly curves?: readonly { readonly index: number; readonly curve: PlanCurve }[];
  readonly modulations?: readonly PlanModulation[];
}

export interface PlanLevel {
  readonly gain: number;
  /** -1 left to 1 right. */
  readonly pan: number;
  /** False when muted. */
  readonly audible: boolean;
}

/** A track, a return, a group or the main output: what arrives is its clips and its incoming edges. */
export interface PlanStrip extends PlanLevel {
  readonly id: string;
  readonly clips: readonly PlanClip[];
  readonly inserts: readonly PlanInsert[];
  /** Automation; `audible` is 0 or 1. */
  readonly curves?: { readonly gain?: PlanCurve; readonly pan?: PlanCurve; readonly audible?: PlanCurve };
}

/** A path from one strip into another: an output or a send. */
export interface PlanEdge {
  readonly id: string;
  readonly fromId: string;
  readonly toId: string;
  readonly tap: Tap;
  readonly gain: number;
  readonly curve?: PlanCurve;
}

export interface Plan {
  readonly sampleRate: number;
  readonly framesPerBeat: number;
  readonly endFrame: number;
  readonly loop: { readonly startFrame: number; readonly endFrame: number } | null;
  /** In signal order: each after everything that feeds or keys it. The last is what is heard. */
  readonly strips: readonly PlanStrip[];
  readonly edges: readonly PlanEdge[];
}

/** A sound at the session's rate; a mono sound has the same array on both sides. */
export interface Samples {
  readonly left: Float32Array;
  readonly right: Float32Array;
}

/** A change that needs no new plan. */
export type PlanChange =
  | { readonly kind: 'parameter'; readonly insertId: string; readonly index: number; readonly value: number }
  | { readonly kind: 'bypass'; readonly insertId: string; readonly bypass: boolean }
  | ({ readonly kind: 'level'; readonly stripId: string } & PlanLevel)
  | { readonly kind: 'edge'; readonly edgeId: string; readonly gain: number };

/** Whether two pieces of a plan are the same but for the values that a `PlanChange` can carry; most are one object. */
function alike<T>(a: T, b: T, carried: (one: T) => unknown): boolean {
  return a === b || JSON.stringify(carried(a)) === JSON.stringify(carried(b));
}

/** What of an insert, a strip and an edge a change cannot carry, less their curves. */
const insertRest = (insert: PlanInsert) => [
  insert.id,
  insert.effect,
  insert.difference ?? false,
  insert.key ?? null,
  insert.modulations ?? null,
];
const edgeRest = ({ id, fromId, toId, tap }: PlanEdge) => [id, fromId, toId, tap];
const clipRest = ({ gainCurve: _, ...clip }: PlanClip) => clip;

function sameInsert(a: PlanInsert, b: PlanInsert): boolean {
  const [curves, others] = [a.curves ?? [], b.curves ?? []];
  return (
    alike(a, b, insertRest) &&
    curves.length === others.length &&
    curves.every(({ index, curve }, n) => index === others[n]!.index && sameCurve(curve, others[n]!.curve))
  );
}

function sameStrip(a: PlanStrip, b: PlanStrip): boolean {
  if (a === b) return true;
  return (
    a.id === b.id &&
    a.clips.length === b.clips.length &&
    a.inserts.length === b.inserts.length &&
    sameCurve(a.curves?.gain, b.curves?.gain) &&
    sameCurve(a.curves?.pan, b.curves?.pan) &&
    sameCurve(a.curves?.audible, b.curves?.audible) &&
    a.clips.every(
      (clip, n) => alike(clip, b.clips[n]!, clipRest) && sameCurve(clip.gainCurve, b.clips[n]!.gainCurve),
    ) &&
    a.inserts.every((insert, n) => sameInsert(insert, b.inserts[n]!))
  );
}

function samePlan(a: Plan, b: Plan): boolean {
  return (
    a.sampleRate === b.sampleRate &&
    a.framesPerBeat === b.framesPerBeat &&
    a.endFrame === b.endFrame &&
    JSON.stringify(a.loop) === JSON.stringify(b.loop) &&
    a.strips.length === b.strips.length &&
    a.edges.length === b.edges.length &&
    a.strips.every((strip, n) => sameStrip(strip, b.strips[n]!)) &&
    a.edges.every((edge, n) => alike(edge, b.edges[n]!, edgeRest) && sameCurve(edge.curve, b.edges[n]!.curve))
  );
}

/**
 * The changes that lead from one plan to the next, or null when their structure differs and a plan must go out.
 */
export function changesBetween(before: Plan, after: Plan): PlanChange[] | null {
  if (!samePlan(before, after)) return null;
  const changes: PlanChange[] = [];
  after.strips.forEach((strip, index) => {
    const old = before.strips[index]!;
    if (strip === old) return;
    const { gain, pan, audible } = strip;
    if (old.gain !== gain || old.pan !== pan || old.audible !== audible) {
      changes.push({ kind: 'level', stripId: strip.id, gain, pan, audible });
    }
    strip.inserts.forEach((insert, place) => {
      const oldInsert = old.inserts[place]!;
      if (insert.bypass !== oldInsert.bypass) {
        changes.push({ kind: 'bypass', insertId: insert.id, bypass: insert.bypass });
      }
      insert.values.forEach((value, i) => {
        if (value !== oldInsert.values[i]) changes.push({ kind: 'parameter', insertId: insert.id, index: i, value });
      });
    });
  });
  after.edges.forEach((edge, index) => {
    if (edge.gain !== before.edges[index]!.gain) changes.push({ kind: 'edge', edgeId: edge.id, gain: edge.gain });
  });
  return changes;
}

/** A plan on its way to who has the one before: only the strips that are not the very same objects as there. */
export interface PlanDelta extends Omit<Plan, 'strips'> {
  readonly order: readonly string[];
  readonly strips: readonly PlanStrip[];
}

/**
 * What must travel for a plan to be made of the one before.
 * @param before null to send all of it
 */
export function deltaOf(before: Plan | null, after: Plan): PlanDelta {
  const known = new Set(before?.strips);
  const { strips, edges, ...rest } = after;
  return {
    ...rest,
    order: strips.map(({ id }) => id),
    strips: strips.filter((strip) => !known.has(strip)).map(packedStrip),
    edges: edges.map((edge) => ({ ...edge, ...(edge.curve ? { curve: packed(edge.curve) } : {}) })),
  };
}

/** The plan that a delta makes of the one before. */
export function withDelta(before: Plan | null, { order, strips, ...rest }: PlanDelta): Plan {
  const known = new Map([...(before?.strips ?? []), ...strips].map((strip) => [strip.id, strip]));
  return { ...rest, strips: order.map((id) => known.get(id)!) };
}

/** Curves in the form that travels fastest. */
function packedStrip(strip: PlanStrip): PlanStrip {
  const { gain, pan, audible } = strip.curves ?? {};
  const curves = {
    ...(gain ? { gain: packed(gain) } : {}),
    ...(pan ? { pan: packed(pan) } : {}),
    ...(audible ? { audible: packed(audible) } : {}),
  };
  return {
    ...strip,
    ...(strip.curves ? { curves } : {}),
    clips: strip.clips.map((clip) => (clip.gainCurve ? { ...clip, gainCurve: packed(clip.gainCurve) } : clip)),
    inserts: strip.inserts.map((insert) =>
      insert.curves
        ? { ...insert, curves: insert.curves.map(({ index, curve }) => ({ index, curve: packed(curve) })) }
        : insert,
    ),
  };
}

function packed(curve: PlanCurve): PlanCurve {
  const { frames, values } = curve;
  return frames instanceof Float64Array && values instanceof Float64Array
    ? curve
    : { frames: Float64Array.from(frames), values: Float64Array.from(values) };
}

/** Every strip that an effect listens to, as its key or through followers. */
export function keysOf(insert: PlanInsert): { readonly slot: string; readonly key: PlanKey }[] {
  const followed = (insert.modulations ?? []).flatMap(({ id, source }) =>
    source.kind === 'follower' && source.key ? [{ slot: id, key: source.key }] : [],
  );
  return insert.key ? [{ slot: OWN_KEY, key: insert.key }, ...followed] : followed;
}

/** The slot of the key that steers the effect itself. */
export const OWN_KEY = 'key';

/** The parameters that modulations move, in the order of the plan. */
export function movedParameters(plan: Plan): { readonly insertId: string; readonly index: number }[] {
  return plan.strips
    .flatMap((strip) => strip.inserts)
    .flatMap(({ id, modulations = [] }) =>
      [...new Set(modulations.map(({ index }) => index))].map((index) => ({ insertId: id, index })),
    );
}
