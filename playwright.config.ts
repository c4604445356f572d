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

const PICTURES = ['gpu/**/*.spec.ts', 'browser/flicker.spec.ts', 'browser/picture.spec.ts', 'browser/bundle.spec.ts'].map(
  (p) => `**/tests/${p}`,
);

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
  use: { serviceWorkers: 'block', viewport: { width: 1100, height: 680 }, trace: 'retain-on-failure' },
  projects: [
    { name: 'interface', testIgnore: PICTURES, use: { launchOptions: launch('--use-angle=gl-egl', '--ignore-gpu-blocklist', '--disable-gpu-compositing') } },
    {
      // Those that measure pixels, on the faster of the two software renderers.
      name: 'pictures',
      testMatch: PICTURES,
      workers: 1,
      use: { launchOptions: launch('--use-angle=gl-egl', '--ignore-gpu-blocklist', '--disable-gpu-compositing') },
    },
  ],
});
