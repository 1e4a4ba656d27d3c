import { randomUUID } from 'node:crypto';
import { asc, eq } from 'drizzle-orm';
import { KinetikonError } from '@/core/errors';
import type { PresetFile } from '@/core/formats/preset';
import type { PresetList, StoredPreset } from '@/core/protocol/http';
import type { Database } from '../db/database';
import { favourites, presets } from '../db/schema';
import { addUses, dropUses } from './soundUses';

/** All saved presets, oldest first, and which of all presets are favourites. */
export async function listPresets(db: Database): Promise<PresetList> {
  const rows = await db.select().from(presets).orderBy(asc(presets.createdAt), asc(presets.id));
  const marked = await db.select().from(favourites).orderBy(asc(favourites.createdAt), asc(favourites.presetId));
  return {
    presets: rows.map(({ id, content }) => ({ id, preset: content })),
    favourites: marked.map(({ presetId }) => presetId),
  };
}

export async function createPreset(db: Database, preset: PresetFile): Promise<StoredPreset> {
  const id = randomUUID();
  await db.transaction(async (work) => {
    await work.insert(presets).values({ id, content: preset });
    await addUses(work, { kind: 'preset', ownerId: id }, preset);
  });
  return { id, preset };
}

/** @throws KinetikonError preset.missing */
export async function removePreset(db: Database, id: string): Promise<void> {
  await db.transaction(async (work) => {
    const removed = await work.delete(presets).where(eq(presets.id, id)).returning({ id: presets.id });
    if (removed.length === 0) throw new KinetikonError('preset.missing', `There is no preset ${id}.`);
    await work.delete(favourites).where(eq(favourites.presetId, id));
    await dropUses(work, { kind: 'preset', ownerId: id });
  });
}

/** @param id of a stored preset, or of a shipped one as `factory/EFFECT/ID` */
export async function setFavourite(db: Database, id: string, on: boolean): Promise<void> {
  if (on) await db.insert(favourites).values({ presetId: id }).onConflictDoNothing();
  else await db.delete(favourites).where(eq(favourites.presetId, id));
}
