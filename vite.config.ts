import tailwindcss from '@tailwindcss/vite'
import { sveltekit } from '@sveltejs/kit/vite'
import type { Plugin } from 'vite'
import { defineConfig } from 'vitest/config'

const rooms = '{core,protocols,db,standins,collector,web,bench,bin}'

/**
 * They wait for most of their time: for processes that were killed, for leases that end, for a minute without a database.
 * They run beside the others, and are so many that both take about as long.
 */
const KILLED = [
  'bin/postgres.integration.test.ts',
  'bin/start.integration.test.ts',
  'collector/intake/crash.integration.test.ts',
  'collector/intake/killed.integration.test.ts',
  'collector/rekey.integration.test.ts',
  'collector/intake/clock.integration.test.ts',
  'collector/intake/leases.integration.test.ts',
  'collector/intake/full.integration.test.ts',
  'collector/judging/twoAtOnce.integration.test.ts',
  'collector/notify/storm.integration.test.ts',
]

/** A machine that has little time for us now makes a test late, not wrong. */
const PATIENT = { testTimeout: 180_000, hookTimeout: 180_000 }

/** Our modules are loaded once a worker, which goes through its files: they keep nothing from one file for the next. */
const LOADED_ONCE = { isolate: false }

/** As the framework says after hydration that a field has no default any more; it forgets with it what the field was set to. */
const FORGETS = /set_attribute\(input, '(value|checked)', null\)/g

/**
 * What was typed stays. After a page was loaded whole, Svelte 5 forgets to what it has set each field, so that whatever
 * redraws beside it for the first time sets it back, with what somebody has typed meanwhile. The attribute is to go, and
 * nothing else. It fails as soon as the framework says this otherwise: then look whether it is still needed.
 */
const keepsWhatWasTyped: Plugin = {
  name: 'keeps-what-was-typed',
  enforce: 'pre',
  transform(code, id) {
    if (!/svelte\/src\/internal\/client\/dom\/elements\/attributes\.js$/.test(id.split('?')[0]!)) return null
    if ((code.match(FORGETS) ?? []).length !== 2)
      throw new Error('Svelte removes defaults of fields in another way now')
    return { code: code.replace(FORGETS, "input.removeAttribute('$1')"), map: null }
  },
}

/** What many screens use comes in one file, not in dozens; that curves are drawn with is fetched where there are some. */
const oftenUsedTogether: Plugin = {
  name: 'often-used-together',
  config: (_, { command, isSsrBuild }) => {
    if (command !== 'build' || isSsrBuild) return null
    const groups = [{ name: 'often', test: (id: string) => !/echarts|zrender/.test(id), minShareCount: 6 }]
    return { build: { rolldownOptions: { output: { codeSplitting: { groups } } } } }
  },
}

export default defineConfig({
  plugins: [tailwindcss(), sveltekit(), keepsWhatWasTyped, oftenUsedTogether],
  build: { chunkSizeWarningLimit: 900 },
  test: {
    projects: [
      {
        extends: true,
        test: {
          name: 'unit',
          include: [`${rooms}/**/*.test.ts`],
          exclude: ['**/*.integration.test.ts'],
          ...LOADED_ONCE,
          maxWorkers: 2,
          ...PATIENT,
        },
      },
      {
        extends: true,
        test: {
          name: 'integration',
          include: [`${rooms}/**/*.integration.test.ts`],
          exclude: KILLED,
          globalSetup: ['db/testing/cluster.ts', 'collector/testing/programs.ts'],
          ...LOADED_ONCE,
          // Those that kill run beside them, and the machine has two cores.
          fileParallelism: false,
          ...PATIENT,
        },
      },
      {
        extends: true,
        test: {
          name: 'killed',
          include: KILLED,
          globalSetup: ['db/testing/cluster.ts', 'collector/testing/programs.ts'],
          fileParallelism: false,
          ...PATIENT,
        },
      },
    ],
  },
})
