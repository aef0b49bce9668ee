import { defineConfig } from '@playwright/test'
import { DEMO, EMPTY, environmentOf, type Place, SECOND_DEMO } from './web/e2e/places.ts'

const server = (place: Place, words: string) => ({
  command: `bin/start ${words} --port ${place.port}`,
  url: `${place.url}/healthz`,
  timeout: 480_000,
  env: environmentOf(place),
  gracefulShutdown: { signal: 'SIGTERM' as const, timeout: 30_000 },
  stdout: 'pipe' as const,
})

/** They wait for what is told, and for what is not; most of their time nothing happens. */
const TOLD = ['alerts.spec.ts', 'callouts.spec.ts', 'rules.spec.ts', 'sources.spec.ts', 'taking.spec.ts']

export default defineConfig({
  testDir: 'web/e2e',
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
    // Faults are caused in one demo, one at a time. Screens are looked at in another beside it, and so is the empty one.
    { name: 'sign-in', testMatch: 'signIn.setup.ts' },
    { name: 'second-sign-in', testMatch: 'signIn.setup.ts', use: { baseURL: SECOND_DEMO.url } },
    { name: 'told', dependencies: ['sign-in'], testMatch: TOLD, workers: 1 },
    {
      name: 'looked-at',
      dependencies: ['second-sign-in'],
      testMatch: '*.spec.ts',
      testIgnore: [...TOLD, 'empty.spec.ts'],
      workers: 1,
      use: { baseURL: SECOND_DEMO.url },
    },
    // It needs no session; projects that wait for none would be waited for by all others.
    { name: 'empty', dependencies: ['sign-in'], testMatch: 'empty.spec.ts', workers: 1 },
  ],
  webServer: [server(DEMO, ''), server(SECOND_DEMO, ''), server(EMPTY, '--no-demo')],
})
