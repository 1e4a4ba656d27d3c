import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'test/e2e',
  workers: 2,
  timeout: 90000,
  expect: { timeout: 15000 },
  forbidOnly: true,
  reporter: 'list',
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium' },
    trace: 'off',
  },
});
