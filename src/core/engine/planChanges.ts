import { sameCurve } from './curve';
import type { Plan, PlanChange, PlanClip, PlanEdge, PlanInsert, PlanModulation, PlanSource, PlanStrip } from './plan';

/** True if two parts of a plan differ only in values that a `PlanChange` carries. Most are the same object. */
function alike<T>(a: T, b: T, rest: (one: T) => unknown): boolean {
  return a === b || JSON.stringify(rest(a)) === JSON.stringify(rest(b));
}

/** The fields of inserts, edges and clips that no `PlanChange` carries, without their curves. */
const insertRest = (insert: PlanInsert) => [
  insert.id,
  insert.effect,
  insert.difference ?? false,
  insert.inputs ?? null,
  insert.notes ?? null,
  insert.resource ?? null,
  insert.modulations?.map((one) => ({ ...one, source: unmoved(one.source) })) ?? null,
];
/** A source without the position of a macro. */
const unmoved = (source: PlanSource) => (source.kind === 'hand' ? { ...source, part: 0 } : source);
const edgeRest = ({ id, fromId, toId, tap }: PlanEdge) => [id, fromId, toId, tap];
const clipRest = (clip: PlanClip) => ({ ...clip, gainCurve: null });

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
    JSON.stringify(a.scale) === JSON.stringify(b.scale) &&
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
    const { gain, pan, stereoPan, audible } = strip;
    if (old.gain !== gain || old.pan !== pan || old.stereoPan !== stereoPan || old.audible !== audible) {
      changes.push({ kind: 'level', stripId: strip.id, gain, pan, stereoPan, audible });
    }
    strip.inserts.forEach((insert, place) => {
      const oldInsert = old.inserts[place]!;
      if (insert.bypass !== oldInsert.bypass) {
        changes.push({ kind: 'bypass', insertId: insert.id, bypass: insert.bypass });
      }
      for (const [id, setting] of Object.entries(insert.settings ?? {})) {
        if (!alike(oldInsert.settings![id], setting, (one) => one)) {
          changes.push({ kind: 'setting', insertId: insert.id, id, setting });
        }
      }
      insert.values.forEach((value, i) => {
        if (value !== oldInsert.values[i]) changes.push({ kind: 'parameter', insertId: insert.id, index: i, value });
      });
    });
  });
  const hands = handsOf(before);
  for (const [id, part] of handsOf(after)) if (hands.get(id) !== part) changes.push({ kind: 'hand', id, part });
  after.edges.forEach((edge, index) => {
    if (edge.gain !== before.edges[index]!.gain) changes.push({ kind: 'edge', edgeId: edge.id, gain: edge.gain });
  });
  return changes;
}

/** Positions of macros, 0 to 1, by modulator id. */
function handsOf(plan: Plan): ReadonlyMap<string, number> {
  const sources = plan.strips
    .flatMap(({ inserts }) => inserts)
    .flatMap(({ modulations = [] }): readonly PlanModulation[] => modulations)
    .map(({ source }) => source);
  return new Map(sources.flatMap((source) => (source.kind === 'hand' ? [[source.id, source.part] as const] : [])));
}

/** A plan as a difference to the one before: only strips that are other objects. */
export interface PlanDelta extends Omit<Plan, 'strips'> {
  readonly order: readonly string[];
  readonly strips: readonly PlanStrip[];
}

/**
 * The difference between two plans.
 * @param before null to send all of it
 */
export function deltaOf(before: Plan | null, after: Plan): PlanDelta {
  const known = new Set(before?.strips);
  const { strips, ...rest } = after;
  return {
    ...rest,
    order: strips.map(({ id }) => id),
    strips: strips.filter((strip) => !known.has(strip)),
  };
}

/** Applies a difference to the plan before. */
export function withDelta(before: Plan | null, { order, strips, ...rest }: PlanDelta): Plan {
  const known = new Map([...(before?.strips ?? []), ...strips].map((strip) => [strip.id, strip]));
  return { ...rest, strips: order.map((id) => known.get(id)!) };
}
