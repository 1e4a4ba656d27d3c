import {
  bigint,
  boolean,
  customType,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
} from 'drizzle-orm/pg-core';
import type { PresetFile } from '@/core/formats/preset';
import type { SessionSummary } from '@/core/protocol/http';
import type { RenderError, RenderFacts } from '@/core/protocol/renders';
import { RENDER_STATES } from '@/core/protocol/renderStates';
import type { Change } from '@/core/session/changes';
import type { Step } from '@/core/session/commands';
import type { SessionDocument } from '@/core/session/records/document';
import type { RenderKind, RenderRequest } from '@/core/session/renderRequests';

const bytea = customType<{ data: Uint8Array }>({
  dataType: () => 'bytea',
  fromDriver: (value) => {
    const { buffer, byteOffset, byteLength } = value as Uint8Array;
    return new Uint8Array(buffer, byteOffset, byteLength);
  },
});

const moment = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' }).notNull().defaultNow();

/** Fields of the list of sessions, computed when a session is saved. */
export type Summary = Pick<SessionSummary, 'tracks' | 'seconds' | 'picture'>;

/**
 * Sessions with a snapshot of their document, which is brought up to date by the changes of its saves; the revision
 * counts the saves.
 */
export const sessions = pgTable(
  'sessions',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    revision: integer('revision').notNull(),
    document: jsonb('document').$type<SessionDocument>().notNull(),
    /** Null until the session is saved or opened by a version that knows summaries. */
    summary: jsonb('summary').$type<Summary>(),
    /** The save the document is from, as its caller named it. */
    saveId: text('save_id'),
    /** It began as a copy of the demo. */
    fromDemo: boolean('from_demo').notNull().default(false),
    /** Number of the step that would be done again next. */
    stepCursor: integer('step_cursor').notNull().default(0),
    createdAt: moment('created_at'),
    updatedAt: moment('updated_at'),
    /** Time at which it was put into the bin; null if it is not there. */
    binnedAt: timestamp('binned_at', { withTimezone: true, mode: 'date' }),
  },
  (table) => [index('sessions_changed').on(table.updatedAt, table.id)],
);

/** Changes of saves that the snapshot of the session does not have yet, by the revision that they led to. */
export const sessionChanges = pgTable(
  'session_changes',
  {
    sessionId: text('session_id')
      .notNull()
      .references(() => sessions.id, { onDelete: 'cascade' }),
    revision: integer('revision').notNull(),
    changes: jsonb('changes').$type<readonly Change[]>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.sessionId, table.revision] })],
);

/** Undo steps of a session, numbered from its beginning. */
export const sessionSteps = pgTable(
  'session_steps',
  {
    sessionId: text('session_id')
      .notNull()
      .references(() => sessions.id, { onDelete: 'cascade' }),
    number: integer('number').notNull(),
    step: jsonb('step').$type<Step>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.sessionId, table.number] })],
);

/** Sound files by content; a sound exists once its row does. */
export const assets = pgTable('assets', {
  id: text('id').primaryKey(),
  /** The upload that brought it in: the id of the blob with its bytes. */
  uploadId: text('upload_id').notNull(),
  name: text('name').notNull(),
  format: text('format').notNull(),
  bytes: bigint('bytes', { mode: 'number' }).notNull(),
  sampleRateHz: integer('sample_rate_hz').notNull(),
  frames: bigint('frames', { mode: 'number' }).notNull(),
  channels: integer('channels').notNull(),
  peaks: bytea('peaks').notNull(),
  createdAt: moment('created_at'),
  /** Time of its last upload, or from which on nothing has used it. */
  usedAt: moment('used_at'),
  /** Brought in by a batch alone: once it is unused for a while it goes by itself. */
  temporary: boolean('temporary').notNull().default(false),
});

/** Uploads under way. The sweep takes the blobs of those whose heartbeat has stopped. */
export const uploads = pgTable('uploads', {
  id: text('id').primaryKey(),
  beatAt: moment('beat_at'),
});

/** Checksums of blobs, one for each piece of 1 MiB. */
export const blobPieces = pgTable(
  'blob_pieces',
  {
    blobId: text('blob_id').notNull(),
    piece: integer('piece').notNull(),
    /** SHA-256 in hexadecimal. */
    sum: text('sum').notNull(),
  },
  (table) => [primaryKey({ columns: [table.blobId, table.piece] })],
);

/** Bytes of blobs in pieces of 1 MiB, where blobs are kept in the database. */
export const assetChunks = pgTable(
  'asset_chunks',
  {
    uploadId: text('upload_id').notNull(),
    piece: integer('piece').notNull(),
    data: bytea('data').notNull(),
  },
  (table) => [primaryKey({ columns: [table.uploadId, table.piece] })],
);

/** Kinds of records that use sounds. */
export const SOUND_OWNERS = ['session', 'step', 'preset', 'demo', 'render'] as const;

/** Records that use sounds, written in the transaction of the record. A sound that none uses may be swept. */
export const soundUses = pgTable(
  'sound_uses',
  {
    soundId: text('sound_id').notNull(),
    kind: text('kind', { enum: SOUND_OWNERS }).notNull(),
    /** Id of the session, of which it may be a step, of the preset, or of the render. */
    ownerId: text('owner_id').notNull(),
    /** Number of the step; 0 for other kinds. */
    part: integer('part').notNull().default(0),
  },
  (table) => [
    primaryKey({ columns: [table.kind, table.ownerId, table.part, table.soundId] }),
    index('sound_uses_sound').on(table.soundId),
  ],
);

/** Presets marked as favourites: ids of stored presets, and of shipped ones as `factory/EFFECT/ID`. */
export const favourites = pgTable('favourites', {
  presetId: text('preset_id').primaryKey(),
  createdAt: moment('created_at'),
});

/** Renders that are asked for, under way or done, each once for its key. */
export const renders = pgTable(
  'renders',
  {
    id: text('id').primaryKey(),
    /** Hash of the request and of the versions that it depends on. */
    key: text('key').notNull().unique(),
    kind: text('kind').$type<RenderKind>().notNull(),
    /** Name for people. */
    name: text('name').notNull(),
    sessionId: text('session_id'),
    /** The request, or the blob that it is in when it is large. */
    request: jsonb('request').$type<RenderRequest>(),
    requestBlob: text('request_blob'),
    requestBytes: integer('request_bytes').notNull(),
    engineVersion: integer('engine_version').notNull(),
    documentVersion: integer('document_version').notNull(),
    state: text('state', { enum: RENDER_STATES }).notNull(),
    /** Higher ones are taken first. */
    priority: integer('priority').notNull(),
    /** Times that it has been begun. A worker that has lost it to another knows by that. */
    attempt: integer('attempt').notNull().default(0),
    progress: doublePrecision('progress').notNull().default(0),
    workerId: text('worker_id'),
    /** Name of the machine that it runs or ran on. */
    machine: text('machine'),
    /** The job in the queue of the server. */
    queueJob: text('queue_job'),
    result: jsonb('result').$type<RenderFacts>(),
    resultBlob: text('result_blob'),
    resultBytes: bigint('result_bytes', { mode: 'number' }),
    error: jsonb('error').$type<RenderError>(),
    createdAt: moment('created_at'),
    startedAt: timestamp('started_at', { withTimezone: true, mode: 'date' }),
    endedAt: timestamp('ended_at', { withTimezone: true, mode: 'date' }),
  },
  (table) => [index('renders_session').on(table.sessionId), index('renders_state').on(table.state, table.createdAt)],
);

/** Workers that are alive, by their heartbeat. */
export const workers = pgTable('workers', {
  id: text('id').primaryKey(),
  machine: text('machine').notNull(),
  engineVersion: integer('engine_version').notNull(),
  documentVersion: integer('document_version').notNull(),
  /** Renders that it runs at once. */
  jobs: integer('jobs').notNull(),
  beatAt: moment('beat_at'),
});

/** Presets people have saved; the shipped ones come with the effects. */
export const presets = pgTable('presets', {
  id: text('id').primaryKey(),
  content: jsonb('content').$type<PresetFile>().notNull(),
  createdAt: moment('created_at'),
});

/** Settings of the application, outside of sessions. */
export const settings = pgTable('settings', {
  key: text('key').primaryKey(),
  value: jsonb('value').notNull(),
});
