import tailwindcss from '@tailwindcss/vite'
import { sveltekit } from '@sveltejs/kit/vite'
import { defineConfig } from 'vitest/config'

const rooms = '{core,protocols,db,standins,collector,web,bench,bin}'

/** It waits for most of its time, a minute of it for the database, and runs beside the others. */
const KILLED = ['collector/crash.integration.test.ts']

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
          testTimeout: 60_000,
          hookTimeout: 60_000,
        },
      },
      {
        extends: true,
        test: {
          name: 'killed',
          include: KILLED,
          globalSetup: ['db/testing/cluster.ts'],
          fileParallelism: false,
        },
      },
    ],
  },
})
