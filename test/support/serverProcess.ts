import { spawn, type ChildProcess } from 'node:child_process';

const START_SECONDS = 60;

/** Starts a server on a port and a data folder, and waits until it answers. */
export async function startServer(
  port: number,
  folder: string,
  hasDemo: boolean,
  environment: Readonly<Record<string, string>> = {},
): Promise<ChildProcess> {
  const server = spawn(process.execPath, ['dist/serve.cjs', '--port', String(port)], {
    env: {
      ...process.env,
      KINETIKON_DATA: folder,
      KINETIKON_DEMO: hasDemo ? '1' : '',
      NODE_ENV: 'production',
      NEXT_TELEMETRY_DISABLED: '1',
      ...environment,
    },
    stdio: 'ignore',
  });
  const answers = () =>
    fetch(`http://127.0.0.1:${port}/api/sessions`).then(
      ({ ok }) => ok,
      () => false,
    );
  for (const began = Date.now(); Date.now() - began < 1000 * START_SECONDS;) {
    if (await answers()) return server;
    if (server.exitCode !== null) break;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  server.kill('SIGKILL');
  throw new Error(`The server on port ${port} did not start`);
}

/** Ends a process and waits until it is gone. */
export async function stopProcess(running: ChildProcess, signal: NodeJS.Signals): Promise<void> {
  if (running.exitCode !== null || running.signalCode !== null) return;
  const ended = new Promise((resolve) => running.on('exit', resolve));
  running.kill(signal);
  await ended;
}

/** Starts a worker of a studio. */
export function startWorker(environment: Readonly<Record<string, string>>, jobs = 1, nice = 0): ChildProcess {
  const args = ['-n', String(nice), process.execPath, 'bin/kinetikon', 'worker', '--jobs', String(jobs)];
  return spawn('nice', args, { env: { ...process.env, ...environment }, stdio: 'ignore' });
}
