import { z } from 'zod'
import type { Db } from './connect.ts'
import { announce } from './live.ts'

/** How far the past of the demo has been laid down. */
const pastSetting = z.object({
  bornMs: z.number(),
  days: z.number().int(),
  /** Stretches that are done, of `stretches(bornMs, days)`. */
  done: z.number().int(),
  doneDays: z.number().int(),
  sources: z.record(z.string(), z.number().int()),
})
export type PastSetting = z.infer<typeof pastSetting>

export async function readPast(db: Db): Promise<PastSetting | null> {
  const row = await db.selectFrom('setting').select('body').where('key', '=', 'past').executeTakeFirst()
  return row === undefined ? null : pastSetting.parse(row.body)
}

export async function writePast(db: Db, past: PastSetting): Promise<void> {
  const body = JSON.stringify(past)
  await db
    .insertInto('setting')
    .values({ key: 'past', body })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ body }))
    .execute()
  await announce(db, { topic: 'past' })
}
