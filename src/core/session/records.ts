import * as yup from 'yup';
import { KinetikonError } from '../errors';
import { lookUp } from '../lookUp';
import { quoted } from '../text';
import { SHAPE_IDS, type ShapeId } from '../effects/oscillatorShapes';
import type { Tap } from '../engine/plan';
import type { Timing } from '../effects/noteValues';
import { HIGHEST_KEY, LOWEST_KEY } from '../effects/pitchNames';
import { findEffect } from '../effects/registry';
import { validateValue } from '../effects/parameterText';
import { validateValues } from '../effects/resolve';
import { number, type ParameterValue } from '../effects/spec';
import { FADE_SHAPES, type FadeShape } from '../math/fades';
import { assetId, figure, flag, id, LONGEST_BEATS, name, record } from './fields';
import { SWELL_PARAMETERS } from './swells';

/** The version of documents written by this build. */
export const DOCUMENT_VERSION = 10;

export const TEMPO = { min: 20, max: 300 } as const;
export const RATES_HZ = [44100, 48000, 96000] as const;
export const TONICS = ['C', 'C#', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'Ab', 'A', 'Bb', 'B'] as const;
export const MODES = ['major', 'minor', 'dorian', 'phrygian', 'lydian', 'mixolydian', 'locrian'] as const;
/** The strip every session ends in. */
export const MAIN_ID = 'main';

const LONGEST_SECONDS = 36000;
/** A tick of the finest MIDI file. */
export const SHORTEST_NOTE_BEATS = 1 / 15360;
export const SHORTEST_SECTION_BEATS = 0.25;

export const sessionSchema = record({
  name: name(),
  /** Quarter notes a minute. */
  tempoBpm: figure(TEMPO.min, TEMPO.max).label('the tempo'),
  metreBeats: figure(1, 16).integer(),
  metreUnit: yup.number().strict().required().oneOf([2, 4, 8, 16]),
  keyTonic: yup.string().strict().required().oneOf(TONICS),
  keyMode: yup.string().strict().required().oneOf(MODES),
  sampleRateHz: yup.number().strict().required().oneOf(RATES_HZ),
  loopOn: flag(),
  loopStartBeat: figure(0, LONGEST_BEATS),
  loopEndBeat: figure(0, LONGEST_BEATS),
  trackIds: yup.array(id()).strict().required(),
  /** Returns and groups. */
  returnIds: yup.array(id()).strict().required(),
  /** Every effect of the session is bypassed. */
  effectsOff: flag(),
  /** Only what comes through returns is heard. */
  wetOnly: flag(),
  /** A bounce uses the finest quality that effects have, whatever is heard live. */
  bounceFinest: flag(),
  /** What things on the stage are heard through, and how loud the middle between two speakers is, in dB under a side. */
  stage: yup
    .string<'speakers' | 'headphones'>()
    .strict()
    .required()
    .oneOf(['speakers', 'headphones'] as const),
  panLaw: yup
    .string<'3' | '4.5' | '6'>()
    .strict()
    .required()
    .oneOf(['3', '4.5', '6'] as const),
});

export const sectionSchema = record({
  id: id(),
  name: name(),
  startBeat: figure(0, LONGEST_BEATS),
  lengthBeats: figure(SHORTEST_SECTION_BEATS, LONGEST_BEATS),
});

export const PAN_MODES = ['balance', 'stereo'] as const;
export type PanMode = (typeof PAN_MODES)[number];

const stripShape = {
  id: id(),
  name: name(),
  /** -100 is silence. */
  gainDb: figure(-100, 12),
  /** -100 left to 100 right. */
  pan: figure(-100, 100),
  mute: flag(),
  solo: flag(),
  /** All its effects are bypassed. */
  bypass: flag(),
  insertIds: yup.array(id()).strict().required(),
  /** Pan lowers the far side (balance), or moves it into the near one (stereo). */
  panMode: yup.string<PanMode>().strict().required().oneOf(PAN_MODES),
  /** Decibels lost in mono from which it is marked. */
  monoLimitDb: figure(0.5, 24),
};

const channelShape = {
  ...stripShape,
  /** The main output or a group. */
  outputId: id(),
  /** The print of it with all effects, which plays in their place. */
  frozen: id().nullable().defined().default(null),
  /** Where it stands on the stage: an effect after its fader and its sends. */
  placeId: id().nullable().defined().default(null),
  /** It moves as the mirror image of another strip that stands on the stage. */
  oppositeOf: id().nullable().defined().default(null),
};

export const mainSchema = record(stripShape);
export const trackSchema = record(channelShape);
export const returnSchema = record({
  ...channelShape,
  /** A return is fed by sends, a group by the outputs of tracks. */
  role: yup
    .string<'return' | 'group'>()
    .strict()
    .required()
    .oneOf(['return', 'group'] as const),
});

const TAPS = ['beforeFader', 'afterFader'] as const;
/** Where a follower listens: to a strip, or to what goes into each effect it moves. */
const FOLLOW_TAPS = [...TAPS, 'effectInput'] as const;

export const sendSchema = record({
  id: id(),
  fromId: id(),
  toId: id(),
  gainDb: figure(-100, 12),
  tap: yup.string<Tap>().strict().required().oneOf(TAPS),
  mute: flag(),
});

const POINT_SHAPES = ['hold', 'straight', 'curved'] as const;
/** Points in a lane. */
const MOST_POINTS = 20000;

export const pointSchema = record({
  beat: figure(0, LONGEST_BEATS),
  /** As the parameter takes it: a figure, a note value, on and off, a choice. */
  value: yup.mixed<ParameterValue>().required(),
  /** How it goes on to the next point. */
  shape: yup.string<(typeof POINT_SHAPES)[number]>().strict().required().oneOf(POINT_SHAPES),
  /** Of a curved piece: -1 late to 1 early. */
  bend: figure(-1, 1),
});

/** Automation of one parameter of an effect, a strip, a send or a clip. */
export const laneSchema = record({
  id: id(),
  /** The insert, strip, send or clip. */
  ownerId: id(),
  parameter: yup.string().strict().required().max(80),
  /** Off while the control is set by hand. */
  on: flag(),
  points: yup.array(pointSchema).strict().required().max(MOST_POINTS),
  /** Moves opposite to another lane instead of by its own points. */
  mirrorOf: id().nullable().defined().default(null),
  /** Per cent of the other lane's movement. */
  mirrorAmount: figure(0, 200),
});

/** What a modulator moves: a parameter of an effect, by a part of its ruler. */
const targetSchema = record({
  insertId: id(),
  parameter: yup.string().strict().required().max(80),
  /** Per cent of the ruler; below zero turned over. */
  depth: figure(-100, 100),
  /** To both sides of the value, only up from it, or only down. */
  polarity: yup
    .string<'both' | 'up' | 'down'>()
    .strict()
    .required()
    .oneOf(['both', 'up', 'down'] as const),
});

/** How fast a modulator is. */
export const MODULATOR_RATE = number({
  id: 'rate',
  name: 'Rate',
  unit: 'Hz',
  min: 0.01,
  max: 20,
  default: '1/2',
  scale: 'log',
  sync: 'rate',
  help: 'Cycles, steps or points a second, or one for each note value.',
});

export const MODULATOR_KINDS = ['oscillator', 'follower', 'pattern', 'walk', 'hand'] as const;
export const MODULATOR_STEPS = 32;

/** A source of movement for parameters of any effects. */
export const modulatorSchema = record({
  id: id(),
  name: name(),
  on: flag(),
  kind: yup.string<(typeof MODULATOR_KINDS)[number]>().strict().required().oneOf(MODULATOR_KINDS),
  /** Cycles, steps or points a second, or one for each note value. */
  rate: yup.mixed<number | string>().required(),
  shape: yup.string<ShapeId>().strict().required().oneOf(SHAPE_IDS),
  phaseDegrees: figure(0, 360),
  smoothingSeconds: figure(0, 5),
  /** Of a pattern, -1 to 1 each. */
  steps: yup.array(figure(-1, 1)).strict().required().min(1).max(MODULATOR_STEPS),
  /** The strip a follower listens to; null for none yet, or for the input of each effect it moves. */
  followId: id().nullable().defined().default(null),
  followTap: yup.string<(typeof FOLLOW_TAPS)[number]>().strict().required().oneOf(FOLLOW_TAPS),
  attackSeconds: figure(0.0001, 1),
  releaseSeconds: figure(0.001, 10),
  /** Added to the level that is followed. */
  sensitivityDb: figure(-24, 48),
  /** The number of the MIDI controller that moves it by hand; null for none. */
  controller: figure(0, 127).integer().nullable().defined().default(null),
  /** Where the hand has left it, 0 to 1. */
  handPart: figure(0, 1),
  targets: yup.array(targetSchema).strict().required().max(64),
});

const kind = <K extends string>(value: K) => yup.string<K>().strict().required().oneOf([value]);
const fadeShape = () => yup.string<FadeShape>().strict().required().oneOf(FADE_SHAPES);

/** What a clip plays: a sound as it is, or what has been made of others. */
export type ClipSource =
  { readonly kind: 'sound'; readonly assetId: string } | { readonly kind: 'print'; readonly printId: string };

const sourceField = () =>
  yup.lazy((value: { kind?: unknown } | undefined) =>
    value?.kind === 'print'
      ? record({ kind: kind('print'), printId: id() })
      : record({ kind: kind('sound'), assetId: assetId() }),
  );

export const clipSchema = record({
  id: id(),
  trackId: id(),
  source: sourceField(),
  name: name(),
  startBeat: figure(0, LONGEST_BEATS),
  /** Sound left out at the beginning. */
  offsetSeconds: figure(0, LONGEST_SECONDS),
  lengthSeconds: figure(0.001, LONGEST_SECONDS),
  gainDb: figure(-100, 24),
  fadeInSeconds: figure(0, LONGEST_SECONDS),
  fadeInShape: fadeShape(),
  fadeOutSeconds: figure(0, LONGEST_SECONDS),
  fadeOutShape: fadeShape(),
  /** Plays its sound from the end. */
  reversed: flag(),
  mute: flag(),
});

export const assetSchema = record({
  /** SHA-256 of the file, in hexadecimal. */
  id: assetId(),
  name: name(),
  frames: figure(1, 2 ** 40).integer(),
  sampleRateHz: figure(1000, 1000000).integer(),
  channels: figure(1, 64).integer(),
});

export const insertSchema = record({
  id: id(),
  effect: yup.string().strict().required(),
  bypass: flag(),
  values: yup.object().strict().required(),
  /** Strips that it listens to, by slot of its spec; where none is named, its own input takes the place. */
  inputs: yup.object().strict().required(),
  /** Whose notes it plays: a strip's, or its own by its own id; null is the strip that it is on. */
  notesFrom: id().nullable().defined().default(null),
});

/** A note of a strip, or of an effect that has notes of its own. */
export const noteSchema = record({
  id: id(),
  ownerId: id(),
  startBeat: figure(0, LONGEST_BEATS),
  lengthBeats: figure(SHORTEST_NOTE_BEATS, LONGEST_BEATS),
  /** As MIDI numbers keys. */
  key: figure(LOWEST_KEY, HIGHEST_KEY).integer(),
  /** As MIDI tells how hard. */
  velocity: figure(1, 127).integer(),
});

const inputSchema = record({ stripId: id(), tap: yup.string<Tap>().strict().required().oneOf(TAPS) });

/** A strip with all its effects, before its fader. */
const stripRecipe = () => record({ kind: kind('strip'), stripId: id() });
/** A clip through the effects of its track. */
const clipRecipe = () => record({ kind: kind('clip'), clipId: id() });
/** A reverse reverb that grows towards a place in a clip. */
const swellRecipe = () =>
  record({
    kind: kind('swell'),
    clipId: id(),
    /** Where it lands, in the clip's sound. */
    landSeconds: figure(0, LONGEST_SECONDS),
    space: yup.lazy((value: { kind?: unknown } | undefined) =>
      value?.kind === 'return'
        ? record({ kind: kind('return'), returnId: id() })
        : record({ kind: kind('own'), inserts: yup.array(insertSchema).strict().required().max(16) }),
    ),
    /** Of `SWELL_PARAMETERS`; defaults take the place of what is not there. */
    values: yup.object().strict().required(),
  });
/** A sound without its flaws. */
const repairRecipe = () =>
  record({
    kind: kind('repair'),
    source: sourceField(),
    removeDc: flag(),
    /** Corner of a high-pass; 0 is none. */
    rumbleHz: figure(0, 400),
  });
const RECIPES = { strip: stripRecipe(), clip: clipRecipe(), swell: swellRecipe(), repair: repairRecipe() };

const NO_RECIPE: yup.AnyObjectSchema = record({ kind: yup.string().oneOf(Object.keys(RECIPES)).required() });

/** What a swell rings in: the effects of a return as they are, or effects of its own. */
export type SwellSpace =
  | { readonly kind: 'return'; readonly returnId: string }
  | { readonly kind: 'own'; readonly inserts: readonly Insert[] };
export type SwellRecipe = Omit<yup.InferType<ReturnType<typeof swellRecipe>>, 'space' | 'values'> & {
  space: SwellSpace;
  values: Record<string, ParameterValue>;
};
export type RepairRecipe = Omit<yup.InferType<ReturnType<typeof repairRecipe>>, 'source'> & { source: ClipSource };
export type PrintRecipe =
  | yup.InferType<ReturnType<typeof stripRecipe>>
  | yup.InferType<ReturnType<typeof clipRecipe>>
  | SwellRecipe
  | RepairRecipe;

/** Something computed from other things of the session: how, and what came of it when it was last done. */
export const printSchema = record({
  id: id(),
  recipe: yup.lazy(
    (value: { kind?: unknown } | undefined) => lookUp<yup.AnyObjectSchema>(RECIPES, value?.kind) ?? NO_RECIPE,
  ),
  /** Null until it has been made. */
  made: yup
    .object({
      assetId: assetId(),
      /** Of all that it was made from, to notice that something has changed. */
      fingerprint: yup.string().strict().defined().max(80),
      /** Place of a swell's landing in it; 0 for others. */
      landSeconds: figure(0, LONGEST_SECONDS),
    })
    .noUnknown()
    .strict()
    .nullable()
    .defined()
    .default(null),
});

const slotSchema = record({
  inserts: yup.array(insertSchema).strict().required(),
  /** Automation of these inserts. */
  lanes: yup.array(laneSchema).strict().required(),
});
const SLOT_NAMES = ['A', 'B', 'C', 'D'] as const;

/** Up to four settings of one effect or of the chain of a strip, to switch between. */
export const comparisonSchema = record({
  /** The insert or the strip whose settings are compared. */
  id: id(),
  /** The slot that is heard; what it holds is in the document itself. */
  current: yup.string<SlotName>().strict().required().oneOf(SLOT_NAMES),
  slots: record({
    A: slotSchema.nullable().defined().default(null),
    B: slotSchema.nullable().defined().default(null),
    C: slotSchema.nullable().defined().default(null),
    D: slotSchema.nullable().defined().default(null),
  }),
});

export type SessionRecord = yup.InferType<typeof sessionSchema>;
export type Note = yup.InferType<typeof noteSchema>;
export type Section = yup.InferType<typeof sectionSchema>;
export type Strip = yup.InferType<typeof mainSchema>;
export type Track = yup.InferType<typeof trackSchema>;
export type Return = yup.InferType<typeof returnSchema>;
export type Send = yup.InferType<typeof sendSchema>;
export type Point = yup.InferType<typeof pointSchema>;
export type Lane = yup.InferType<typeof laneSchema>;
export type Modulator = yup.InferType<typeof modulatorSchema>;
export type ModulationTarget = yup.InferType<typeof targetSchema>;
export type SlotName = 'A' | 'B' | 'C' | 'D';
export type Clip = Omit<yup.InferType<typeof clipSchema>, 'source'> & { source: ClipSource };
export type Print = Omit<yup.InferType<typeof printSchema>, 'recipe'> & { recipe: PrintRecipe };
export type Asset = yup.InferType<typeof assetSchema>;
export type InsertInput = yup.InferType<typeof inputSchema>;
export type Insert = Omit<yup.InferType<typeof insertSchema>, 'values' | 'inputs'> & {
  values: Record<string, ParameterValue>;
  inputs: Record<string, InsertInput>;
};

export type Slot = { inserts: Insert[]; lanes: Lane[] };
export type Comparison = {
  id: string;
  current: SlotName;
  slots: Record<SlotName, Slot | null>;
};

/** A session as plain data: flat records by id, positions in beats (quarter notes), lengths of sound in seconds. */
export interface SessionDocument {
  version: typeof DOCUMENT_VERSION;
  session: SessionRecord;
  main: Strip;
  sections: Record<string, Section>;
  tracks: Record<string, Track>;
  returns: Record<string, Return>;
  sends: Record<string, Send>;
  clips: Record<string, Clip>;
  assets: Record<string, Asset>;
  inserts: Record<string, Insert>;
  lanes: Record<string, Lane>;
  notes: Record<string, Note>;
  modulators: Record<string, Modulator>;
  comparisons: Record<string, Comparison>;
  prints: Record<string, Print>;
}

const SCHEMAS = {
  session: sessionSchema,
  main: mainSchema,
  sections: sectionSchema,
  tracks: trackSchema,
  returns: returnSchema,
  sends: sendSchema,
  clips: clipSchema,
  assets: assetSchema,
  inserts: insertSchema,
  lanes: laneSchema,
  notes: noteSchema,
  modulators: modulatorSchema,
  comparisons: comparisonSchema,
  prints: printSchema,
} as const;

export type CollectionName = Exclude<keyof typeof SCHEMAS, 'session' | 'main'>;
export const COLLECTIONS = Object.keys(SCHEMAS).filter(
  (name): name is CollectionName => name !== 'session' && name !== 'main',
);

const refusal = (message: string, cause?: unknown) =>
  new KinetikonError('session.invalid', message, { kept: 'Nothing was changed.', cause });

/**
 * Checks one record against its schema and, for an insert, its values against its effect.
 * @throws KinetikonError session.invalid, parameter.range, parameter.unknown, effect.unknown
 */
export function validateRecord(kind: keyof typeof SCHEMAS, value: unknown): void {
  try {
    SCHEMAS[kind].validateSync(kind === 'lanes' ? withoutPlainPoints(value) : value, { strict: true });
  } catch (error) {
    if (error instanceof yup.ValidationError) throw refusal(`In ${kind}: ${error.errors[0]}.`, error);
    throw error;
  }
  if (kind === 'inserts') validateInsert(value as Insert);
  if (kind === 'prints') validatePrint(value as Print);
  if (kind === 'modulators') validateValue(MODULATOR_RATE, (value as Modulator).rate);
  if (kind === 'comparisons') {
    for (const slot of Object.values((value as Comparison).slots)) slot?.inserts.forEach(validateInsert);
  }
}

/** True for what `pointSchema` takes, in a hundredth of its time. */
function isPlainPoint(point: unknown): boolean {
  if (typeof point !== 'object' || point === null || Object.keys(point).length !== 4) return false;
  const { beat, value, shape, bend } = point as Record<keyof Point, unknown>;
  return (
    typeof beat === 'number' &&
    beat >= 0 &&
    beat <= LONGEST_BEATS &&
    (typeof value === 'number' || typeof value === 'string' || typeof value === 'boolean') &&
    (POINT_SHAPES as readonly unknown[]).includes(shape) &&
    typeof bend === 'number' &&
    bend >= -1 &&
    bend <= 1
  );
}

/** The lane without its points when all of them are as they should be: hundreds of thousands are checked at a time. */
function withoutPlainPoints(lane: unknown): unknown {
  const points: unknown = (lane as Partial<Lane> | null)?.points;
  const plain = Array.isArray(points) && points.length <= MOST_POINTS && points.every(isPlainPoint);
  return plain ? { ...(lane as Lane), points: [] } : lane;
}

function validateInsert(insert: Insert): void {
  const spec = findEffect(insert.effect);
  if (!spec)
    throw new KinetikonError('effect.unknown', `There is no effect "${quoted(insert.effect)}".`, {
      kept: 'Nothing was changed.',
    });
  validateValues(spec, insert.values);
  for (const [slot, input] of Object.entries(insert.inputs)) {
    if (!spec.inputs?.some((one) => one.id === slot)) throw refusal(`${spec.name} has no input ${quoted(slot)}.`);
    try {
      inputSchema.validateSync(input, { strict: true });
    } catch (error) {
      throw refusal(`The input ${slot} of ${spec.name} is damaged.`, error);
    }
  }
}

function validatePrint({ recipe }: Print): void {
  if (recipe.kind !== 'swell') return;
  for (const [key, value] of Object.entries(recipe.values)) {
    const parameter = SWELL_PARAMETERS.find((one) => one.id === key);
    if (!parameter) throw refusal(`A swell has no ${quoted(key)}.`);
    validateValue(parameter, value);
  }
  if (recipe.space.kind === 'own') recipe.space.inserts.forEach(validateInsert);
}

/** A clip as it begins: its sound as it is. */
export function newClip(one: Pick<Clip, 'id' | 'trackId' | 'source' | 'name' | 'startBeat' | 'lengthSeconds'>): Clip {
  return {
    ...one,
    offsetSeconds: 0,
    gainDb: 0,
    fadeInSeconds: 0,
    fadeInShape: 'smooth',
    fadeOutSeconds: 0,
    fadeOutShape: 'smooth',
    reversed: false,
    mute: false,
  };
}

/** An empty session. */
export function newDocument(sessionName: string): SessionDocument {
  return {
    version: DOCUMENT_VERSION,
    session: {
      name: sessionName,
      tempoBpm: 100,
      metreBeats: 4,
      metreUnit: 4,
      keyTonic: 'C',
      keyMode: 'major',
      sampleRateHz: 48000,
      loopOn: false,
      loopStartBeat: 0,
      loopEndBeat: 16,
      trackIds: [],
      returnIds: [],
      effectsOff: false,
      wetOnly: false,
      bounceFinest: false,
      stage: 'speakers',
      panLaw: '3',
    },
    main: newStrip(MAIN_ID, 'Main'),
    sections: {},
    tracks: {},
    returns: {},
    sends: {},
    clips: {},
    assets: {},
    inserts: {},
    lanes: {},
    notes: {},
    modulators: {},
    comparisons: {},
    prints: {},
  };
}

function newStrip(stripId: string, stripName: string): Strip {
  return {
    id: stripId,
    name: stripName,
    gainDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    bypass: false,
    insertIds: [],
    panMode: 'balance',
    monoLimitDb: 4,
  };
}

export function newTrack(trackId: string, trackName: string): Track {
  return { ...newStrip(trackId, trackName), outputId: MAIN_ID, frozen: null, placeId: null, oppositeOf: null };
}

/** A return pans both its sides, which it alone may hold; a group begins as tracks do. */
export function newReturn(returnId: string, returnName: string, role: Return['role']): Return {
  return { ...newTrack(returnId, returnName), panMode: role === 'return' ? 'stereo' : 'balance', role };
}

/** A send as it begins: after the fader, a little softer than the sound itself. */
export function newSend(sendId: string, fromId: string, toId: string): Send {
  return { id: sendId, fromId, toId, gainDb: -6, tap: 'afterFader', mute: false };
}

/** A modulator as it begins, without anything to move. */
export function newModulator(modulatorId: string, modulatorName: string, kind: Modulator['kind']): Modulator {
  return {
    id: modulatorId,
    name: modulatorName,
    on: true,
    kind,
    rate: kind === 'pattern' ? '1/8' : '1bar',
    shape: 'sine',
    phaseDegrees: 0,
    smoothingSeconds: kind === 'pattern' ? 0.02 : 0,
    steps: [1, -0.5, 0.25, -1, 0.75, -0.25, 0.5, -0.75],
    followId: null,
    followTap: 'beforeFader',
    attackSeconds: 0.01,
    releaseSeconds: 0.25,
    sensitivityDb: 12,
    controller: null,
    handPart: 0,
    targets: [],
  };
}

/** Quarter notes in a bar of the session's metre. */
export function beatsPerBar(session: Pick<SessionRecord, 'metreBeats' | 'metreUnit'>): number {
  return (session.metreBeats * 4) / session.metreUnit;
}

/** Tempo and metre as note values need them. */
export function timingOf({ session }: SessionDocument): Timing {
  return { tempoBpm: session.tempoBpm, beatsPerBar: beatsPerBar(session) };
}

/** A track, a return or a group: all but the main output. */
export function channelOf(document: SessionDocument, stripId: string): Track | Return | undefined {
  return document.tracks[stripId] ?? document.returns[stripId];
}

/** The strip of a track, a return, a group or the main output. */
export function stripOf(document: SessionDocument, stripId: string): Strip | undefined {
  return stripId === MAIN_ID ? document.main : channelOf(document, stripId);
}

/** Tracks, then returns and groups, then the main output, in the order in which they are shown. */
export function allStrips(document: SessionDocument): Strip[] {
  return [...channels(document), document.main];
}

/** Tracks, then returns and groups. */
export function channels(document: SessionDocument): (Track | Return)[] {
  const { trackIds, returnIds } = document.session;
  return [...trackIds.map((one) => document.tracks[one]!), ...returnIds.map((one) => document.returns[one]!)];
}

/** The strip on which an effect stands, or whose place it is. */
export function stripOfInsert(document: SessionDocument, insertId: string): Strip | undefined {
  const placed = channels(document).find(({ placeId }) => placeId === insertId);
  return placed ?? allStrips(document).find((strip) => strip.insertIds.includes(insertId));
}

/** Beat at which the last clip or note ends. */
export function endBeat(document: SessionDocument): number {
  const perSecond = document.session.tempoBpm / 60;
  let end = 0;
  for (const clip of Object.values(document.clips)) {
    end = Math.max(end, clip.startBeat + clip.lengthSeconds * perSecond);
  }
  for (const note of Object.values(document.notes)) end = Math.max(end, note.startBeat + note.lengthBeats);
  return end;
}
