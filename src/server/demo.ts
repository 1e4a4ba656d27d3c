import { createReadStream } from 'node:fs';
import { validateDocument } from '@/core/session/document';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { newDocument, type SessionDocument } from '@/core/session/records';
import type { Database } from './db/client';
import { log } from './log';
import { storeAsset } from './repositories/assets';
import { createSession } from './repositories/sessions';
import { readSetting, writeSetting } from './repositories/settings';

const INSTALLED = 'demo.installed';

/** Puts the demo session and its sounds into the database, once; what the user makes of it stays. */
export async function installDemo(db: Database): Promise<void> {
  if (await readSetting(db, INSTALLED)) return;
  const folder = join(process.cwd(), 'demo');
  const template = JSON.parse(await readFile(join(folder, 'session.json'), 'utf8')) as SessionDocument;
  const document: SessionDocument = { ...newDocument(template.session.name), ...template };
  for (const asset of Object.values(template.assets)) {
    const stored = await storeAsset(db, asset.name, createReadStream(join(folder, 'sounds', asset.name)));
    if (stored.id !== asset.id) throw new Error(`demo/sounds/${asset.name} is not the sound demo/session.json names`);
  }
  await createSession(db, validateDocument(document));
  await writeSetting(db, INSTALLED, true);
  log('demo.installed', { sounds: Object.keys(template.assets).length });
}
