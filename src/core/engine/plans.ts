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

const SOUND = 'sound';
const KEY = 'key';

/**
 * A plan that plays one sound through a chain of effects, unmoved by automation and modulation, and the sounds for it. With a key every effect that can
 * listen to another sound listens to that, otherwise to its own input.
 * @param sounds those that its effects work with, by id
 */
export function chainPlan(
  inserts: readonly PlanInsert[],
  sampleRate: number,
  sound: Samples,
  key?: Samples,
  sounds: ReadonlyMap<string, Samples> = new Map(),
): { plan: Plan; samples: Map<string, Samples> } {
  const frames = sound.left.length;
  const player = (id: string, chain: readonly PlanInsert[], length: number) =>
    planStrip(id, { clips: [planClip(id, length)], inserts: chain });
  const listening = (effect: string) =>
    Object.fromEntries(
      (key ? (effectById(effect).inputs ?? []) : []).map(({ id }) => [
        id,
        { stripId: KEY, tap: 'beforeFader' as const },
      ]),
    );
  const keyed = inserts.map((insert) => ({
    ...insert,
    inputs: listening(insert.effect),
    curves: [],
    modulations: [],
  }));
  const chain = player(SOUND, keyed, frames);
  return {
    plan: {
      sampleRate,
      framesPerBeat: sampleRate,
      endFrame: frames,
      loop: null,
      strips: key ? [player(KEY, [], key.left.length), chain] : [chain],
      edges: [],
    },
    samples: new Map([...sounds, [SOUND, sound] as const, ...(key ? [[KEY, key] as const] : [])]),
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
