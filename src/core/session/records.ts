import * as yup from 'yup';
import { KinetikonError } from '../errors';
import { findEffect } from '../effects/registry';
import { validateValues } from '../effects/resolve';
import type { ParameterValue } from '../effects/spec';

/** The version of documents written by this build. */
export const DOCUMENT_VERSION = 1;

export const NAME_LENGTH = 120;
export const TEMPO = { min: 20, max: 300 } as const;
export const RATES_HZ = [44100, 48000, 96000] as const;
export const TONICS = ['C', 'C#', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'Ab', 'A', 'Bb', 'B'] as const;
export const MODES = ['major', 'minor', 'dorian', 'phrygian', 'lydian', 'mixolydian', 'locrian'] as const;
/** The strip every session ends in. */
export const MAIN_ID = 'main';

const id = () =>
  yup
    .string()
    .strict()
    .required()
    .max(80)
    .matches(/^[\w-]+$/, '${path} must be an id, not "${value}"');
const name = () => yup.string().strict().required().min(1).max(NAME_LENGTH);
const figure = (min: number, max: number) => yup.number().strict().required().min(min).max(max);
const flag = () => yup.boolean().strict().required();
const record = <T extends yup.ObjectShape>(shape: T) => yup.object(shape).noUnknown().strict().required();

const LONGEST_BEATS = 100000;
const LONGEST_SECONDS = 36000;

export const sessionSchema = record({
  name: name(),
  /** Quarter notes a minute. */
  tempoBpm: figure(TEMPO.min, TEMPO.max),
  metreBeats: figure(1, 16).integer(),
  metreUnit: yup.number().strict().required().oneOf([2, 4, 8, 16]),
  keyTonic: yup.string().strict().required().oneOf(TONICS),
  keyMode: yup.string().strict().required().oneOf(MODES),
  sampleRateHz: yup.number().strict().required().oneOf(RATES_HZ),
  loopOn: flag(),
  loopStartBeat: figure(0, LONGEST_BEATS),
  loopEndBeat: figure(0, LONGEST_BEATS),
  trackIds: yup.array(id()).strict().required(),
});

export const sectionSchema = record({
  id: id(),
  name: name(),
  startBeat: figure(0, LONGEST_BEATS),
  lengthBeats: figure(0.25, LONGEST_BEATS),
});

const stripShape = {
  id: id(),
  name: name(),
  /** -100 is silence. */
  gainDb: figure(-100, 12),
  /** -100 left to 100 right. */
  pan: figure(-100, 100),
  mute: flag(),
  solo: flag(),
  insertIds: yup.array(id()).strict().required(),
};

export const trackSchema = record(stripShape);
export const mainSchema = record(stripShape);

export const clipSchema = record({
  id: id(),
  trackId: id(),
  assetId: id(),
  name: name(),
  startBeat: figure(0, LONGEST_BEATS),
  /** Sound left out at the beginning. */
  offsetSeconds: figure(0, LONGEST_SECONDS),
  lengthSeconds: figure(0.001, LONGEST_SECONDS),
  gainDb: figure(-100, 24),
  fadeInSeconds: figure(0, LONGEST_SECONDS),
  fadeOutSeconds: figure(0, LONGEST_SECONDS),
});

export const assetSchema = record({
  /** SHA-256 of the file, in hexadecimal. */
  id: yup
    .string()
    .strict()
    .required()
    .matches(/^[0-9a-f]{64}$/, '${path} must be a SHA-256 sum'),
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
});

export type SessionRecord = yup.InferType<typeof sessionSchema>;
export type Section = yup.InferType<typeof sectionSchema>;
export type Track = yup.InferType<typeof trackSchema>;
export type Clip = yup.InferType<typeof clipSchema>;
export type Asset = yup.InferType<typeof assetSchema>;
export type Insert = Omit<yup.InferType<typeof insertSchema>, 'values'> & { values: Record<string, ParameterValue> };

/** A session as plain data: flat records by id, positions in beats (quarter notes), lengths of sound in seconds. */
export interface SessionDocument {
  version: typeof DOCUMENT_VERSION;
  session: SessionRecord;
  main: Track;
  sections: Record<string, Section>;
  tracks: Record<string, Track>;
  clips: Record<string, Clip>;
  assets: Record<string, Asset>;
  inserts: Record<string, Insert>;
}

const SCHEMAS = {
  session: sessionSchema,
  main: mainSchema,
  sections: sectionSchema,
  tracks: trackSchema,
  clips: clipSchema,
  assets: assetSchema,
  inserts: insertSchema,
} as const;

export type CollectionName = 'sections' | 'tracks' | 'clips' | 'assets' | 'inserts';
export const COLLECTIONS: readonly CollectionName[] = ['sections', 'tracks', 'clips', 'assets', 'inserts'];

const refusal = (message: string, cause?: unknown) =>
  new KinetikonError('session.invalid', message, { kept: 'Nothing was changed.', cause });

/**
 * Checks one record against its schema and, for an insert, its values against its effect.
 * @throws KinetikonError session.invalid, parameter.range, parameter.unknown, effect.unknown
 */
export function validateRecord(kind: keyof typeof SCHEMAS, value: unknown): void {
  try {
    SCHEMAS[kind].validateSync(value, { strict: true });
  } catch (error) {
    if (error instanceof yup.ValidationError) throw refusal(`In ${kind}: ${error.errors[0]}.`, error);
    throw error;
  }
  if (kind === 'inserts') {
    const insert = value as Insert;
    const spec = findEffect(insert.effect);
    if (!spec)
      throw new KinetikonError('effect.unknown', `There is no effect "${insert.effect}".`, {
        kept: 'Nothing was changed.',
      });
    validateValues(spec, insert.values);
  }
}

/**
 * Checks a whole document: every record, and that every reference has its target.
 * @throws KinetikonError session.invalid, session.newer and those of `validateRecord`
 */
export function validateDocument(value: unknown): SessionDocument {
  if (typeof value !== 'object' || value === null) throw refusal('A session must be an object.');
  const document = value as SessionDocument;
  if (typeof document.version === 'number' && document.version > DOCUMENT_VERSION) {
    throw new KinetikonError(
      'session.newer',
      `This session was written by a newer version of Kinetikon (document ${document.version}).`,
      {
        kept: 'It is untouched.',
        next: 'Open it with that version.',
      },
    );
  }
  if (document.version !== DOCUMENT_VERSION)
    throw refusal(`A session has version ${DOCUMENT_VERSION}, not ${String(document.version)}.`);
  validateRecord('session', document.session);
  validateRecord('main', document.main);
  for (const collection of COLLECTIONS) {
    const records = document[collection];
    if (typeof records !== 'object' || records === null) throw refusal(`A session needs ${collection}.`);
    for (const [key, one] of Object.entries(records)) {
      validateRecord(collection, one);
      if (one.id !== key) throw refusal(`In ${collection}: ${key} holds a record with the id ${one.id}.`);
    }
  }
  validateReferences(document);
  return document;
}

/** @throws KinetikonError session.invalid */
export function validateReferences(document: SessionDocument): void {
  const { session, tracks, main } = document;
  if (session.trackIds.length !== Object.keys(tracks).length || session.trackIds.some((one) => !tracks[one])) {
    throw refusal('The order of tracks and the tracks differ.');
  }
  const placed = [...Object.values(tracks), main].flatMap((strip) => strip.insertIds);
  if (
    new Set(placed).size !== placed.length ||
    placed.length !== Object.keys(document.inserts).length ||
    placed.some((one) => !document.inserts[one])
  ) {
    throw refusal('The effects on tracks and the effects differ.');
  }
  for (const clip of Object.values(document.clips)) {
    if (!tracks[clip.trackId]) throw refusal(`The clip ${clip.name} lies on a track that is not there.`);
    if (!document.assets[clip.assetId]) throw refusal(`The clip ${clip.name} plays a sound that is not there.`);
  }
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
    },
    main: newStrip(MAIN_ID, 'Main'),
    sections: {},
    tracks: {},
    clips: {},
    assets: {},
    inserts: {},
  };
}

export function newStrip(stripId: string, stripName: string): Track {
  return { id: stripId, name: stripName, gainDb: 0, pan: 0, mute: false, solo: false, insertIds: [] };
}

/** Quarter notes in a bar of the session's metre. */
export function beatsPerBar(session: Pick<SessionRecord, 'metreBeats' | 'metreUnit'>): number {
  return (session.metreBeats * 4) / session.metreUnit;
}

/** The strip of a track, or the main one. */
export function stripOf(document: SessionDocument, stripId: string): Track | undefined {
  return stripId === MAIN_ID ? document.main : document.tracks[stripId];
}

/** The strip on which an effect stands. */
export function stripOfInsert(document: SessionDocument, insertId: string): Track | undefined {
  return [...Object.values(document.tracks), document.main].find((strip) => strip.insertIds.includes(insertId));
}

/** Beat at which the last clip ends. */
export function endBeat(document: SessionDocument): number {
  const perSecond = document.session.tempoBpm / 60;
  return Math.max(0, ...Object.values(document.clips).map((clip) => clip.startBeat + clip.lengthSeconds * perSecond));
}
