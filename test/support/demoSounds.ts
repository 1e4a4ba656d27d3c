import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import type { SessionDocument } from '@/core/session/records/document';
import type { Database } from '@/server/db/database';
import { storeAsset } from '@/server/repositories/assets';

/** Stores the sounds of the demo session. */
export async function storeDemoSounds(db: Database, demo: SessionDocument): Promise<void> {
  for (const { name } of Object.values(demo.assets))
    await storeAsset(db, name, createReadStream(join('demo/sounds', name)));
}
