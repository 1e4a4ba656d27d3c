import { execFileSync, type ExecFileSyncOptions } from 'node:child_process';
import { chownSync, existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const INSTALLED = '/usr/lib/postgresql';

export interface Cluster {
  /** `postgres://USER@HOST:PORT`, to which `/NAME` of a database is added. */
  readonly url: string;
  stop(): void;
}

/** Folder of the programs of the newest PostgreSQL that is installed. */
function programs(): string {
  const versions = existsSync(INSTALLED) ? readdirSync(INSTALLED).sort((a, b) => Number(b) - Number(a)) : [];
  if (versions.length === 0) throw new Error('PostgreSQL is not installed: script/test installs it');
  return join(INSTALLED, versions[0]!, 'bin');
}

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.on('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as AddressInfo;
      probe.close(() => resolve(port));
    });
  });
}

/**
 * Starts a PostgreSQL of the tests' own, with a folder and a port of its own, as an ordinary user. What it writes may be
 * lost when the machine stops. `newServerDatabase` makes its databases there: KINETIKON_TEST_CLUSTER has the address.
 */
export async function startCluster(): Promise<Cluster> {
  const folder = mkdtempSync(join(tmpdir(), 'kinetikon-postgres-'));
  const bin = programs();
  const isRoot = process.getuid?.() === 0;
  const user = isRoot ? 'postgres' : execFileSync('id', ['-un'], { encoding: 'utf8' }).trim();
  if (isRoot) {
    const idOf = (kind: string) => Number(execFileSync('id', [kind, user], { encoding: 'utf8' }));
    chownSync(folder, idOf('-u'), idOf('-g'));
  }
  const run = (program: string, args: readonly string[]) => {
    const command = [join(bin, program), ...args];
    const options: ExecFileSyncOptions = { cwd: folder, stdio: ['ignore', 'ignore', 'pipe'] };
    if (isRoot) execFileSync('runuser', ['-u', user, '--', ...command], options);
    else execFileSync(command[0]!, command.slice(1), options);
  };
  const data = join(folder, 'data');
  const port = await freePort();
  run('initdb', ['-D', data, '--no-sync', '--auth=trust', `--username=${user}`, '--encoding=UTF8', '--locale=C.UTF-8']);
  const settings = [
    `-p ${port}`,
    `-k ${folder}`,
    '-c listen_addresses=127.0.0.1',
    '-c fsync=off',
    '-c max_connections=200',
  ];
  run('pg_ctl', ['-D', data, '-w', '-l', join(folder, 'log'), '-o', settings.join(' '), 'start']);
  const url = `postgres://${user}@127.0.0.1:${port}`;
  process.env.KINETIKON_TEST_CLUSTER = url;
  return {
    url,
    stop: () => {
      run('pg_ctl', ['-D', data, '-m', 'immediate', 'stop']);
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
