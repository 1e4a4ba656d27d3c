import { effectById } from '../effects/registry';
import { resolveSettings, resolveValue, resolveValues } from '../effects/resolve';
import { resourceFor } from '../effects/resource';
import type { Parameter } from '../effects/spec';
import type {
  Plan,
  PlanClip,
  PlanCurve,
  PlanEdge,
  PlanInsert,
  PlanModulation,
  PlanNote,
  PlanSource,
  PlanStrip,
} from '../engine/plan';
import { CurveReader } from '../engine/curve';
import { planNotes } from '../engine/planNotes';
import { planClip, planStrip, tapPlan } from '../engine/plans';
import { wetOnly } from '../engine/swell';
import { dbToGain } from '../math/elementary';
import { fingerprint } from '../math/hash';
import type { Timing } from '../effects/noteValues';
import { isFollowed, leadingPlace, PLACE_EFFECT, placeValues } from './stagePlacement';
import { frozenSound, soundOf } from './prints';
import { cornersOf, curveOf, laneParameter } from './lanes';
import { Memo } from './memo';
import { allStrips, channelOf, channels, endBeat, stripOf, stripOfInsert, timingOf } from './records/queries';
import { MAIN_ID } from './records/strips';
import { MODULATOR_RATE, type Modulator } from './records/modulators';
import type { Clip } from './records/clips';
import type { Insert } from './records/inserts';
import type { Lane, Note, Point } from './records/lanes';
import type { SessionDocument } from './records/document';
import type { SessionRecord } from './records/session';
import type { SwellSpace } from './records/prints';
import { scaleOf } from './scales';
import { carriesSound, connectionsOf, reachOf, signalOrder, type Connection } from './routing';

export function framesPerBeat(document: SessionDocument): number {
  return (document.session.sampleRateHz * 60) / document.session.tempoBpm;
}

const factor = (db: number) => (db <= -100 ? 0 : dbToGain(db));
const open = (mute: number) => 1 - mute;
const hundredth = (value: number) => value / 100;

export interface CompileOptions {
  /** Prints and measurements hear everything, whatever is soloed. */
  readonly ignoreSolo?: boolean;
  /** Decibels added after an effect or after the effects of a strip, by their id: what a comparison evens out. */
  readonly trims?: Readonly<Record<string, number>>;
  /** The effect of which only the difference is heard that it makes. */
  readonly differenceId?: string | null;
}

/** What all parts of a compilation look at. */
interface Work {
  readonly document: SessionDocument;
  readonly memo: Memo;
  readonly timing: Timing;
  /** Frames of a beat. */
  readonly perBeat: number;
  readonly lanes: ReadonlyMap<string, readonly Lane[]>;
  readonly clips: ReadonlyMap<string, readonly Clip[]>;
  /** By the strip or effect that they belong to. */
  readonly notes: ReadonlyMap<string, readonly Note[]>;
  /** The strip that an effect stands on. */
  readonly strips: ReadonlyMap<string, string>;
}

function workOn(document: SessionDocument, memo: Memo): Work {
  const { session } = document;
  return {
    document,
    memo,
    timing: memo.keep('timing', [session.tempoBpm, session.metreBeats, session.metreUnit], () => timingOf(document)),
    perBeat: framesPerBeat(document),
    lanes: memo.keep('lanes', [document.lanes], () => groupBy(Object.values(document.lanes), ({ ownerId }) => ownerId)),
    notes: memo.keep('notes', [document.notes], () => groupBy(Object.values(document.notes), ({ ownerId }) => ownerId)),
    strips: memo.keep(
      'strips',
      [document.main, document.tracks, document.returns],
      () => new Map(allStrips(document).flatMap(({ id, insertIds }) => insertIds.map((one) => [one, id] as const))),
    ),
    clips: memo.keep('clips', [document.clips], () => groupBy(Object.values(document.clips), ({ trackId }) => trackId)),
  };
}

function groupBy<T>(all: readonly T[], keyOf: (one: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const one of all) {
    const key = keyOf(one);
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return groups;
}

/** What a lane does, when it is on and has points. */
function laneCurve(work: Work, lane: Lane, toValue?: (value: number) => number): PlanCurve | undefined {
  if (!lane.on) return undefined;
  const { document, memo, timing, perBeat } = work;
  const source = lane.mirrorOf === null ? lane : document.lanes[lane.mirrorOf]!;
  const places = [timing, perBeat, toValue, ownerOf(document, source.ownerId, lane !== source)];
  const parameter = laneParameter(document, lane.ownerId, lane.parameter)!;
  if (lane !== source) {
    return memo.keep(`curve ${lane.id}`, [lane, source, ownerOf(document, lane.ownerId, true), ...places], () => {
      const corners = cornersOf(document, lane, timing);
      return corners.length === 0 ? undefined : packed(curveOf(parameter, corners, perBeat, toValue));
    });
  }
  // What lies between two points stays the same while these do.
  const pieces = memo.keep(`pieces ${lane.id}`, places, () => new WeakMap<Point, Piece>());
  return memo.keep(`curve ${lane.id}`, [lane.points, pieces], () => {
    if (lane.points.length === 0) return undefined;
    const { points } = lane;
    const parts = points.map((point, index) => {
      const next = points[index + 1];
      const known = pieces.get(point);
      if (known && known.next === next) return known;
      const piece = pieceOf(work, lane, parameter, point, next, toValue);
      pieces.set(point, piece);
      return piece;
    });
    const length = parts.reduce((sum, part) => sum + part.frames.length, 0);
    const frames = new Float64Array(length);
    const values = new Float64Array(length);
    let at = 0;
    for (const part of parts) {
      frames.set(part.frames, at);
      values.set(part.values, at);
      at += part.frames.length;
    }
    return { frames, values };
  });
}

/** A curve in the form that travels fastest. */
function packed({ frames, values }: PlanCurve): PlanCurve {
  return { frames: Float64Array.from(frames), values: Float64Array.from(values) };
}

/** The curve from one point of a lane up to the next, or the last point alone. */
interface Piece {
  readonly next: Point | undefined;
  readonly frames: readonly number[];
  readonly values: readonly number[];
}

function pieceOf(
  { document, timing, perBeat }: Work,
  lane: Lane,
  parameter: Parameter,
  point: Point,
  next: Point | undefined,
  toValue: ((value: number) => number) | undefined,
): Piece {
  const corners = cornersOf(document, { ...lane, points: next ? [point, next] : [point] }, timing);
  const { frames, values } = curveOf(parameter, corners, perBeat, toValue);
  const end = next ? frames.length - 1 : frames.length;
  return { next, frames: frames.slice(0, end), values: values.slice(0, end) };
}

/** What a lane's curve depends on of the thing that it moves: clips carry theirs along, mirrors start from the set value. */
function ownerOf(document: SessionDocument, ownerId: string, mirrors: boolean): unknown {
  const clip = document.clips[ownerId];
  if (!mirrors) return clip ?? document.inserts[ownerId]?.effect;
  return clip ?? document.inserts[ownerId] ?? document.sends[ownerId] ?? stripOf(document, ownerId);
}

function curve(
  work: Work,
  ownerId: string,
  parameterId: string,
  toValue?: (value: number) => number,
): PlanCurve | undefined {
  const lane = work.lanes.get(ownerId)?.find(({ parameter }) => parameter === parameterId);
  return lane && laneCurve(work, lane, toValue);
}

/** `{ [name]: value }`, or nothing when there is no value. */
function given<K extends string, T>(name: K, value: T | undefined): { [key in K]?: T } {
  return value === undefined ? {} : ({ [name]: value } as { [key in K]: T });
}

/** The chain of a strip as the engine takes it. */
export function compileInserts(document: SessionDocument, insertIds: readonly string[], off = false): PlanInsert[] {
  const work = workOn(document, new Memo());
  return insertIds.map((id) => compileInsert(work, id, off));
}

function compileInsert(work: Work, id: string, off: boolean): PlanInsert {
  const { document } = work;
  return compileMoved(work, document.inserts[id]!, off, work.lanes.get(id) ?? [], () => modulationsOf(document, id));
}

/** An effect with what moves it over time. */
function compileMoved(
  work: Work,
  insert: Insert,
  off: boolean,
  lanes: readonly Lane[],
  modulate: () => PlanModulation[],
): PlanInsert {
  const { document, memo, timing } = work;
  const moved = lanes.map((lane) => laneCurve(work, lane));
  const notes = compileNotes(work, insert);
  const { modulators } = document;
  return memo.keep(
    `insert ${insert.id}`,
    [insert, off, timing, document.session.sampleRateHz, modulators, notes, ...lanes, ...moved],
    () => {
      const spec = effectById(insert.effect);
      const curves = lanes
        .flatMap((lane, n) => {
          const index = spec.parameters.findIndex((parameter) => parameter.id === lane.parameter);
          return moved[n] ? [{ index, curve: moved[n] }] : [];
        })
        .sort((a, b) => a.index - b.index);
      const modulations = modulate();
      return {
        ...plainInsert(document, insert),
        bypass: off || insert.bypass,
        ...(Object.keys(insert.inputs).length > 0 ? { inputs: insert.inputs } : {}),
        ...(notes.length > 0 ? { notes } : {}),
        ...(curves.length > 0 ? { curves } : {}),
        ...(modulations.length > 0 ? { modulations } : {}),
      };
    },
  );
}

const NO_NOTES: readonly PlanNote[] = [];

/** What an effect plays. */
function compileNotes({ document, memo, notes, strips, perBeat }: Work, insert: Insert): readonly PlanNote[] {
  if (!effectById(insert.effect).playsNotes) return NO_NOTES;
  const ownerId = insert.notesFrom ?? strips.get(insert.id);
  const own = notes.get(ownerId ?? '') ?? [];
  if (own.length === 0) return NO_NOTES;
  return memo.keep(`notes ${insert.id}`, [document.session.sampleRateHz, perBeat, ...own], () =>
    planNotes(own, perBeat),
  );
}

/** An effect as it is set, without what it listens to and what moves it. */
function plainInsert(document: SessionDocument, insert: Insert): PlanInsert {
  const spec = effectById(insert.effect);
  const values = resolveValues(spec, insert.values, timingOf(document));
  const settings = resolveSettings(spec, insert.values);
  return {
    id: insert.id,
    effect: insert.effect,
    bypass: insert.bypass,
    values,
    ...given('settings', settings),
    ...given('resource', resourceFor(spec, document.session.sampleRateHz, values, settings)),
  };
}

/** What modulators do to an effect. */
function modulationsOf(document: SessionDocument, insertId: string): PlanModulation[] {
  const spec = effectById(document.inserts[insertId]!.effect);
  return Object.values(document.modulators)
    .sort((a, b) => (a.id < b.id ? -1 : 1))
    .flatMap((modulator) => {
      const source = modulator.on ? sourceOf(document, modulator) : null;
      if (!source) return [];
      return modulator.targets.flatMap(({ insertId: target, parameter, depth, polarity }): PlanModulation[] => {
        const index = spec.parameters.findIndex(({ id }) => id === parameter);
        const moved = spec.parameters[index];
        if (target !== insertId || !moved || depth === 0) return [];
        return [
          {
            id: `${modulator.id}>${parameter}`,
            index,
            ...rulerOf(moved),
            source,
            depth: depth / 100,
            polarity,
            smoothingSeconds: modulator.smoothingSeconds,
          },
        ];
      });
    });
}

/** The ruler that modulations move a parameter along; switches and choices have their places one after another. */
function rulerOf(parameter: Parameter): Pick<PlanModulation, 'ruler' | 'stepped'> {
  if (parameter.kind === 'number') {
    const { min, max, scale } = parameter;
    return { ruler: { min, max, scale } };
  }
  const last = parameter.kind === 'toggle' ? 1 : parameter.choices.length - 1;
  return { ruler: { min: 0, max: last, scale: 'linear' }, stepped: true };
}

function sourceOf(document: SessionDocument, modulator: Modulator): PlanSource | null {
  const { kind, shape, steps, followId, followTap, attackSeconds, releaseSeconds, sensitivityDb } = modulator;
  const rateHz = resolveValue(MODULATOR_RATE, modulator.rate, timingOf(document));
  const phase = modulator.phaseDegrees / 360;
  const seed = Number.parseInt(fingerprint(modulator.id).slice(0, 6), 16);
  switch (kind) {
    case 'oscillator':
      return { kind, shape, rateHz, phase, seed };
    case 'pattern':
      return { kind, steps, rateHz, phase };
    case 'walk':
      return { kind, rateHz, phase, seed };
    case 'hand':
      return { kind, id: modulator.id, part: modulator.handPart };
    case 'follower': {
      if (followTap !== 'effectInput' && followId === null) return null;
      const key = followTap === 'effectInput' ? null : { stripId: followId!, tap: followTap };
      return { kind, key, attackSeconds, releaseSeconds, gainDb: sensitivityDb };
    }
  }
}

/** The strip that follows another with its place on the stage; null for one that stands nowhere. */
function compilePlace(work: Work, stripId: string): PlanStrip | null {
  const { document, memo } = work;
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
    ...(work.lanes.get(own.id) ?? []).filter(({ parameter }) => !followed(parameter)),
    ...(own === leader ? [] : (work.lanes.get(leader.id) ?? []).filter(({ parameter }) => followed(parameter))),
  ];
  const spec = effectById(PLACE_EFFECT);
  const compiled = compileMoved(work, insert, false, lanes, () => {
    const follows = ({ index }: PlanModulation) => followed(spec.parameters[index]!.id);
    const others = own === leader ? [] : modulationsOf(document, leader.id).filter(follows);
    return [...modulationsOf(document, own.id).filter((one) => !follows(one)), ...others];
  });
  return memo.keep(`placed ${stripId}`, [compiled], () => planStrip(placedStrip(stripId), { inserts: [compiled] }));
}

const PLACED = '>place';

/** What follows a strip in a plan where it stands on the stage. */
export const placedStrip = (stripId: string): string => stripId + PLACED;

function trimInsert(id: string, gainDb: number): PlanInsert {
  const spec = effectById('utility');
  const values = resolveValues(spec, { gain: gainDb }, { tempoBpm: 120, beatsPerBar: 4 });
  return { id: `${id}>trim`, effect: spec.id, bypass: false, values };
}

/** A clip as the engine plays it; null while what it plays has not been made, and for a muted one. */
function compileClip(work: Work, clip: Clip): PlanClip | null {
  const { document, memo, perBeat } = work;
  const { sampleRateHz } = document.session;
  const gainCurve = curve(work, clip.id, 'gainDb', factor);
  const assetId = soundOf(document, clip.source);
  return memo.keep(`clip ${clip.id}`, [clip, assetId, perBeat, sampleRateHz, gainCurve], () => {
    if (assetId === null || clip.mute) return null;
    const frames = (seconds: number) => Math.round(seconds * sampleRateHz);
    return {
      id: clip.id,
      assetId,
      startFrame: Math.round(clip.startBeat * perBeat),
      offsetFrame: frames(clip.offsetSeconds),
      lengthFrames: frames(clip.lengthSeconds),
      gain: factor(clip.gainDb),
      fadeInFrames: frames(clip.fadeInSeconds),
      fadeOutFrames: frames(clip.fadeOutSeconds),
      ...(clip.fadeInShape === 'smooth' ? {} : { fadeInShape: clip.fadeInShape }),
      ...(clip.fadeOutShape === 'smooth' ? {} : { fadeOutShape: clip.fadeOutShape }),
      ...(clip.reversed ? { reversed: true as const } : {}),
      ...given('gainCurve', gainCurve),
    };
  });
}

function clipsOf(work: Work, stripId: string): readonly PlanClip[] {
  const { document } = work;
  const frozen = frozenSound(document, stripId);
  if (frozen !== null) {
    const asset = document.assets[frozen]!;
    const lengthFrames = Math.round((asset.frames / asset.sampleRateHz) * document.session.sampleRateHz);
    return [planClip(`${stripId}>print`, lengthFrames, { assetId: frozen })];
  }
  return [...(work.clips.get(stripId) ?? [])]
    .sort((a, b) => a.startBeat - b.startBeat || (a.id < b.id ? -1 : 1))
    .flatMap((clip) => compileClip(work, clip) ?? []);
}

function compileStrip(
  work: Work,
  stripId: string,
  listening: Listening,
  { trims = {}, differenceId }: CompileOptions,
): PlanStrip {
  const { document, memo } = work;
  const strip = stripOf(document, stripId)!;
  const frozen = frozenSound(document, stripId);
  const off = document.session.effectsOff || strip.bypass;
  const inserts = frozen !== null ? [] : strip.insertIds.map((id) => compileInsert(work, id, off));
  const clips = clipsOf(work, stripId);
  const trim = trims[stripId];
  const own = inserts.map(({ id }) => trims[id]);
  const apart = inserts.map(({ id }) => id === differenceId);
  const audible = listening.audible(stripId);
  const gain = curve(work, stripId, 'gainDb', factor);
  // What stands on the stage is where its place says, whatever its pan.
  const stands = Boolean(channelOf(document, stripId)?.placeId);
  const pan = stands ? undefined : curve(work, stripId, 'pan', hundredth);
  const opens = audible || strip.mute ? curve(work, stripId, 'mute', open) : undefined;
  // A frozen strip's clip is made anew each time, of these.
  const from = frozen !== null ? [document.assets[frozen], document.session.sampleRateHz] : clips;
  const all = [strip, trim, audible, gain, pan, opens, ...own, ...apart, ...inserts, 'clips', ...from];
  return memo.keep(`strip ${stripId}`, all, () => {
    const curves = { ...given('gain', gain), ...given('pan', pan), ...given('audible', opens) };
    const chain = inserts.flatMap((insert, n) => {
      const heard = apart[n] ? { ...insert, difference: true } : insert;
      return own[n] === undefined ? [heard] : [heard, trimInsert(insert.id, own[n])];
    });
    return {
      id: stripId,
      clips,
      inserts: trim === undefined || frozen !== null ? chain : [...chain, trimInsert(stripId, trim)],
      gain: factor(strip.gainDb),
      pan: stands ? 0 : strip.pan / 100,
      stereoPan: strip.panMode === 'stereo',
      audible,
      ...(Object.keys(curves).length > 0 ? { curves } : {}),
    };
  });
}

interface Listening {
  audible(stripId: string): boolean;
  open(connection: Connection): boolean;
}

/**
 * What solo lets through. Soloed things are heard along all their ways to the main output, and what feeds them stays
 * audible through them alone; a strip that is neither is silent. "Wet only" closes the direct ways of tracks.
 */
function listeningTo(document: SessionDocument, connections: readonly Connection[], ignoreSolo: boolean): Listening {
  const soloed = new Set(channels(document).flatMap((strip) => (!ignoreSolo && strip.solo ? [strip.id] : [])));
  const audio = connections.filter(carriesSound);
  const after = reachOf(soloed, audio, false);
  const before = reachOf(soloed, audio, true);
  const none = soloed.size === 0;
  const wetOnly = document.session.wetOnly && !ignoreSolo;
  return {
    audible(stripId) {
      const muted = stripOf(document, stripId)!.mute;
      if (none || stripId === MAIN_ID) return !muted;
      return soloed.has(stripId) || (!muted && (after.has(stripId) || before.has(stripId)));
    },
    open({ kind, fromId, toId }) {
      if (wetOnly && kind === 'output' && document.tracks[fromId]) return false;
      return none || after.has(fromId) || before.has(toId);
    },
  };
}

/** Turns documents into what the engine plays; what has not changed since the last one is the same object as before. */
export class Compiler {
  private readonly memo = new Memo();

  /** @throws KinetikonError session.loop */
  compile(document: SessionDocument, options: CompileOptions = {}): Plan {
    const { session } = document;
    const work = workOn(document, this.memo);
    const { perBeat } = work;
    const connections = connectionsOf(document);
    const listening = listeningTo(document, connections, options.ignoreSolo ?? false);
    const edges = connections.flatMap((connection): PlanEdge[] => {
      const { kind, id, fromId, toId } = connection;
      if (!carriesSound(connection) || frozenSound(document, toId) !== null) return [];
      const passes = listening.open(connection);
      if (kind === 'output') {
        const out = { id: `${id}>out`, fromId, toId, tap: 'afterFader', gain: passes ? 1 : 0 } as const;
        if (!channelOf(document, fromId)?.placeId) return [out];
        const placeId = placedStrip(fromId);
        return [
          { ...out, toId: placeId },
          { id: `${placeId}>out`, fromId: placeId, toId, tap: 'afterFader', gain: 1 },
        ];
      }
      const send = document.sends[id]!;
      const level = passes ? sendCurve(work, id) : undefined;
      const gain = passes && !send.mute ? factor(send.gainDb) : 0;
      return [{ id, fromId, toId, tap: send.tap, gain, ...given('curve', level) }];
    });
    const strips = signalOrder(document, connections).flatMap((id) => {
      const place = compilePlace(work, id);
      const strip = compileStrip(work, id, listening, options);
      return place ? [strip, place] : [strip];
    });
    this.memo.sweep();
    return {
      sampleRate: session.sampleRateHz,
      framesPerBeat: perBeat,
      scale: scaleOf(session),
      endFrame: Math.round(endBeat(document) * perBeat),
      loop: session.loopOn
        ? {
            startFrame: Math.round(session.loopStartBeat * perBeat),
            endFrame: Math.round(session.loopEndBeat * perBeat),
          }
        : null,
      strips,
      edges,
    };
  }
}

/**
 * Turns one document into what the engine plays.
 * @throws KinetikonError session.loop
 */
export function compile(document: SessionDocument, options: CompileOptions = {}): Plan {
  return new Compiler().compile(document, options);
}

/** Both sides of what stands nowhere, as two speakers ahead have them. */
const PAIR = { size: 1.155, spread: 0, distance: 1, distanceLevel: 0, air: 0 } as const;

/**
 * A plan whose main output is fed by places alone, as a sound field is made of: what stands nowhere gets a place for each
 * of its sides, and effects of the main output, which work on two channels, are left out.
 */
function asField(plan: Plan): Plan {
  const main = plan.strips.at(-1)!;
  const spec = effectById(PLACE_EFFECT);
  const values = resolveValues(spec, PAIR, { tempoBpm: 120, beatsPerBar: 4 });
  const settings = resolveSettings(spec, {});
  const strips: PlanStrip[] = [];
  const isPlace = ({ inserts }: PlanStrip) =>
    inserts.length === 1 && inserts[0]!.effect === PLACE_EFFECT && !inserts[0]!.bypass;
  const known = new Map(plan.strips.map((strip) => [strip.id, strip]));
  const edges = plan.edges.flatMap((edge): PlanEdge[] => {
    if (edge.toId !== main.id || (edge.fromId.endsWith(PLACED) && isPlace(known.get(edge.fromId)!))) return [edge];
    const id = `${edge.fromId}>pair`;
    strips.push(
      planStrip(id, {
        inserts: [{ id: `${id} place`, effect: PLACE_EFFECT, bypass: false, values, ...given('settings', settings) }],
      }),
    );
    return [
      { ...edge, toId: id },
      { id: `${id}>out`, fromId: id, toId: main.id, tap: 'afterFader', gain: 1 },
    ];
  });
  return { ...plan, strips: [...plan.strips.slice(0, -1), ...strips, { ...main, inserts: [] }], edges };
}

/** What a bounce is made for: two speakers or headphones, or a sound field that others render. */
export type Delivery = 'speakers' | 'headphones' | 'field1' | 'field3';

/** What a bounce plays: the session, its effects at their finest where it says so. */
export function compileBounce(heard: SessionDocument, delivery: Delivery = heard.session.stage): Plan {
  const stage: SessionRecord['stage'] = delivery === 'headphones' ? 'headphones' : 'speakers';
  const document = stage === heard.session.stage ? heard : { ...heard, session: { ...heard.session, stage } };
  const compiled = compile(document);
  const plan = delivery === 'field1' || delivery === 'field3' ? asField(compiled) : compiled;
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

/** Effects of a session that a bounce at its finest plays otherwise than they are heard. */
export function playedFiner(document: SessionDocument): Insert[] {
  return Object.values(document.inserts).filter(({ effect, values }) =>
    Object.entries(effectById(effect).finest ?? {}).some(([id, fine]) => values[id] !== fine),
  );
}

/** Level and mute of a send as one curve. */
function sendCurve(work: Work, sendId: string): PlanCurve | undefined {
  const send = work.document.sends[sendId]!;
  const level = curve(work, sendId, 'gainDb', factor);
  const opens = curve(work, sendId, 'mute', open);
  return work.memo.keep(`send ${sendId}`, [send, level, opens], () => {
    if (!opens) return send.mute ? undefined : level;
    if (!level)
      return { frames: opens.frames, values: Float64Array.from(opens.values, (value) => value * factor(send.gainDb)) };
    return product(level, opens);
  });
}

/** The product of a curve and one of steps. */
function product(level: PlanCurve, steps: PlanCurve): PlanCurve {
  const readers = [new CurveReader(level), new CurveReader(steps)];
  const corners = [...new Set([...level.frames, ...steps.frames])].sort((a, b) => a - b);
  const times = (read: (reader: CurveReader) => number) => readers.reduce((all, reader) => all * read(reader), 1);
  return packed({
    frames: corners.flatMap((frame) => [frame, frame]),
    values: corners.flatMap((frame) => [
      times((reader) => reader.valueBefore(frame)),
      times((reader) => reader.valueAt(frame)),
    ]),
  });
}

/** One clip with its level and fades alone, from the first frame on, before all effects; null while there is nothing to hear. */
export function compileClipAlone(document: SessionDocument, clip: Clip): Plan | null {
  const one = compileClip(workOn(document, new Memo()), { ...clip, mute: false });
  if (!one) return null;
  const { gainCurve } = one;
  const moved = gainCurve && {
    frames: Float64Array.from(gainCurve.frames, (frame) => frame - one.startFrame),
    values: gainCurve.values,
  };
  return {
    sampleRate: document.session.sampleRateHz,
    framesPerBeat: framesPerBeat(document),
    endFrame: one.lengthFrames,
    loop: null,
    strips: [planStrip('clip', { clips: [{ ...one, id: 'clip', startFrame: 0, ...given('gainCurve', moved) }] })],
    edges: [],
  };
}

/** What a swell rings in: effects as they are set, at their wet sound alone. */
export function compileSpace(document: SessionDocument, space: SwellSpace): PlanInsert[] {
  const inserts =
    space.kind === 'own'
      ? space.inserts
      : document.returns[space.returnId]!.insertIds.map((insertId) => document.inserts[insertId]!);
  return wetOnly(inserts.map((insert) => plainInsert(document, insert)));
}

/** What a strip gives to the mix, from where it stands; the whole mix for the main output. Whatever is soloed. */
export function compileHeard(document: SessionDocument, stripId: string): Plan {
  const whole = compile(document, { ignoreSolo: true });
  if (stripId === MAIN_ID) return whole;
  return channelOf(document, stripId)?.placeId ? tapPlan(whole, placedStrip(stripId)) : compileTap(document, stripId);
}

/** What comes out of an effect of a strip's chain, whatever is behind it there and whatever is soloed. */
export function compileBehind(document: SessionDocument, insertId: string): Plan {
  const strip = stripOfInsert(document, insertId)!;
  const cut = { ...strip, insertIds: strip.insertIds.slice(0, strip.insertIds.indexOf(insertId) + 1) };
  if (strip.id === MAIN_ID) return compile({ ...document, main: cut }, { ignoreSolo: true });
  const kind = document.tracks[strip.id] ? 'tracks' : 'returns';
  return compileTap({ ...document, [kind]: { ...document[kind], [strip.id]: cut } }, strip.id);
}

/** The part of the session that a strip hears and does, before its fader, whatever is soloed or frozen on it. */
export function compileTap(document: SessionDocument, stripId: string, options: CompileOptions = {}): Plan {
  const channel = channelOf(document, stripId);
  const kind = document.tracks[stripId] ? 'tracks' : 'returns';
  const thawed = channel?.frozen
    ? { ...document, [kind]: { ...document[kind], [stripId]: { ...channel, frozen: null } } }
    : document;
  const plan = tapPlan(compile(thawed, { ...options, ignoreSolo: true }), stripId);
  const level = planStrip(stripId);
  return {
    ...plan,
    strips: plan.strips.map(({ curves, ...strip }) =>
      strip.id === stripId
        ? { ...strip, gain: level.gain, pan: level.pan, audible: true }
        : { ...strip, ...given('curves', curves) },
    ),
  };
}
