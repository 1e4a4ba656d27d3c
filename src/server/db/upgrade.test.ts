import { createHash, randomUUID } from 'node:crypto';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PGlite } from '@electric-sql/pglite';
import { drizzle } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import { applyCommand } from '@/core/session/commands';
import { newDocument } from '@/core/session/records/factories';
import { listPresets } from '../repositories/presets';
import { findAsset, readAsset, unusedAssets } from '../repositories/assets';
import { listSessions } from '../repositories/sessionList';
import { loadSession } from '../repositories/sessions';
import { gathered } from '../blobs/pieces';
import { MIGRATIONS_FOLDER } from '../root';
import { openDatabase } from './client';

/** Tables of the version before sounds had users of their own. */
const LAST_OLD = 5;

const id = (letter: string) => letter.repeat(64);
const asset = (letter: string) => ({
  id: id(letter),
  name: `${letter}.wav`,
  frames: 3,
  sampleRateHz: 48000,
  channels: 1,
});

describe('a data folder of an older version', () => {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-old-'));
  afterAll(() => rmSync(folder, { recursive: true }));

  it('is brought up to date with all it holds', async () => {
    const old = join(folder, 'migrations');
    mkdirSync(join(old, 'meta'), { recursive: true });
    const journal = JSON.parse(readFileSync(join(MIGRATIONS_FOLDER, 'meta/_journal.json'), 'utf8')) as {
      entries: { idx: number; tag: string }[];
    };
    const entries = journal.entries.filter(({ idx }) => idx <= LAST_OLD);
    for (const { tag } of entries) cpSync(join(MIGRATIONS_FOLDER, `${tag}.sql`), join(old, `${tag}.sql`));
    writeFileSync(join(old, 'meta/_journal.json'), JSON.stringify({ ...journal, entries }));

    const data = join(folder, 'data');
    mkdirSync(data);
    const pglite = await PGlite.create(join(data, 'pg'));
    await migrate(drizzle(pglite), { migrationsFolder: old });
    const [session, preset, upload, lostUpload] = [randomUUID(), randomUUID(), randomUUID(), randomUUID()];
    const bytes = Uint8Array.from({ length: 5000 }, (_, n) => n % 251);
    const { document } = applyCommand(newDocument('Quay'), { type: 'asset.add', asset: asset('a') }, '');
    const summary = { picture: Array.from({ length: 400 }, () => [0, 0]) };
    await pglite.query(
      'insert into sessions (id, name, revision, document, summary, step_cursor) values ($1,$2,3,$3,$4,1)',
      [session, 'Quay', JSON.stringify(document), JSON.stringify(summary)],
    );
    const step = { label: 'Bring in b', changes: [{ path: ['assets', id('b')], before: asset('b') }] };
    await pglite.query('insert into session_steps (session_id, number, step) values ($1,0,$2)', [
      session,
      JSON.stringify(step),
    ]);
    await pglite.query('insert into presets (id, content) values ($1,$2)', [
      preset,
      JSON.stringify({ name: 'Hall', impulse: { assetId: id('c') } }),
    ]);
    await pglite.query("insert into settings (key, value) values ('presets.favourites', $1), ('demo.installed', $2)", [
      JSON.stringify([preset]),
      JSON.stringify({ assetIds: [id('d')] }),
    ]);
    for (const letter of ['a', 'b', 'c', 'd', 'e'])
      await pglite.query(
        `insert into assets (id, upload_id, name, format, bytes, sample_rate_hz, frames, channels, peaks, used_at)
         values ($1,$2,$3,'wav',$4,48000,3,1,$5, now() - interval '90 days')`,
        [id(letter), letter === 'a' ? upload : randomUUID(), `${letter}.wav`, bytes.length, new Uint8Array(2)],
      );
    for (const [owner, piece] of [
      [upload, 0],
      [lostUpload, 0],
    ])
      await pglite.query('insert into asset_chunks (upload_id, piece, data) values ($1,$2,$3)', [owner, piece, bytes]);
    await pglite.close();

    const { db, close } = await openDatabase({ folder: data });
    try {
      const loaded = await loadSession(db, session);
      expect(loaded.document).toEqual(document);
      expect(loaded.history.past).toEqual([step]);
      expect((await listSessions(db, {})).sessions.map(({ name }) => name)).toEqual(['Quay']);
      const presets = await listPresets(db);
      expect(presets.favourites).toEqual([preset]);
      // Whatever a session, a step, a preset or the demo plays is used; what nothing plays is not.
      expect((await unusedAssets(db)).map(({ name }) => name)).toEqual(['e.wav']);
      expect((await findAsset(db, id('a')))!.bytes).toBe(bytes.length);
      const read = await gathered(readAsset(db, id('a')));
      expect(createHash('sha256').update(read).digest('hex')).toBe(createHash('sha256').update(bytes).digest('hex'));
    } finally {
      await close();
    }
  });
});
