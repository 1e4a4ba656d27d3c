import { findParameter, type ParameterValue } from '@/core/effects/spec';
import { effectById } from '@/core/effects/registry';
import type { Command } from '@/core/session/commands';
import { firstPlace, leadingPlace, PLACE_EFFECT, placed, placeValues } from '@/core/session/stagePlacement';
import { channelOf, stripOfInsert, timingOf } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import { MAIN_ID, type Return, type Track } from '@/core/session/records/strips';
import type { SessionDocument } from '@/core/session/records/document';
import { resolveValue } from '@/core/effects/resolve';
import { newId } from './newId';
import type { Studio } from './studio';
import type { Turn } from './automationRecording';

type Thing = Track | Return;

const within = (id: string, value: number): number => {
  const parameter = findParameter(effectById(PLACE_EFFECT), id)!;
  return parameter.kind === 'number' ? Math.min(parameter.max, Math.max(parameter.min, value)) : value;
};

/** True if the place of a thing is that of its strip, and not an effect of its chain. */
const isOwnPlace = (document: SessionDocument, { id, placeId }: Thing) => channelOf(document, id)?.placeId === placeId;

/** A place as a thing that stands there: the strip on the stage whose place it is, or the strip as an effect of its chain puts it. */
export function thingAt(document: SessionDocument, placeId: string): Thing {
  const strip = stripOfInsert(document, placeId)!;
  const channel = channelOf(document, strip.id);
  if (channel?.placeId === placeId) return channel;
  return { ...strip, outputId: MAIN_ID, frozen: null, placeId, oppositeOf: null };
}

/** Puts strips on the stage, where their pan has them. */
export function putOnStage(studio: Studio, strips: readonly Thing[]): void {
  const { document } = studio.state;
  const commands = strips.map((strip): Command => ({
    type: 'place.add',
    stripId: strip.id,
    id: newId(),
    values: firstPlace(document, strip),
  }));
  const label = strips.length === 1 ? `Put ${strips[0]!.name} on the stage` : `Put ${strips.length} on the stage`;
  if (studio.editor.perform({ type: 'all', commands }, label)) studio.selection.selectStrip(strips[0]!.id);
}

export function takeOffStage(studio: Studio, strip: Thing): void {
  if (strip.placeId !== null)
    studio.editor.perform({ type: 'insert.remove', id: strip.placeId }, `Take ${strip.name} off the stage`);
}

/** By how much things are moved: turned by degrees, so many times as far off, lifted by metres. */
export interface Move {
  readonly turn?: number;
  readonly times?: number;
  readonly lift?: number;
  /** Angles that are kept to, in degrees. */
  readonly snap?: number;
}

/** Changes that move a place. @param way -1 for one whose motion is mirrored from side to side */
function placeTurns(document: SessionDocument, place: Insert, way: 1 | -1, move: Move): Turn[] {
  const timing = timingOf(document);
  const parameterOf = (id: string) => findParameter(effectById(PLACE_EFFECT), id)!;
  const figure = (id: string) => resolveValue(parameterOf(id), place.values[id]!, timing);
  const turn = (id: string, value: number): Turn => ({
    ownerId: place.id,
    parameter: parameterOf(id),
    value: Number(within(id, value).toFixed(4)),
  });
  const turns: Turn[] = [];
  if (move.turn !== undefined) {
    const turned = figure('azimuth') + way * move.turn;
    const kept = move.snap ? move.snap * Math.round(turned / move.snap) : turned;
    turns.push(turn('azimuth', kept - 360 * Math.round(kept / 360)));
  }
  if (move.times !== undefined) turns.push(turn('distance', figure('distance') * move.times));
  if (move.lift !== undefined) turns.push(turn('height', figure('height') + move.lift));
  return turns;
}

/**
 * Changes that move things on the stage. A thing placed opposite to another moves that one with it; one that is
 * mirrored moves the other way round.
 */
export function turnsOf(document: SessionDocument, strips: readonly Thing[], move: Move): Turn[] {
  const moved = new Set<string>();
  return strips.flatMap((strip) => {
    const leader = isOwnPlace(document, strip) ? leadingPlace(document, strip)! : document.inserts[strip.placeId!]!;
    if (moved.has(leader.id)) return [];
    moved.add(leader.id);
    return placeTurns(document, leader, placeValues(document, strip).mirror === 'side' ? -1 : 1, move);
  });
}

/** Lets a strip stand and move opposite to another, or by itself again where it is now set. */
export function oppositeCommand(document: SessionDocument, strip: Thing, otherId: string | null): Command {
  if (otherId === null) {
    // It stays where it was heard.
    return {
      type: 'all',
      commands: [
        { type: 'strip.set', id: strip.id, values: { oppositeOf: null } },
        { type: 'insert.set', id: strip.placeId!, values: placeValues(document, strip) },
      ],
    };
  }
  const values: Record<string, ParameterValue> = { ...firstPlace(document, strip), mirror: 'angle' };
  const placeId = strip.placeId ?? newId();
  return {
    type: 'all',
    commands: [
      strip.placeId === null
        ? { type: 'place.add', stripId: strip.id, id: placeId, values }
        : { type: 'insert.set', id: placeId, values: { mirror: 'angle' } },
      { type: 'strip.set', id: strip.id, values: { oppositeOf: otherId } },
    ],
  };
}

/** Strips that a strip can mirror on the stage; those that are sent to it come first. */
export function oppositesFor(document: SessionDocument, strip: Thing): Thing[] {
  const sending = new Set(
    Object.values(document.sends).flatMap(({ fromId, toId }) => (toId === strip.id ? [fromId] : [])),
  );
  const followers = placed(document).some(({ oppositeOf }) => oppositeOf === strip.id);
  if (followers) return [];
  return placed(document)
    .filter((one) => one.id !== strip.id && one.oppositeOf === null)
    .sort((a, b) => Number(sending.has(b.id)) - Number(sending.has(a.id)));
}

/** The things that are chosen on the stage, by id. */
export function thingsOf(document: SessionDocument, ids: readonly string[]): Thing[] {
  return ids.flatMap((id) => {
    const strip = channelOf(document, id);
    return strip?.placeId ? [strip] : [];
  });
}
