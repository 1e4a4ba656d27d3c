import { sessionSchema, sectionSchema, type SessionRecord, type Section } from './session';
import {
  mainSchema,
  trackSchema,
  returnSchema,
  sendSchema,
  type Strip,
  type Track,
  type Return,
  type Send,
} from './strips';
import { laneSchema, noteSchema, type Lane, type Note } from './lanes';
import { modulatorSchema, type Modulator } from './modulators';
import { clipSchema, assetSchema, type Clip, type Asset } from './clips';
import { insertSchema, type Insert, comparisonSchema, type Comparison } from './inserts';
import { printSchema, type Print } from './prints';

/** Version of the documents that this build writes. */
export const DOCUMENT_VERSION = 12;

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

export const SCHEMAS = {
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
