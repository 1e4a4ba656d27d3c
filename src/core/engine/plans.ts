import { effectById } from '../effects/registry';
import { keysOf, type Plan, type PlanClip, type PlanInsert, type PlanStrip, type Samples } from './plan';

/** A strip at unit level; what is given replaces the defaults. */
export function planStrip(id: string, more: Partial<PlanStrip> = {}): PlanStrip {
  return { id, clips: [], inserts: [], gain: 1, pan: 0, stereoPan: false, audible: true, ...more };
}

export function planClip(id: string, lengthFrames: number, more: Partial<PlanClip> = {}): PlanClip {
  return {
    id,
    assetId: id,
    startFrame: 0,
    offsetFrame: 0,
    lengthFrames,
    gain: 1,
    fadeInFrames: 0,
    fadeOutFrames: 0,
    ...more,
  };
}

/** Ids of the sounds of a chain's plan: what goes into it, and what its effects listen to. */
export const CHAIN_SOUND = 'sound';
export const CHAIN_KEY = 'key';

/**
 * A plan that plays one sound through a chain of effects, unmoved by automation and modulation. With a key every effect that
 * can listen to another sound listens to that, otherwise to its own input.
 * @param frames length of the sound
 * @param keyFrames length of the key
 */
export function planOfChain(
  inserts: readonly PlanInsert[],
  sampleRate: number,
  frames: number,
  keyFrames: number | null = null,
): Plan {
  const player = (id: string, chain: readonly PlanInsert[], length: number) =>
    planStrip(id, { clips: [planClip(id, length)], inserts: chain });
  const listening = (effect: string) =>
    Object.fromEntries(
      (keyFrames === null ? [] : (effectById(effect).inputs ?? [])).map(({ id }) => [
        id,
        { stripId: CHAIN_KEY, tap: 'beforeFader' as const },
      ]),
    );
  const keyed = inserts.map((insert) => ({
    ...insert,
    inputs: listening(insert.effect),
    curves: [],
    modulations: [],
  }));
  const chain = player(CHAIN_SOUND, keyed, frames);
  return {
    sampleRate,
    framesPerBeat: sampleRate,
    endFrame: frames,
    loop: null,
    strips: keyFrames === null ? [chain] : [player(CHAIN_KEY, [], keyFrames), chain],
    edges: [],
  };
}

/**
 * The same with a sound that is there as a whole, and the sounds for it.
 * @param sounds those that its effects work with, by id
 */
export function chainPlan(
  inserts: readonly PlanInsert[],
  sampleRate: number,
  sound: Samples,
  sounds: ReadonlyMap<string, Samples> = new Map(),
): { plan: Plan; samples: Map<string, Samples> } {
  return {
    plan: planOfChain(inserts, sampleRate, sound.left.length),
    samples: new Map([...sounds, [CHAIN_SOUND, sound] as const]),
  };
}

/** The part of a plan that feeds or keys a strip, with that strip before its fader as what is heard. */
export function tapPlan(plan: Plan, stripId: string): Plan {
  const needed = new Set([stripId]);
  for (const strip of [...plan.strips].reverse()) {
    if (!needed.has(strip.id)) continue;
    for (const edge of plan.edges) if (edge.toId === strip.id) needed.add(edge.fromId);
    for (const { key } of strip.inserts.flatMap(keysOf)) needed.add(key.stripId);
  }
  const listener = planStrip('tap');
  return {
    ...plan,
    loop: null,
    strips: [...plan.strips.filter((strip) => needed.has(strip.id)), listener],
    edges: [
      ...plan.edges.filter((edge) => needed.has(edge.fromId) && needed.has(edge.toId)),
      { id: 'tap', fromId: stripId, toId: listener.id, tap: 'beforeFader', gain: 1 },
    ],
  };
}
