import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test as base } from '@playwright/test';
import { startCluster } from '../support/cluster';
import { HOME, newServerDatabase } from '../support/database';
import { startServer, stopProcess } from '../support/serverProcess';
// What tests render here, to compare it with what the browser renders.
import '@/core/wasm/embedded';

/** Ports of the servers of the workers begin here; killed.spec.ts takes the one before. */
export const FIRST_PORT = 3180;
/** Milliseconds from one frame to the next on the display of the tests: what they check does not need more, and drawing costs. */
const FRAME_MS = 100;

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

/** Tests of a worker share a server with the demo, which no other worker writes to; `script/test --all` tries both databases. */
export const test = base.extend<object, { serverUrl: string }>({
  serverUrl: [
    async ({}, provide, { parallelIndex }) => {
      const port = FIRST_PORT + parallelIndex;
      const folder = mkdtempSync(join(tmpdir(), 'kinetikon-e2e-'));
      const cluster = HOME === 'server' ? await startCluster() : null;
      const database: Record<string, string> = cluster ? { DATABASE_URL: (await newServerDatabase()).url } : {};
      const server = await startServer(port, folder, true, database);
      await provide(`http://127.0.0.1:${port}`);
      await stopProcess(server, 'SIGTERM');
      cluster?.stop();
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
