import { effectById } from '../effects/registry';
import { resolveValue, resolveValues } from '../effects/resolve';
import type { Parameter } from '../effects/spec';
import type {
  Plan,
  PlanClip,
  PlanCurve,
  PlanEdge,
  PlanInsert,
  PlanModulation,
  PlanSource,
  PlanStrip,
} from '../engine/plan';
import { CurveReader } from '../engine/curve';
import { planClip, planStrip, tapPlan } from '../engine/plans';
import { dbToGain } from '../math/elementary';
import { fingerprint } from '../math/hash';
import { cornersOf, curveOf, laneOf, laneParameter } from './lanes';
import {
  channelOf,
  channels,
  endBeat,
  MAIN_ID,
  MODULATOR_RATE,
  stripOf,
  type Clip,
  type Lane,
  type Modulator,
  type SessionDocument,
  timingOf,
} from './records';
import { carriesSound, connectionsOf, reachOf, signalOrder, type Connection } from './routing';

export function framesPerBeat(document: SessionDocument): number {
  return (document.session.sampleRateHz * 60) / document.session.tempoBpm;
}

const factor = (db: number) => (db <= -100 ? 0 : dbToGain(db));
const open = (mute: number) => 1 - mute;

export interface CompileOptions {
  /** Prints and measurements hear everything, whatever is soloed. */
  readonly ignoreSolo?: boolean;
  /** Decibels added after an effect or after the effects of a strip, by their id: what a comparison evens out. */
  readonly trims?: Readonly<Record<string, number>>;
  /** The effect of which only the difference is heard that it makes. */
  readonly differenceId?: string | null;
}

/** What a lane does, when it is on and has points. */
function laneCurve(document: SessionDocument, lane: Lane, toValue?: (value: number) => number): PlanCurve | undefined {
  if (!lane.on) return undefined;
  const corners = cornersOf(document, lane, timingOf(document));
  if (corners.length === 0) return undefined;
  return curveOf(laneParameter(document, lane.ownerId, lane.parameter)!, corners, framesPerBeat(document), toValue);
}

function curve(
  document: SessionDocument,
  ownerId: string,
  parameterId: string,
  toValue?: (value: number) => number,
): PlanCurve | undefined {
  const lane = laneOf(document, ownerId, parameterId);
  return lane && laneCurve(document, lane, toValue);
}

/** `{ [name]: value }`, or nothing when there is no value. */
function given<K extends string, T>(name: K, value: T | undefined): { [key in K]?: T } {
  return value === undefined ? {} : ({ [name]: value } as { [key in K]: T });
}

/** The chain of a strip as the engine takes it. */
export function compileInserts(document: SessionDocument, insertIds: readonly string[], off = false): PlanInsert[] {
  const timing = timingOf(document);
  const lanes = Object.values(document.lanes);
  return insertIds.map((id) => {
    const insert = document.inserts[id]!;
    const spec = effectById(insert.effect);
    const curves = lanes
      .filter((lane) => lane.ownerId === id)
      .flatMap((lane) => {
        const moved = laneCurve(document, lane);
        const index = spec.parameters.findIndex((parameter) => parameter.id === lane.parameter);
        return moved ? [{ index, curve: moved }] : [];
      })
      .sort((a, b) => a.index - b.index);
    const modulations = modulationsOf(document, id);
    return {
      id,
      effect: insert.effect,
      bypass: off || insert.bypass,
      values: resolveValues(spec, insert.values, timing),
      key: insert.keyId === null ? null : { stripId: insert.keyId, tap: insert.keyTap },
      ...(curves.length > 0 ? { curves } : {}),
      ...(modulations.length > 0 ? { modulations } : {}),
    };
  });
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
    case 'follower': {
      if (followTap !== 'effectInput' && followId === null) return null;
      const key = followTap === 'effectInput' ? null : { stripId: followId!, tap: followTap };
      return { kind, key, attackSeconds, releaseSeconds, gainDb: sensitivityDb };
    }
  }
}

function trimInsert(id: string, gainDb: number): PlanInsert {
  const spec = effectById('utility');
  const values = resolveValues(spec, { gain: gainDb }, { tempoBpm: 120, beatsPerBar: 4 });
  return { id: `${id}>trim`, effect: spec.id, bypass: false, values, key: null };
}

function compileClip(document: SessionDocument, clip: Clip): PlanClip {
  const frames = (seconds: number) => Math.round(seconds * document.session.sampleRateHz);
  return {
    id: clip.id,
    assetId: clip.assetId,
    startFrame: Math.round(clip.startBeat * framesPerBeat(document)),
    offsetFrame: frames(clip.offsetSeconds),
    lengthFrames: frames(clip.lengthSeconds),
    gain: factor(clip.gainDb),
    fadeInFrames: frames(clip.fadeInSeconds),
    fadeOutFrames: frames(clip.fadeOutSeconds),
    ...given('gainCurve', curve(document, clip.id, 'gainDb', factor)),
  };
}

function clipsOf(document: SessionDocument, stripId: string): PlanClip[] {
  const frozen = channelOf(document, stripId)?.frozen;
  if (frozen) {
    const asset = document.assets[frozen.assetId]!;
    const lengthFrames = Math.round((asset.frames / asset.sampleRateHz) * document.session.sampleRateHz);
    return [planClip(`${stripId}>print`, lengthFrames, { assetId: frozen.assetId })];
  }
  return Object.values(document.clips)
    .filter((clip) => clip.trackId === stripId)
    .sort((a, b) => a.startBeat - b.startBeat || (a.id < b.id ? -1 : 1))
    .map((clip) => compileClip(document, clip));
}

function compileStrip(
  document: SessionDocument,
  stripId: string,
  listening: Listening,
  trims: Readonly<Record<string, number>>,
): PlanStrip {
  const strip = stripOf(document, stripId)!;
  const frozen = channelOf(document, stripId)?.frozen;
  const off = document.session.effectsOff || strip.bypass;
  const inserts = frozen
    ? []
    : compileInserts(document, strip.insertIds, off).flatMap((insert) =>
        trims[insert.id] === undefined ? [insert] : [insert, trimInsert(insert.id, trims[insert.id]!)],
      );
  const trim = trims[stripId];
  const audible = listening.audible(stripId);
  const curves = {
    ...given('gain', curve(document, stripId, 'gainDb', factor)),
    ...given(
      'pan',
      curve(document, stripId, 'pan', (value) => value / 100),
    ),
    ...(audible || strip.mute ? given('audible', curve(document, stripId, 'mute', open)) : {}),
  };
  return {
    id: stripId,
    clips: clipsOf(document, stripId),
    inserts: trim === undefined || frozen ? inserts : [...inserts, trimInsert(stripId, trim)],
    gain: factor(strip.gainDb),
    pan: strip.pan / 100,
    audible,
    ...(Object.keys(curves).length > 0 ? { curves } : {}),
  };
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

/**
 * Turns a document into what the engine plays.
 * @throws KinetikonError session.loop
 */
export function compile(document: SessionDocument, options: CompileOptions = {}): Plan {
  const { session } = document;
  const perBeat = framesPerBeat(document);
  const connections = connectionsOf(document);
  const listening = listeningTo(document, connections, options.ignoreSolo ?? false);
  const edges = connections.flatMap((connection): PlanEdge[] => {
    const { kind, id, fromId, toId } = connection;
    if (!carriesSound(connection) || channelOf(document, toId)?.frozen) return [];
    const passes = listening.open(connection);
    if (kind === 'output') return [{ id: `${id}>out`, fromId, toId, tap: 'afterFader', gain: passes ? 1 : 0 }];
    const send = document.sends[id]!;
    const level = passes ? sendCurve(document, id) : undefined;
    const gain = passes && !send.mute ? factor(send.gainDb) : 0;
    return [{ id, fromId, toId, tap: send.tap, gain, ...given('curve', level) }];
  });
  return {
    sampleRate: session.sampleRateHz,
    framesPerBeat: perBeat,
    endFrame: Math.round(endBeat(document) * perBeat),
    loop: session.loopOn
      ? { startFrame: Math.round(session.loopStartBeat * perBeat), endFrame: Math.round(session.loopEndBeat * perBeat) }
      : null,
    strips: signalOrder(document, connections).map((id) => {
      const strip = compileStrip(document, id, listening, options.trims ?? {});
      return { ...strip, inserts: strip.inserts.map((insert) => ({ ...insert, ...difference(insert, options) })) };
    }),
    edges,
  };
}

function difference({ id }: PlanInsert, { differenceId }: CompileOptions): Partial<PlanInsert> {
  return id === differenceId ? { difference: true } : {};
}

/** Level and mute of a send as one curve. */
function sendCurve(document: SessionDocument, sendId: string): PlanCurve | undefined {
  const send = document.sends[sendId]!;
  const level = curve(document, sendId, 'gainDb', factor);
  const opens = curve(document, sendId, 'mute', open);
  if (!opens) return send.mute ? undefined : level;
  if (!level) return { frames: opens.frames, values: opens.values.map((value) => value * factor(send.gainDb)) };
  return product(level, opens);
}

/** The product of a curve and one of steps. */
function product(level: PlanCurve, steps: PlanCurve): PlanCurve {
  const readers = [new CurveReader(level), new CurveReader(steps)];
  const corners = [...new Set([...level.frames, ...steps.frames])].sort((a, b) => a - b);
  const times = (read: (reader: CurveReader) => number) => readers.reduce((all, reader) => all * read(reader), 1);
  return {
    frames: corners.flatMap((frame) => [frame, frame]),
    values: corners.flatMap((frame) => [
      times((reader) => reader.valueBefore(frame)),
      times((reader) => reader.valueAt(frame)),
    ]),
  };
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

/** Tells whether anything has changed that the print of a strip depends on. */
export function printSource(document: SessionDocument, stripId: string): string {
  return fingerprint(JSON.stringify(compileTap(document, stripId)));
}
