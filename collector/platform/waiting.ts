import { isServerAway } from '#db/platform'
import { log } from './log.ts'

const PAUSE_MS = 1000

/** Does what needs the database, as soon as it is there. */
export async function waitForDatabase(work: () => Promise<void>): Promise<void> {
  for (;;) {
    try {
      return await work()
    } catch (error) {
      if (!isServerAway(error)) throw error
      log.warn('the database is not there yet')
      await new Promise((resolve) => setTimeout(resolve, PAUSE_MS))
    }
  }
}
