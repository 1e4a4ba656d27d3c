import { PLAIN_TIMING } from '../../effects/noteValues';
import { optional } from './context';
import { effectById } from '../../effects/registry';
import { resolveSettings, resolveValue, resolveValues } from '../../effects/resolve';
import type { Plan, PlanEdge, PlanInsert, PlanStrip } from '../../engine/plan';
import { planStrip } from '../../engine/plans';
import { PLACE_EFFECT } from '../stagePlacement';
import { timingOf } from '../records/queries';
import type { Insert } from '../records/inserts';
import type { SessionDocument } from '../records/document';
import type { SessionRecord } from '../records/session';
import { PLACE_SUFFIX } from './strips';
import { compile } from './compiler';

/** Place of the two sides of a strip that is not on the stage: two speakers ahead, at 30 degrees to either side. */
const PAIR = { size: 1.155, spread: 0, distance: 1, distanceLevel: 0, air: 0 } as const;

/**
 * The plan of a sound field, whose main output is fed by places alone: strips that are not on the stage get a place for each
 * side, and effects of the main output, which context on two channels, are left out.
 */
function asField(plan: Plan): Plan {
  const main = plan.strips.at(-1)!;
  const spec = effectById(PLACE_EFFECT);
  const values = resolveValues(spec, PAIR, PLAIN_TIMING);
  const settings = resolveSettings(spec, {});
  const strips: PlanStrip[] = [];
  const isPlace = ({ inserts }: PlanStrip) =>
    inserts.length === 1 && inserts[0]!.effect === PLACE_EFFECT && !inserts[0]!.bypass;
  const known = new Map(plan.strips.map((strip) => [strip.id, strip]));
  const edges = plan.edges.flatMap((edge): PlanEdge[] => {
    if (edge.toId !== main.id || (edge.fromId.endsWith(PLACE_SUFFIX) && isPlace(known.get(edge.fromId)!)))
      return [edge];
    const id = `${edge.fromId}>pair`;
    strips.push(
      planStrip(id, {
        inserts: [
          { id: `${id} place`, effect: PLACE_EFFECT, bypass: false, values, ...optional('settings', settings) },
        ],
      }),
    );
    return [
      { ...edge, toId: id },
      { id: `${id}>out`, fromId: id, toId: main.id, tap: 'afterFader', gain: 1 },
    ];
  });
  return { ...plan, strips: [...plan.strips.slice(0, -1), ...strips, { ...main, inserts: [] }], edges };
}

/** Deliveries of a bounce, with the order of a sound field; null is stereo, for headphones binaural. */
export const FIELD_ORDERS = { speakers: null, headphones: null, field1: 1, field3: 3 } as const;
export type Delivery = keyof typeof FIELD_ORDERS;
export const DELIVERIES = Object.keys(FIELD_ORDERS) as Delivery[];

/** Compiles a session for a bounce, with effects at their finest quality if it asks for that. */
export function compileBounce(heard: SessionDocument, delivery: Delivery = heard.session.stage): Plan {
  const stage: SessionRecord['stage'] = delivery === 'headphones' ? 'headphones' : 'speakers';
  const document = stage === heard.session.stage ? heard : { ...heard, session: { ...heard.session, stage } };
  const compiled = compile(document);
  const plan = FIELD_ORDERS[delivery] === null ? compiled : asField(compiled);
  if (!document.session.bounceFinest) return plan;
  const timing = timingOf(document);
  const finest = (insert: PlanInsert): PlanInsert => {
    const spec = effectById(insert.effect);
    if (!spec.finest) return insert;
    const values = insert.values.map((value, index) => {
      const parameter = spec.parameters[index]!;
      const fine = spec.finest![parameter.id];
      return fine === undefined ? value : resolveValue(parameter, fine, timing);
    });
    return { ...insert, values };
  };
  return { ...plan, strips: plan.strips.map((strip) => ({ ...strip, inserts: strip.inserts.map(finest) })) };
}

/** Effects whose quality a bounce at the finest quality raises. */
export function playedFiner(document: SessionDocument): Insert[] {
  return Object.values(document.inserts).filter(({ effect, values }) =>
    Object.entries(effectById(effect).finest ?? {}).some(([id, fine]) => values[id] !== fine),
  );
}
