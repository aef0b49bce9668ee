import { defineConfig } from '@playwright/test'
import { DEMO, EMPTY, environmentOf, type Place } from './web/e2e/places.ts'

const server = (place: Place, words: string) => ({
  command: `bin/start ${words} --port ${place.port}`,
  url: `${place.url}/healthz`,
  timeout: 480_000,
  env: environmentOf(place),
  gracefulShutdown: { signal: 'SIGTERM' as const, timeout: 30_000 },
  stdout: 'pipe' as const,
})

export default defineConfig({
  testDir: 'web/e2e',
  outputDir: 'test-results',
  // A machine that has little time for us now makes a test late, not wrong.
  timeout: 180_000,
  expect: { timeout: 15_000 },
  // A second try, of which `bin/test` tells.
  retries: process.env['CI'] === undefined ? 0 : 1,
  workers: 2,
  forbidOnly: process.env['CI'] !== undefined,
  use: {
    baseURL: DEMO.url,
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] },
    screenshot: 'only-on-failure',
  },
  projects: [
    { name: 'sign-in', testMatch: 'signIn.setup.ts' },
    // Faults are caused in one demo, one at a time. The empty installation is another, and is looked at beside it.
    {
      name: 'journeys',
      dependencies: ['sign-in'],
      testMatch: '*.spec.ts',
      testIgnore: 'empty.spec.ts',
      workers: 1,
    },
    { name: 'empty', testMatch: 'empty.spec.ts', workers: 1 },
  ],
  webServer: [server(DEMO, ''), server(EMPTY, '--no-demo')],
})
