import { randomUUID } from 'node:crypto';
import { asc, eq } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import type { PresetFile } from '@/core/formats/preset';
import type { PresetList, StoredPreset } from '@/core/protocol/http';
import type { Database } from '../db/client';
import { presets } from '../db/schema';
import { readSetting, writeSetting } from './settings';

const FAVOURITES = 'presets.favourites';

async function favourites(db: Database): Promise<string[]> {
  return ((await readSetting(db, FAVOURITES)) as string[] | undefined) ?? [];
}

/** All saved presets, oldest first, and which of all presets are favourites. */
export async function listPresets(db: Database): Promise<PresetList> {
  const rows = await db.select().from(presets).orderBy(asc(presets.createdAt));
  return { presets: rows.map(({ id, content }) => ({ id, preset: content })), favourites: await favourites(db) };
}

export async function createPreset(db: Database, preset: PresetFile): Promise<StoredPreset> {
  const id = randomUUID();
  await db.insert(presets).values({ id, content: preset });
  return { id, preset };
}

/** @throws KinetikonError preset.missing */
export async function removePreset(db: Database, id: string): Promise<void> {
  const removed = await db.delete(presets).where(eq(presets.id, id)).returning({ id: presets.id });
  if (removed.length === 0) throw new KinetikonError('preset.missing', `There is no preset ${id}.`);
  await setFavourite(db, id, false);
}

export async function setFavourite(db: Database, id: string, on: boolean): Promise<void> {
  const others = (await favourites(db)).filter((one) => one !== id);
  await writeSetting(db, FAVOURITES, on ? [...others, id] : others);
}
