import { createServer, type IncomingMessage, type Server } from 'node:http';
import next from 'next';
import { KinetikonError, messageOf } from '@/core/errors';
import { isServed } from './hosts';
import { log } from './log';
import { ROOT } from './root';
import { stopping } from './stopping';

/** `serve.cjs [--dev] [--port N]`: the web server on the loopback address. */
const LOOPBACK = '127.0.0.1';
/** Other machines reach it only where somebody says that a proxy guards the door. */
const HOSTNAME = process.env.KINETIKON_TRUSTED_NETWORK === '1' ? '0.0.0.0' : LOOPBACK;
const DEFAULT_PORT = 3000;
/** Requests under way are waited for so long, and the whole end takes no longer than this. */
const ANSWER_MS = 6000;
const STOP_MS = 10_000;

function portFrom(args: readonly string[]): number {
  const at = args.indexOf('--port');
  const text = at < 0 ? (process.env.PORT ?? String(DEFAULT_PORT)) : (args[at + 1] ?? '');
  const port = Number(text);
  if (!/^\d+$/.test(text) || port < 1 || port > 65535) {
    throw new KinetikonError('usage', `The port takes 1 to 65535, not "${text}".`);
  }
  return port;
}

/** The one name the request is for; null where it names none or several, of which only the first would reach a handler. */
function hostOf({ rawHeaders }: IncomingMessage): string | null {
  const hosts = rawHeaders.filter((_, at) => at % 2 === 1 && rawHeaders[at - 1]!.toLowerCase() === 'host');
  return hosts.length === 1 ? hosts[0]! : null;
}

/** The answer to a request that Next does not get to see, whatever its method; undefined for all others. */
function refusalOf(request: IncomingMessage): { status: number; message: string } | undefined {
  if (!isServed(hostOf(request), process.env.KINETIKON_HOSTS)) {
    return { status: 421, message: 'This host name is not served here; KINETIKON_HOSTS takes further ones.' };
  }
  try {
    decodeURIComponent(request.url ?? '');
    return undefined;
  } catch {
    return { status: 400, message: 'The address of this request is not text in UTF-8.' };
  }
}

/** Answers what has been asked, for a while, gives back what is under way, and ends. */
async function stop(server: Server): Promise<void> {
  setTimeout(() => {
    log('server.cut', { seconds: STOP_MS / 1000 });
    process.exit(1);
  }, STOP_MS).unref();
  const answered = new Promise((resolve) => server.close(resolve));
  // A connection that has got its answer stays open for the next request otherwise.
  const idle = setInterval(() => server.closeIdleConnections(), 50);
  const cut = setTimeout(() => server.closeAllConnections(), ANSWER_MS);
  await answered;
  clearInterval(idle);
  clearTimeout(cut);
  await stopping.kinetikonStop?.();
  process.exit(0);
}

/** Serves until it is ended. */
async function serve(): Promise<void> {
  const args = process.argv.slice(2);
  const port = portFrom(args);
  const url = `http://${LOOPBACK}:${port}`;
  // The owner file of the data folder names it.
  process.env.KINETIKON_URL = url;
  // The end is ours, in order.
  process.env.NEXT_MANUAL_SIG_HANDLE = 'true';
  const app = next({ dev: args.includes('--dev'), dir: ROOT, hostname: HOSTNAME, port });
  await app.prepare();
  const handle = app.getRequestHandler();
  const server = createServer((request, response) => {
    const refused = refusalOf(request);
    if (!refused) {
      void handle(request, response);
      return;
    }
    response.writeHead(refused.status, { 'Content-Type': 'text/plain; charset=utf-8', Connection: 'close' });
    response.end(`${refused.message}\n`);
  });
  server.on('upgrade', (request, socket, head) => {
    if (refusalOf(request)) socket.destroy();
    else void app.getUpgradeHandler()(request, socket, head);
  });
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => void stop(server));
  server.on('error', fail);
  server.listen(port, HOSTNAME, () => log('server.ready', { url }));
}

function fail(error: unknown): void {
  log('start.failed', { message: messageOf(error) });
  process.exit(1);
}

serve().catch(fail);
