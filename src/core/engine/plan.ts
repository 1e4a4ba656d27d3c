import type { LfoShape } from '../dsp/lowFrequencyOscillator';
import type { KernelEvent } from '../effects/kernel';
import type { Resource } from '../effects/resource';
import type { RulerScale } from '../effects/scale';
import type { FadeShape } from '../math/fades';
import type { ResolvedSetting, ResolvedSettings } from '../effects/settings';

import type { Samples } from '../effects/prepare';
import type { PagedSamples } from '../pages/pagedSamples';

export type { Samples };

/** A sound that clips play: whole, or of which pages are in memory. */
export type SoundSource = Samples | PagedSamples;

/** The plan that the engine plays: plain data, compiled from a session document. Times in frames, gains as factors. */

/** The longest time that effects are given to ring out. */
export const LONGEST_TAIL_SECONDS = 60;

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
  /** Smooth where it is not given. */
  readonly fadeInShape?: FadeShape;
  readonly fadeOutShape?: FadeShape;
  /** Plays its piece of the sound from the end. */
  readonly reversed?: true;
  /** Replaces the gain where it is there. */
  readonly gainCurve?: PlanCurve;
}

/** A note; velocity from 0 to 1. */
export interface PlanNote {
  readonly startFrame: number;
  readonly lengthFrames: number;
  readonly key: number;
  readonly velocity: number;
}

/** The tap of a send or side chain: behind all inserts of the strip, before or after its fader. */
export type Tap = 'beforeFader' | 'afterFader';

export interface PlanKey {
  readonly stripId: string;
  readonly tap: Tap;
}

/** Source of a modulation; rates in cycles, steps or points a second, phases in parts of a cycle or pattern. */
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
  /** A macro: the position of the last 'hand' change of the same id, before that `part`, 0 to 1. */
  | { readonly kind: 'hand'; readonly id: string; readonly part: number }
  | {
      readonly kind: 'follower';
      /** Side chain; null is the input of the effect itself. */
      readonly key: PlanKey | null;
      readonly attackSeconds: number;
      readonly releaseSeconds: number;
      readonly gainDb: number;
    };

/** A source that moves one parameter along its ruler. */
export interface PlanModulation {
  readonly id: string;
  /** Index of the parameter. */
  readonly index: number;
  readonly ruler: RulerScale;
  /** Whole values only: a switch or a choice. */
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
  readonly settings?: ResolvedSettings;
  readonly bypass: boolean;
  /** Plays the difference between output and input. */
  readonly difference?: boolean;
  /** Side chains by slot of its spec; a slot without one gets the effect's own input. */
  readonly inputs?: Readonly<Record<string, PlanKey>>;
  /** Resource that must be prepared for it. */
  readonly resource?: Resource;
  /** Notes in the order of their starts, for instruments and effects that play notes. */
  readonly notes?: readonly PlanNote[];
  /** Automation by the index of the parameter. */
  readonly curves?: readonly { readonly index: number; readonly curve: PlanCurve }[];
  readonly modulations?: readonly PlanModulation[];
}

export interface PlanLevel {
  readonly gain: number;
  /** -1 left to 1 right. */
  readonly pan: number;
  /** Pan moves the far side into the near one, rather than lowering it. */
  readonly stereoPan: boolean;
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
  /** Keys of the session's scale as steps over C, from its tonic up. */
  readonly scale?: readonly number[];
  readonly endFrame: number;
  readonly loop: { readonly startFrame: number; readonly endFrame: number } | null;
  /** In signal order: each after everything that feeds or keys it. The last is what is heard. */
  readonly strips: readonly PlanStrip[];
  readonly edges: readonly PlanEdge[];
}

/** A change that needs no new plan. */
export type PlanChange =
  | { readonly kind: 'parameter'; readonly insertId: string; readonly index: number; readonly value: number }
  | { readonly kind: 'setting'; readonly insertId: string; readonly id: string; readonly setting: ResolvedSetting }
  /** A note played by hand. */
  | { readonly kind: 'event'; readonly insertId: string; readonly event: KernelEvent }
  /** A modulator moved by hand, 0 to 1. */
  | { readonly kind: 'hand'; readonly id: string; readonly part: number }
  | { readonly kind: 'bypass'; readonly insertId: string; readonly bypass: boolean }
  | ({ readonly kind: 'level'; readonly stripId: string } & PlanLevel)
  | { readonly kind: 'edge'; readonly edgeId: string; readonly gain: number };

/** Every strip that an effect listens to, through its own inputs or through followers. */
export function keysOf(insert: PlanInsert): { readonly slot: string; readonly key: PlanKey }[] {
  const followed = (insert.modulations ?? []).flatMap(({ id, source }) =>
    source.kind === 'follower' && source.key ? [{ slot: id, key: source.key }] : [],
  );
  return [...Object.entries(insert.inputs ?? {}).map(([slot, key]) => ({ slot, key })), ...followed];
}

/** The parameters that modulations move, in the order of the plan. */
export function movedParameters(plan: Plan): { readonly insertId: string; readonly index: number }[] {
  return plan.strips
    .flatMap((strip) => strip.inserts)
    .flatMap(({ id, modulations = [] }) =>
      [...new Set(modulations.map(({ index }) => index))].map((index) => ({ insertId: id, index })),
    );
}

/** Everything of a plan that must be prepared, by key, with the effects that need it. */
export function neededBy(plan: Plan): ReadonlyMap<string, PlanInsert> {
  const needed = plan.strips.flatMap(({ inserts }) => inserts).filter(({ resource }) => resource !== undefined);
  return new Map(needed.map((insert) => [insert.resource!.key, insert]));
}
