import { defineConfig } from '@playwright/test';

const BASE = [
  '--no-sandbox',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];
const launch = (...flags: string[]) => ({ executablePath: '/usr/bin/chromium', args: [...BASE, ...flags] });

export default defineConfig({
  testDir: 'tests',
  globalSetup: './tests/fixtures/server/build.ts',
  testMatch: '**/*.spec.ts',
  outputDir: 'test-results/browser',
  // Long, for busy machines without a graphics card: tests wait on states and go on as soon as they are there.
  timeout: 400_000,
  expect: { timeout: 60_000 },
  retries: 0,
  workers: 2,
  reporter: 'line',
  // What keeps the application in the browser would also hide requests from tests that cut them.
  use: {
    serviceWorkers: 'block',
    viewport: { width: 1100, height: 680 },
    // A trace copies the page before and after every action, and films it: a third of the time. WISPEN_TRACE=1 brings it.
    trace: process.env.WISPEN_TRACE ? 'retain-on-failure' : 'off',
    screenshot: 'only-on-failure',
    // The faster of the two software renderers, and one for all: pixels are compared.
    launchOptions: launch('--use-angle=gl-egl', '--ignore-gpu-blocklist', '--disable-gpu-compositing'),
  },
});
