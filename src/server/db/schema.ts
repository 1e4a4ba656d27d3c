import { customType, index, integer, jsonb, pgTable, primaryKey, text, timestamp } from 'drizzle-orm/pg-core';
import type { PresetFile } from '@/core/formats/preset';
import type { History } from '@/core/session/history';
import type { SessionDocument } from '@/core/session/records';

const bytea = customType<{ data: Uint8Array }>({ dataType: () => 'bytea' });

const moment = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' }).notNull().defaultNow();

/** Sessions with their current document; the revision counts the saves. */
export const sessions = pgTable('sessions', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  revision: integer('revision').notNull(),
  document: jsonb('document').$type<SessionDocument>().notNull(),
  history: jsonb('history').$type<History>().notNull(),
  createdAt: moment('created_at'),
  updatedAt: moment('updated_at'),
});

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

/** What the application remembers outside sessions. */
export const settings = pgTable('settings', {
  key: text('key').primaryKey(),
  value: jsonb('value').notNull(),
});
