import { sql } from 'kysely'
import { connect, isServerAway, openPool } from '#db/platform'
import { compactPast, sealSettled } from '../jobs/housekeeping.ts'
import { DAY } from './madeReadings.ts'

// Seals whatever is settled by the clock of the newest reading, over and over.

const db = connect(openPool(process.argv[2] ?? '', 2))
for (;;) {
  try {
    const { rows } = await sql<{
      ms: string | null
    }>`select (extract(epoch from max(ts)) * 1000)::bigint as ms from hot`.execute(db)
    const newestMs = Number(rows[0]?.ms ?? 0)
    const bounds = { now: () => newestMs + DAY / 24, rest: 0, over: new AbortController().signal }
    await sealSettled(db, bounds)
    await compactPast(db, bounds)
  } catch (error) {
    if (!isServerAway(error)) throw error
  }
  await new Promise((resolve) => setTimeout(resolve, 20))
}
