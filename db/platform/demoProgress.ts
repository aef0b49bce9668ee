import { z } from 'zod'
import type { Db } from './connect.ts'
import { announce } from './live.ts'

/** How far the past of the demo has been laid down. */
const demoProgress = z.object({
  bornMs: z.number(),
  days: z.number().int(),
  /** Stretches that are done, of `stretches(bornMs, days)`. */
  done: z.number().int(),
  doneDays: z.number().int(),
  /** Stretches of which what is finite was laid down before all else. */
  finiteDone: z.number().int().default(0),
  /** Of what there is a past already; of a demo without this word of everything. */
  laid: z.enum(['nothing', 'finite', 'all']).optional(),
  sources: z.record(z.string(), z.number().int()),
})
export type DemoProgress = z.infer<typeof demoProgress>
type NewProgress = z.input<typeof demoProgress>

export async function readDemoProgress(db: Db): Promise<DemoProgress | null> {
  const row = await db.selectFrom('setting').select('body').where('key', '=', 'demo').executeTakeFirst()
  return row === undefined ? null : demoProgress.parse(row.body)
}

export async function writeDemoProgress(db: Db, progress: NewProgress): Promise<void> {
  const body = JSON.stringify(progress)
  await db
    .insertInto('setting')
    .values({ key: 'demo', body })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ body }))
    .execute()
  await announce(db, { topic: 'demo' })
}
