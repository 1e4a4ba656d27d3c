import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from '@playwright/test';

const PORT = 3179;
/** One data folder for the run; the workers of the runner read this file again and must find the same. */
process.env.KINETIKON_TEST_DATA ??= mkdtempSync(join(tmpdir(), 'kinetikon-e2e-'));

export default defineConfig({
  testDir: 'test/e2e',
  workers: 1,
  timeout: 90000,
  expect: { timeout: 15000 },
  forbidOnly: true,
  reporter: 'list',
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium' },
    trace: 'off',
  },
  webServer: {
    command: `node dist/serve.cjs --port ${PORT}`,
    url: `http://127.0.0.1:${PORT}/api/sessions`,
    timeout: 120000,
    env: {
      KINETIKON_DATA: process.env.KINETIKON_TEST_DATA,
      KINETIKON_DEMO: '1',
      NODE_ENV: 'production',
      NEXT_TELEMETRY_DISABLED: '1',
    },
  },
});
