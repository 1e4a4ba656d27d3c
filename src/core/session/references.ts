import { parameterTitle, validateNote, validateValue } from '../effects/parameterText';
import { effectById } from '../effects/registry';
import { validateTimes } from '../effects/resolve';
import type { Timing } from '../effects/noteValues';
import { findParameter, type Parameter } from '../effects/spec';
import { KinetikonError } from '../errors';
import { laneParameter } from './lanes';
import type { Insert } from './records/inserts';
import { allStrips, channelOf, channels, stripOf, stripOfInsert, timingOf } from './records/queries';
import { MAIN_ID, type Return, type Track } from './records/strips';
import type { Lane, Point } from './records/lanes';
import type { Print } from './records/prints';
import type { SessionDocument } from './records/document';
import { PLACE_EFFECT } from './stagePlacement';
import { soundsOf } from './prints';
import { signalOrder } from './routing';

const refusal = (message: string) => new KinetikonError('session.invalid', message, { kept: 'Nothing was changed.' });

/**
 * Checks what records have to do with one another: that every reference has its target, that sound never runs in a
 * circle, and that note values come to times inside their ranges at the session's tempo.
 * @throws KinetikonError session.invalid, session.loop, parameter.range
 */
export function validateReferences(document: SessionDocument): void {
  sameMembers(document.session.trackIds, document.tracks, 'tracks');
  sameMembers(document.session.returnIds, document.returns, 'returns');
  const places = channels(document).flatMap(({ placeId }) => placeId ?? []);
  const placed = [...allStrips(document).flatMap((strip) => strip.insertIds), ...places];
  if (
    new Set(placed).size !== placed.length ||
    placed.length !== Object.keys(document.inserts).length ||
    placed.some((one) => !document.inserts[one])
  ) {
    throw refusal('The effects on tracks and the effects differ.');
  }
  for (const strip of channels(document)) validatePlace(document, strip);
  for (const clip of Object.values(document.clips)) {
    if (!document.tracks[clip.trackId]) throw refusal(`The clip ${clip.name} lies on a track that is not there.`);
    const { source } = clip;
    const there = source.kind === 'sound' ? document.assets[source.assetId] : document.prints[source.printId];
    if (!there) throw refusal(`The clip ${clip.name} plays a sound that is not there.`);
  }
  for (const print of Object.values(document.prints)) validatePrint(document, print);
  validateTempo(document);
  validateModulators(document);
  validateRouting(document);
  validateLanes(document);
  validateNotes(document);
  for (const { id } of Object.values(document.comparisons)) {
    if (!document.inserts[id] && !stripOf(document, id)) throw refusal(`There is nothing ${id} to compare.`);
  }
}

function validatePlace(document: SessionDocument, { name, placeId, oppositeOf }: Track | Return): void {
  if (placeId !== null && document.inserts[placeId]!.effect !== PLACE_EFFECT) {
    throw refusal(`${name} stands nowhere: ${placeId} is no place.`);
  }
  if (oppositeOf === null) return;
  const other = channelOf(document, oppositeOf);
  if (placeId === null || !other?.placeId) throw refusal(`${name} and what it is opposite to must stand on the stage.`);
  if (other.oppositeOf !== null)
    throw refusal(`${name} cannot be opposite to ${other.name}, which is opposite to another.`);
}

function validatePrint(document: SessionDocument, { id, recipe, made }: Print): void {
  if (made && !document.assets[made.assetId]) throw refusal('The sound of a print is not there.');
  switch (recipe.kind) {
    case 'strip':
      if (!channelOf(document, recipe.stripId)) throw refusal('There is a print of a track that is not there.');
      return;
    case 'repair': {
      const { source } = recipe;
      const there = source.kind === 'sound' ? document.assets[source.assetId] : undefined;
      if (!there) throw refusal('There is a repair of a sound that is not there.');
      return;
    }
    case 'clip':
    case 'swell': {
      const clip = document.clips[recipe.clipId];
      if (!clip) throw refusal('There is a print of a clip that is not there.');
      if (clip.source.kind === 'print' && clip.source.printId === id)
        throw refusal('A clip cannot be made from itself.');
      if (recipe.kind === 'clip') return;
      const { space } = recipe;
      if (space.kind === 'return' && document.returns[space.returnId]?.role !== 'return') {
        throw refusal('A swell rings in a return that is not there.');
      }
      for (const assetId of space.kind === 'own' ? space.inserts.flatMap(soundsOf) : []) {
        if (!document.assets[assetId]) throw refusal('A swell works with a sound that is not there.');
      }
    }
  }
}

function sameMembers(order: readonly string[], records: Readonly<Record<string, unknown>>, what: string): void {
  const same = new Set(order).size === order.length && order.length === Object.keys(records).length;
  if (!same || order.some((one) => !records[one])) throw refusal(`The order of ${what} and the ${what} differ.`);
}

/** Effects that were found to be in order, with the tempo and the metre of then; those that cannot change since are believed. */
const inOrder = new WeakMap<Insert, string>();

function validateTempo(document: SessionDocument): void {
  const timing = timingOf(document);
  const clock = `${timing.tempoBpm}/${timing.beatsPerBar}`;
  for (const insert of Object.values(document.inserts)) {
    if (Object.isFrozen(insert) && inOrder.get(insert) === clock) continue;
    const spec = effectById(insert.effect);
    try {
      validateTimes(spec, insert.values, timing);
      inOrder.set(insert, clock);
    } catch (error) {
      if (!(error instanceof KinetikonError)) throw error;
      const where = stripOfInsert(document, insert.id)?.name ?? '';
      const message = error.message.replace(/^\S+/, (id) => parameterTitle(findParameter(spec, id)!));
      throw new KinetikonError(error.code, `${spec.name} on ${where}: ${message}`, {
        kept: 'Nothing was changed.',
        cause: error,
        next: error.next,
      });
    }
  }
}

function validateRouting(document: SessionDocument): void {
  for (const strip of channels(document)) {
    if (strip.outputId !== MAIN_ID && document.returns[strip.outputId]?.role !== 'group') {
      throw refusal(`${strip.name} can feed the main output or a group, nothing else.`);
    }
    if (strip.frozen !== null && !document.prints[strip.frozen]?.made) {
      throw refusal(`The print of ${strip.name} is not there.`);
    }
  }
  const pairs = new Set<string>();
  for (const send of Object.values(document.sends)) {
    const from = channelOf(document, send.fromId);
    const to = document.returns[send.toId];
    if (!from) throw refusal('A send must come from a track or a return.');
    if (to?.role !== 'return') throw refusal(`A send of ${from.name} must go to a return.`);
    const pair = `${send.fromId} ${send.toId}`;
    if (pairs.has(pair)) throw refusal(`${from.name} has a send to ${to.name} already.`);
    pairs.add(pair);
  }
  for (const insert of Object.values(document.inserts)) {
    for (const assetId of soundsOf(insert)) {
      if (!document.assets[assetId]) throw refusal('An effect works with a sound that is not there.');
    }
    for (const { stripId } of Object.values(insert.inputs)) {
      if (!channelOf(document, stripId)) throw refusal(`An effect listens to a track that is not there.`);
    }
  }
  signalOrder(document);
}

function validateLanes(document: SessionDocument): void {
  const taken = new Set<string>();
  const timing = timingOf(document);
  for (const lane of Object.values(document.lanes)) {
    const parameter = laneParameter(document, lane.ownerId, lane.parameter);
    if (!parameter) throw refusal(`There is nothing ${lane.parameter} to automate on ${lane.ownerId}.`);
    const target = `${lane.ownerId} ${lane.parameter}`;
    if (taken.has(target)) throw refusal(`${parameter.name} has a lane already.`);
    taken.add(target);
    if (lane.mirrorOf !== null && !document.lanes[lane.mirrorOf])
      throw refusal('A lane mirrors one that is not there.');
    if (lane.mirrorOf === lane.id) throw refusal('A lane cannot mirror itself.');
    if (lane.mirrorOf !== null && document.lanes[lane.mirrorOf]!.mirrorOf !== null) {
      throw refusal('A lane can mirror only one that has points of its own.');
    }
    validatePoints(lane, parameter, timing);
  }
}

/** Points that fit their ruler, with what they were checked against. Points are never changed in place. */
const checkedPoints = new WeakMap<readonly Point[], { parameter: Parameter; tempoBpm: number; beatsPerBar: number }>();

function validatePoints({ points }: Lane, parameter: Parameter, { tempoBpm, beatsPerBar }: Timing): void {
  const known = checkedPoints.get(points);
  if (known?.parameter === parameter && known.tempoBpm === tempoBpm && known.beatsPerBar === beatsPerBar) return;
  points.forEach((point, index) => {
    validateValue(parameter, point.value);
    if (parameter.kind === 'number') validateNote(parameter, point.value, { tempoBpm, beatsPerBar });
    if (index > 0 && point.beat < points[index - 1]!.beat) throw refusal('The points of a lane must be in order.');
  });
  if (Object.isFrozen(points)) checkedPoints.set(points, { parameter, tempoBpm, beatsPerBar });
}

const MOST_NOTES = 20000;

function validateNotes(document: SessionDocument): void {
  const notes = Object.values(document.notes);
  if (notes.length > MOST_NOTES) throw refusal(`A session takes up to ${MOST_NOTES} notes, not ${notes.length}.`);
  for (const { ownerId } of notes) {
    if (!channelOf(document, ownerId) && !document.inserts[ownerId]) {
      throw refusal(`A note belongs to ${ownerId}, which is not there.`);
    }
  }
  for (const { id, effect, notesFrom } of Object.values(document.inserts)) {
    if (notesFrom === null) continue;
    if (!effectById(effect).playsNotes) throw refusal(`${effectById(effect).name} plays no notes.`);
    if (notesFrom !== id && !channelOf(document, notesFrom)) {
      throw refusal(`${effectById(effect).name} plays notes of a track that is not there.`);
    }
  }
}

function validateModulators(document: SessionDocument): void {
  for (const { name, followId, targets } of Object.values(document.modulators)) {
    if (followId !== null && !channelOf(document, followId))
      throw refusal(`${name} follows a track that is not there.`);
    const taken = new Set<string>();
    for (const { insertId, parameter } of targets) {
      const insert = document.inserts[insertId];
      const moved = insert && findParameter(effectById(insert.effect), parameter);
      if (!moved) throw refusal(`${name} has nothing ${parameter} to move on ${insertId}.`);
      const target = `${insertId} ${parameter}`;
      if (taken.has(target)) throw refusal(`${name} moves ${moved.name} already.`);
      taken.add(target);
    }
  }
}
