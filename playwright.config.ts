import { defineConfig } from '@playwright/test'

/** Specs that never touch the demo. */
const WORLDS = ['access', 'disk', 'fuzz', 'rights'].map(name => `**/${name}.spec.ts`)

export default defineConfig({
  testDir: 'tests/e2e',
  testMatch: '**/*.spec.ts',
  globalSetup: './tests/e2e/server.ts',
  // What has a world of its own goes while the demo is made; then one worker looks at the views while another
  // goes through the work; the crowd is measured alone at the end.
  workers: 2,
  fullyParallel: false,
  projects: [
    { name: 'demo', testMatch: '**/demo.setup.ts' },
    { name: 'worlds', workers: 1, testMatch: WORLDS },
    {
      name: 'work',
      workers: 1,
      testIgnore: [...WORLDS, '**/views.spec.ts', '**/crowd.spec.ts'],
      dependencies: ['demo'],
    },
    { name: 'views', workers: 1, testMatch: '**/views.spec.ts', dependencies: ['demo'] },
    {
      name: 'crowd',
      workers: 1,
      testMatch: '**/crowd.spec.ts',
      dependencies: ['demo', 'worlds', 'work', 'views'],
    },
  ],
  timeout: 60_000,
  expect: { timeout: 15_000 },
  reporter: [['list'], ['json', { outputFile: process.env.PLAYWRIGHT_JSON ?? 'test-results/e2e.json' }]],
  outputDir: 'test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    locale: 'en-IE',
    trace: 'off',
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
})
