import { customType, index, integer, jsonb, pgTable, primaryKey, text, timestamp } from 'drizzle-orm/pg-core';
import type { PresetFile } from '@/core/formats/preset';
import type { SessionSummary } from '@/core/protocol/http';
import type { Change } from '@/core/session/changes';
import type { Step } from '@/core/session/commands';
import type { SessionDocument } from '@/core/session/records/document';

const bytea = customType<{ data: Uint8Array }>({ dataType: () => 'bytea' });

const moment = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' }).notNull().defaultNow();

/** Fields of the list of sessions, computed when a session is saved. */
export type Summary = Pick<SessionSummary, 'tracks' | 'seconds' | 'picture'>;

/**
 * Sessions with a snapshot of their document, which is brought up to date by the changes of its saves; the revision
 * counts the saves.
 */
export const sessions = pgTable('sessions', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  revision: integer('revision').notNull(),
  document: jsonb('document').$type<SessionDocument>().notNull(),
  /** Null until the session is saved or opened by a version that knows summaries. */
  summary: jsonb('summary').$type<Summary>(),
  /** The save the document is from, as its caller named it. */
  saveId: text('save_id'),
  /** Number of the step that would be done again next. */
  stepCursor: integer('step_cursor').notNull().default(0),
  createdAt: moment('created_at'),
  updatedAt: moment('updated_at'),
  /** Time at which it was put into the bin; null if it is not there. */
  binnedAt: timestamp('binned_at', { withTimezone: true, mode: 'date' }),
});

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

/** Sound files by content; an asset exists once its row does, its bytes lie in the chunks of its upload. */
export const assets = pgTable('assets', {
  id: text('id').primaryKey(),
  uploadId: text('upload_id').notNull(),
  name: text('name').notNull(),
  format: text('format').notNull(),
  bytes: integer('bytes').notNull(),
  sampleRateHz: integer('sample_rate_hz').notNull(),
  frames: integer('frames').notNull(),
  channels: integer('channels').notNull(),
  peaks: bytea('peaks').notNull(),
  createdAt: moment('created_at'),
  /** Time of its last upload, or of the removal of a session that used it. */
  usedAt: moment('used_at'),
});

/** Bytes of uploads in pieces of 1 MiB. Uploads that no asset names are swept at start. */
export const assetChunks = pgTable(
  'asset_chunks',
  {
    uploadId: text('upload_id').notNull(),
    piece: integer('piece').notNull(),
    data: bytea('data').notNull(),
  },
  (table) => [primaryKey({ columns: [table.uploadId, table.piece] }), index('asset_chunks_upload').on(table.uploadId)],
);

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
