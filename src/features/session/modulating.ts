import type { Parameter } from '@/core/effects/spec';
import type { Command } from '@/core/session/commands';
import { newModulator } from '@/core/session/records/factories';
import { stripOfInsert } from '@/core/session/records/queries';
import type { ModulationTarget, Modulator } from '@/core/session/records/modulators';
import type { SessionDocument } from '@/core/session/records/document';
import { followable } from '@/core/session/routing';

export const KIND_NAMES: Record<Modulator['kind'], string> = {
  oscillator: 'Oscillator',
  follower: 'Follower',
  pattern: 'Pattern',
  walk: 'Random walk',
  hand: 'Manual control',
};

/** A modulator at work on a parameter. */
export interface Attached {
  readonly modulator: Modulator;
  readonly target: ModulationTarget;
}

export function attachedTo(document: SessionDocument, insertId: string, parameter: string): Attached[] {
  return Object.values(document.modulators).flatMap((modulator) =>
    modulator.targets
      .filter((target) => target.insertId === insertId && target.parameter === parameter)
      .map((target) => ({ modulator, target })),
  );
}

/** Reach of modulations below and above the value, as parts of the ruler. */
export function reachOfAttached(attached: readonly Attached[]): readonly [number, number] {
  let down = 0;
  let up = 0;
  for (const { modulator, target } of attached) {
    if (!modulator.on) continue;
    const depth = target.depth / 100;
    const far = Math.abs(depth);
    if (target.polarity === 'both') {
      down -= far;
      up += far;
    } else if ((target.polarity === 'up') === depth > 0) {
      up += far;
    } else {
      down -= far;
    }
  }
  return [down, up];
}

/** A modulator's first hold on a parameter: a fifth of a ruler, all of a switch or a choice. */
function newTarget(insertId: string, { id, kind }: Parameter): ModulationTarget {
  return { insertId, parameter: id, depth: kind === 'number' ? 20 : 100, polarity: 'both' };
}

/** Lets a modulator move one more parameter. */
export function attachCommand(modulator: Modulator, insertId: string, parameter: Parameter): Command {
  const target = newTarget(insertId, parameter);
  return { type: 'modulator.set', id: modulator.id, values: { targets: [...modulator.targets, target] } };
}

export function detachCommand(modulator: Modulator, insertId: string, parameter: string): Command {
  const targets = modulator.targets.filter((one) => one.insertId !== insertId || one.parameter !== parameter);
  return { type: 'modulator.set', id: modulator.id, values: { targets } };
}

export function targetCommand(
  modulator: Modulator,
  target: ModulationTarget,
  values: Partial<Pick<ModulationTarget, 'depth' | 'polarity'>>,
): Command {
  const targets = modulator.targets.map((one) =>
    one.insertId === target.insertId && one.parameter === target.parameter ? { ...one, ...values } : one,
  );
  return { type: 'modulator.set', id: modulator.id, values: { targets } };
}

/** True if a modulator can also move an effect: a follower must not follow that effect's own output. */
export function canMove(document: SessionDocument, modulator: Modulator, insertId: string): boolean {
  const { kind, followId, followTap } = modulator;
  if (kind !== 'follower' || followId === null || followTap === 'effectInput') return true;
  const strip = stripOfInsert(document, insertId);
  return !strip || followable(document, new Set([strip.id])).some(({ id }) => id === followId);
}

/** The strips a follower can listen to, with what it moves now. */
export function followableBy(document: SessionDocument, modulator: Modulator): { id: string; name: string }[] {
  const moved = modulator.targets.flatMap(({ insertId }) => stripOfInsert(document, insertId)?.id ?? []);
  return followable(
    // Its own listening feeds nothing back: it is about to be another.
    { ...document, modulators: { ...document.modulators, [modulator.id]: { ...modulator, followId: null } } },
    new Set(moved),
  );
}

/**
 * A new modulator, moving a parameter when one is given; a follower made on an effect listens to what goes into it, one
 * made for itself to the first track.
 */
export function newModulatorCommand(
  document: SessionDocument,
  kind: Modulator['kind'],
  id: string,
  more: { target?: { insertId: string; parameter: Parameter } } = {},
): Command {
  const same = Object.values(document.modulators).filter((one) => one.kind === kind).length;
  const fresh = newModulator(id, `${KIND_NAMES[kind]} ${same + 1}`, kind);
  const { target } = more;
  const follows = kind === 'follower' && target === undefined;
  return {
    type: 'modulator.add',
    modulator: {
      ...fresh,
      followId: follows ? (document.session.trackIds[0] ?? null) : null,
      followTap: kind === 'follower' && target ? 'effectInput' : fresh.followTap,
      targets: target ? [newTarget(target.insertId, target.parameter)] : [],
    },
  };
}
