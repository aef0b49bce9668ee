import { defineConfig } from '@playwright/test'
import { DEMO, EMPTY, environmentOf, type Place } from './web/e2e/places.ts'

const server = (place: Place, words: string) => ({
  command: `bin/start ${words} --port ${place.port}`,
  url: `${place.url}/healthz`,
  timeout: 240_000,
  env: environmentOf(place),
  gracefulShutdown: { signal: 'SIGTERM' as const, timeout: 30_000 },
  stdout: 'pipe' as const,
})

export default defineConfig({
  testDir: 'web/e2e',
  outputDir: 'test-results',
  timeout: 90_000,
  workers: 1,
  forbidOnly: process.env['CI'] !== undefined,
  use: {
    baseURL: DEMO.url,
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] },
    screenshot: 'only-on-failure',
  },
  projects: [
    { name: 'sign-in', testMatch: 'signIn.setup.ts' },
    { name: 'journeys', dependencies: ['sign-in'], testMatch: '*.spec.ts' },
  ],
  webServer: [server(DEMO, ''), server(EMPTY, '--no-demo')],
})
