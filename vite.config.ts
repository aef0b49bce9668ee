import tailwindcss from '@tailwindcss/vite'
import { sveltekit } from '@sveltejs/kit/vite'
import { defineConfig } from 'vitest/config'

const rooms = '{core,protocols,db,standins,collector,web,bench,bin}'

/**
 * They wait for most of their time: for processes that were killed, for leases that end, for a minute without a database.
 * They run beside the others, and are so many that both take about as long.
 */
const KILLED = [
  'collector/intake/crash.integration.test.ts',
  'collector/intake/killed.integration.test.ts',
  'collector/rekey.integration.test.ts',
  'collector/intake/leases.integration.test.ts',
  'collector/notify/storm.integration.test.ts',
]

/** A machine that has little time for us now makes a test late, not wrong. */
const PATIENT = { testTimeout: 180_000, hookTimeout: 180_000 }

export default defineConfig({
  plugins: [tailwindcss(), sveltekit()],
  build: { chunkSizeWarningLimit: 900 },
  test: {
    projects: [
      {
        extends: true,
        test: {
          name: 'unit',
          include: [`${rooms}/**/*.test.ts`],
          exclude: ['**/*.integration.test.ts'],
          ...PATIENT,
        },
      },
      {
        extends: true,
        test: {
          name: 'integration',
          include: [`${rooms}/**/*.integration.test.ts`],
          exclude: KILLED,
          globalSetup: ['db/testing/cluster.ts'],
          fileParallelism: false,
          ...PATIENT,
        },
      },
      {
        extends: true,
        test: {
          name: 'killed',
          include: KILLED,
          globalSetup: ['db/testing/cluster.ts'],
          fileParallelism: false,
          ...PATIENT,
        },
      },
    ],
  },
})
