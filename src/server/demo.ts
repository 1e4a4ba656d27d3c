import { createReadStream } from 'node:fs';
import { validateDocument } from '@/core/session/document';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { KinetikonError } from '@/core/errors';
import { newDocument } from '@/core/session/records/factories';
import type { Asset } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import type { Database } from './db/database';
import { log } from './log';
import { ROOT } from './root';
import { storeAsset } from './repositories/assets';
import { createSession } from './repositories/sessions';
import { replaceUses } from './repositories/soundUses';
import { readSetting, writeSetting } from './repositories/settings';

/** Ids of the demo's sounds that have been put in. */
const INSTALLED = 'demo.installed';

const FOLDER = join(/* turbopackIgnore: true */ ROOT, 'demo');

async function demoDocument(): Promise<SessionDocument> {
  const template = JSON.parse(await readFile(join(FOLDER, 'session.json'), 'utf8')) as SessionDocument;
  return validateDocument({ ...newDocument(template.session.name), ...template });
}

/** Puts the sounds of the demo into the database, for sessions that are made of it: once, and again when the demo has others. */
export async function installDemo(db: Database): Promise<void> {
  const { assets } = await demoDocument();
  const ids = Object.keys(assets);
  const installed = await readSetting(db, INSTALLED);
  if (Array.isArray(installed) && ids.every((id) => installed.includes(id))) return;
  for (const asset of Object.values(assets)) {
    const stored = await storeAsset(db, asset.name, createReadStream(join(FOLDER, 'sounds', asset.name)));
    if (stored.id !== asset.id) throw new Error(`demo/sounds/${asset.name} is not the sound demo/session.json names`);
  }
  await db.transaction(async (work) => {
    await writeSetting(work, INSTALLED, ids);
    await replaceUses(work, { kind: 'demo', ownerId: 'demo' }, ids);
  });
  log('demo.installed', { sounds: ids.length });
}

/** True if the demo is installed. */
export async function hasDemo(db: Database): Promise<boolean> {
  return Array.isArray(await readSetting(db, INSTALLED));
}

/** Sounds of the demo that can be tried in other sessions: those that its clips play, none where it is not there. */
export async function demoSounds(db: Database): Promise<Asset[]> {
  if (!(await hasDemo(db))) return [];
  const { assets, clips } = await demoDocument();
  const played = new Set(Object.values(clips).map(({ source }) => (source.kind === 'sound' ? source.assetId : '')));
  return Object.values(assets).filter(({ id }) => played.has(id));
}

/**
 * A fresh session from the demo: what is made of it leaves the next one untouched.
 * @throws KinetikonError session.missing where the demo has not been installed
 */
export async function copyDemo(db: Database): Promise<string> {
  if (!(await hasDemo(db))) {
    throw new KinetikonError('session.missing', 'The demo has not been put in here.', {
      next: 'Start Kinetikon with script/demo.',
    });
  }
  return (await createSession(db, await demoDocument(), { isNameFreed: true, fromDemo: true })).id;
}
