import tailwindcss from '@tailwindcss/vite'
import { sveltekit } from '@sveltejs/kit/vite'
import { defineConfig } from 'vitest/config'

const rooms = '{core,protocols,db,standins,collector,web,bench,bin}'

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
          globalSetup: ['db/testing/cluster.ts'],
          fileParallelism: false,
          testTimeout: 60_000,
          hookTimeout: 60_000,
        },
      },
    ],
  },
})
