import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test as base } from '@playwright/test';
// What tests render here, to compare it with what the browser renders.
import '@/core/wasm/embedded';

/** Ports of the servers of the workers begin here; killed.spec.ts takes the one before. */
export const FIRST_PORT = 3180;
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

/** Ends a server and waits until it is gone. */
export async function stopServer(server: ChildProcess, signal: NodeJS.Signals): Promise<void> {
  const ended = new Promise((resolve) => server.on('exit', resolve));
  server.kill(signal);
  await ended;
}

/** Milliseconds from one frame to the next on the display of the tests: what they check does not need more, and drawing costs. */
const FRAME_MS = 50;

/**
 * Stands in for a display slower than the browser's own, for what asks for frame after frame; what asks for one only has
 * the next, so that a page settles as fast as ever.
 */
function slowDisplay(frameMs: number): void {
  const request = window.requestAnimationFrame.bind(window);
  const cancel = window.cancelAnimationFrame.bind(window);
  let isInFrame = false;
  const inFrame = (callback: FrameRequestCallback) => {
    isInFrame = true;
    try {
      callback(performance.now());
    } finally {
      isInFrame = false;
    }
  };
  // Timers have negative numbers here, so that both kinds can be cancelled.
  window.requestAnimationFrame = (callback) =>
    isInFrame ? -window.setTimeout(() => inFrame(callback), frameMs) : request(() => inFrame(callback));
  window.cancelAnimationFrame = (id) => (id < 0 ? window.clearTimeout(-id) : cancel(id));
}

/** Tests of a worker share a server with the demo, which no other worker writes to. */
export const test = base.extend<object, { serverUrl: string }>({
  serverUrl: [
    async ({}, provide, { parallelIndex }) => {
      const port = FIRST_PORT + parallelIndex;
      const folder = mkdtempSync(join(tmpdir(), 'kinetikon-e2e-'));
      const server = await startServer(port, folder, true);
      await provide(`http://127.0.0.1:${port}`);
      await stopServer(server, 'SIGTERM');
      rmSync(folder, { recursive: true });
    },
    { scope: 'worker' },
  ],
  baseURL: ({ serverUrl }, provide) => provide(serverUrl),
  context: async ({ context }, provide) => {
    await context.addInitScript(slowDisplay, FRAME_MS);
    await provide(context);
  },
});
