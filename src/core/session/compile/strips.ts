import { PLAIN_TIMING } from '../../effects/noteValues';
import { effectById, specOf } from '../../effects/registry';
import { resolveValues } from '../../effects/resolve';
import type { PlanInsert, PlanModulation, PlanStrip } from '../../engine/plan';
import { planStrip } from '../../engine/plans';
import { isFollowed, leadingPlace, PLACE_EFFECT, placeValues } from '../stagePlacement';
import { frozenSound } from '../prints';
import { channelOf, stripOf } from '../records/queries';
import { optional, gainFactor, type CompileOptions, type CompileContext } from './context';
import { openness, parameterCurve, panPosition } from './curves';
import { compileInsert, compileMoved, modulationsOf } from './inserts';
import { clipsOf } from './clips';
import type { Audibility } from './solo';

export const PLACE_SUFFIX = '>place';

/** Id of the strip that places another on the stage. */
export const placedStrip = (stripId: string): string => stripId + PLACE_SUFFIX;

/** The strip that places another on the stage, behind its fader; null if it is not on the stage. */
export function compilePlace(context: CompileContext, stripId: string): PlanStrip | null {
  const { document, memo } = context;
  const strip = channelOf(document, stripId);
  if (!strip?.placeId) return null;
  const own = document.inserts[strip.placeId]!;
  const leader = leadingPlace(document, strip)!;
  const { stage, panLaw } = document.session;
  const insert = memo.keep(`place ${own.id}`, [own, leader, strip.oppositeOf, stage, panLaw], () => ({
    ...own,
    values: placeValues(document, strip),
  }));
  const followed = (parameter: string) => isFollowed(strip, parameter);
  const lanes = [
    ...(context.lanes.get(own.id) ?? []).filter(({ parameter }) => !followed(parameter)),
    ...(own === leader ? [] : (context.lanes.get(leader.id) ?? []).filter(({ parameter }) => followed(parameter))),
  ];
  const spec = effectById(PLACE_EFFECT);
  const compiled = compileMoved(context, insert, false, lanes, () => {
    const follows = ({ index }: PlanModulation) => followed(spec.parameters[index]!.id);
    const others = own === leader ? [] : modulationsOf(document, leader.id).filter(follows);
    return [...modulationsOf(document, own.id).filter((one) => !follows(one)), ...others];
  });
  return memo.keep(`placed ${stripId}`, [compiled], () => planStrip(placedStrip(stripId), { inserts: [compiled] }));
}

function trimInsert(id: string, gainDb: number): PlanInsert {
  const spec = specOf('utility');
  const values = resolveValues(spec, { gain: gainDb }, PLAIN_TIMING);
  return { id: `${id}>trim`, effect: spec.id, bypass: false, values };
}

export function compileStrip(
  context: CompileContext,
  stripId: string,
  audibility: Audibility,
  { trims = {}, differenceId }: CompileOptions,
): PlanStrip {
  const { document, memo } = context;
  const strip = stripOf(document, stripId)!;
  const frozen = frozenSound(document, stripId);
  const off = document.session.effectsOff || strip.bypass;
  const inserts = frozen !== null ? [] : strip.insertIds.map((id) => compileInsert(context, id, off));
  const clips = clipsOf(context, stripId);
  const trim = trims[stripId];
  const own = inserts.map(({ id }) => trims[id]);
  const apart = inserts.map(({ id }) => id === differenceId);
  const audible = audibility.isAudible(stripId);
  const gain = parameterCurve(context, stripId, 'gainDb', gainFactor);
  // On the stage the place decides; pan does not count.
  const stands = Boolean(channelOf(document, stripId)?.placeId);
  const pan = stands ? undefined : parameterCurve(context, stripId, 'pan', panPosition);
  const opens = audible || strip.mute ? parameterCurve(context, stripId, 'mute', openness) : undefined;
  // A frozen strip's clip is a new object each time and depends on these.
  const from = frozen !== null ? [document.assets[frozen], document.session.sampleRateHz] : clips;
  const all = [strip, trim, audible, gain, pan, opens, ...own, ...apart, ...inserts, 'clips', ...from];
  return memo.keep(`strip ${stripId}`, all, () => {
    const curves = { ...optional('gain', gain), ...optional('pan', pan), ...optional('audible', opens) };
    const chain = inserts.flatMap((insert, n) => {
      const heard = apart[n] ? { ...insert, difference: true } : insert;
      return own[n] === undefined ? [heard] : [heard, trimInsert(insert.id, own[n])];
    });
    return {
      id: stripId,
      clips,
      inserts: trim === undefined || frozen !== null ? chain : [...chain, trimInsert(stripId, trim)],
      gain: gainFactor(strip.gainDb),
      pan: stands ? 0 : strip.pan / 100,
      stereoPan: strip.panMode === 'stereo',
      audible,
      ...(Object.keys(curves).length > 0 ? { curves } : {}),
    };
  });
}
