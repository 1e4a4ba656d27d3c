import { createHash, randomUUID } from 'node:crypto';
import { cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Client } from 'pg';
import { openDatabase } from '@/server/db/client';
import type { OpenDatabase } from '@/server/db/database';

/** Where the tests of this project keep their data. */
export const HOME = process.env.KINETIKON_TEST_HOME === 'server' ? 'server' : 'folder';

const TEMPLATE = 'kinetikon_template';
const TEMPLATE_LOCK = 7499;

async function onCluster<T>(work: (client: Client) => Promise<T>): Promise<T> {
  const client = new Client({ connectionString: `${process.env.KINETIKON_TEST_CLUSTER}/postgres` });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/** Makes the database with up-to-date tables of which others are copies, once. */
async function ensureTemplate(client: Client): Promise<void> {
  await client.query('select pg_advisory_lock($1)', [TEMPLATE_LOCK]);
  const { rows } = await client.query('select 1 from pg_database where datname = $1', [TEMPLATE]);
  if (rows.length === 0) {
    const draft = `${TEMPLATE}_draft`;
    await client.query(`create database ${draft}`);
    await (await openDatabase({ url: `${process.env.KINETIKON_TEST_CLUSTER}/${draft}` })).close();
    await client.query(`alter database ${draft} rename to ${TEMPLATE}`);
  }
  await client.query('select pg_advisory_unlock($1)', [TEMPLATE_LOCK]);
}

/** A new, empty database on the cluster of the tests. */
export async function newServerDatabase(): Promise<{ readonly url: string; remove(): Promise<void> }> {
  const name = `test_${randomUUID().replaceAll('-', '')}`;
  await onCluster(async (client) => {
    await ensureTemplate(client);
    await client.query(`create database ${name} template ${TEMPLATE} strategy file_copy`);
  });
  return {
    url: `${process.env.KINETIKON_TEST_CLUSTER}/${name}`,
    remove: () => onCluster(async (client) => void (await client.query(`drop database ${name} with (force)`))),
  };
}

/** Text that changes with the tables and with PGlite. */
function tablesVersion(): string {
  const hash = createHash('sha256').update(readFileSync('node_modules/@electric-sql/pglite/package.json'));
  const folder = 'src/server/db/migrations';
  for (const file of readdirSync(folder).sort())
    if (file.endsWith('.sql')) hash.update(readFileSync(join(folder, file)));
  return hash.digest('hex').slice(0, 16);
}

/**
 * Fills a new data folder with an empty database whose tables are up to date. Making one takes seconds, copying one that
 * was made before does not.
 */
export async function fillFolder(folder: string): Promise<void> {
  const template = join(tmpdir(), `kinetikon-template-${tablesVersion()}`);
  if (!existsSync(template)) {
    const draft = mkdtempSync(join(tmpdir(), 'kinetikon-draft-'));
    await (await openDatabase({ folder: draft })).close();
    try {
      renameSync(draft, template);
    } catch {
      // Another process was first.
      rmSync(draft, { recursive: true });
    }
  }
  cpSync(join(template, 'pg'), join(folder, 'pg'), { recursive: true });
}

/**
 * Gives a test file a data folder, and a database where its project runs on a server; the environment names them.
 * @returns a function that removes both, once what used them is closed
 */
export async function ownHome(): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-'));
  process.env.KINETIKON_DATA = folder;
  if (HOME === 'folder') await fillFolder(folder);
  const database = HOME === 'server' ? await newServerDatabase() : null;
  if (database) process.env.DATABASE_URL = database.url;
  return async () => {
    delete process.env.DATABASE_URL;
    await database?.remove();
    rmSync(folder, { recursive: true, force: true });
  };
}

/** A database of the test file's own. */
export async function openOwn(): Promise<OpenDatabase> {
  const remove = await ownHome();
  const open = await openDatabase();
  return {
    db: open.db,
    close: async () => {
      await open.close();
      await remove();
    },
  };
}
