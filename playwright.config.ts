import { defineConfig } from '@playwright/test'
import { DEMO, SECOND_DEMO } from './web/e2e/places.ts'

/** They wait for what is told, and for what is not; most of their time nothing happens. */
const TOLD = ['alerts.spec.ts', 'callouts.spec.ts', 'rules.spec.ts', 'sources.spec.ts', 'taking.spec.ts']

/** The longest of those that only look at screens, one of which causes faults for them to show. */
const SHOWN = ['screens.spec.ts', 'rooms.spec.ts']

export default defineConfig({
  testDir: 'web/e2e',
  globalSetup: './web/e2e/installations.ts',
  outputDir: 'test-results',
  // A machine that has little time for us now makes a test late, not wrong.
  timeout: 180_000,
  expect: { timeout: 15_000 },
  retries: 0,
  workers: 3,
  forbidOnly: process.env['CI'] !== undefined,
  use: {
    baseURL: DEMO.url,
    actionTimeout: 45_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium-headless-shell',
      args: ['--no-sandbox', '--disable-gpu'],
    },
    screenshot: 'only-on-failure',
  },
  projects: [
    // Faults are caused in one demo, one at a time. Screens are looked at in another beside it by two at once, and when one of
    // these is through, so is the empty one.
    { name: 'sign-in', testMatch: 'signIn.setup.ts' },
    { name: 'second-sign-in', testMatch: 'signIn.setup.ts', use: { baseURL: SECOND_DEMO.url } },
    { name: 'told', dependencies: ['sign-in'], testMatch: TOLD, workers: 1 },
    {
      name: 'shown',
      dependencies: ['second-sign-in'],
      testMatch: SHOWN,
      workers: 1,
      use: { baseURL: SECOND_DEMO.url },
    },
    {
      name: 'looked-at',
      dependencies: ['second-sign-in'],
      testMatch: '*.spec.ts',
      testIgnore: [...TOLD, ...SHOWN, 'empty.spec.ts'],
      workers: 1,
      use: { baseURL: SECOND_DEMO.url },
    },
    // It needs no session; projects that wait for none would be waited for by all others.
    { name: 'empty', dependencies: ['sign-in'], testMatch: 'empty.spec.ts', workers: 1 },
  ],
})
