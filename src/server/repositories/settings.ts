import { eq } from 'drizzle-orm';
import type { Database, Work } from '../db/database';
import { settings } from '../db/schema';

export async function readSetting(db: Database, key: string): Promise<unknown> {
  const [row] = await db.select().from(settings).where(eq(settings.key, key));
  return row?.value;
}

export async function writeSetting(work: Work, key: string, value: unknown): Promise<void> {
  await work.insert(settings).values({ key, value }).onConflictDoUpdate({ target: settings.key, set: { value } });
}
