import { defineConfig } from 'vite'

/**
 * The programs beside the web application, each made into one file and what it shares with the others: they start in a
 * quarter of the time that their hundreds of sources take. The files of threads lie beside those that start them.
 */
const PROGRAMS = {
  collector: 'collector/main.ts',
  jobThread: 'collector/jobs/jobWork.ts',
  rehearsalThread: 'collector/judging/rehearsalWork.ts',
  migrateNow: 'collector/migrateNow.ts',
  rekeyNow: 'collector/rekeyNow.ts',
  standins: 'standins/main.ts',
  load: 'standins/demo/load.ts',
  layPast: 'standins/demo/layPast.ts',
}

export default defineConfig({
  publicDir: false,
  // Packages of many small files; the others are loaded from where they are installed.
  ssr: { noExternal: ['kysely', 'zod'] },
  build: {
    ssr: true,
    outDir: 'programs',
    target: 'node20',
    rolldownOptions: {
      input: PROGRAMS,
      output: { entryFileNames: '[name].mjs', chunkFileNames: '[name]-[hash].mjs' },
    },
  },
})
