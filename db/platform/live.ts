import { sql } from 'kysely'
import pg from 'pg'
import { z } from 'zod'
import type { Db } from './connect.ts'

const CHANNEL = 'rack_live'

const liveEvent = z.discriminatedUnion('topic', [
  z.object({ topic: z.literal('readings'), sourceId: z.number() }),
  z.object({ topic: z.literal('sources'), sourceId: z.number() }),
  z.object({ topic: z.literal('alerts') }),
  z.object({ topic: z.literal('check'), sourceId: z.number() }),
  z.object({ topic: z.literal('items'), sourceId: z.number() }),
  z.object({ topic: z.literal('series') }),
  z.object({ topic: z.literal('checks'), id: z.string() }),
  z.object({ topic: z.literal('demo') }),
  z.object({ topic: z.literal('places') }),
  z.object({ topic: z.literal('forecasts') }),
  z.object({ topic: z.literal('rules') }),
  z.object({ topic: z.literal('measures') }),
  z.object({ topic: z.literal('accounts') }),
  z.object({ topic: z.literal('quiet') }),
  z.object({ topic: z.literal('callouts') }),
  z.object({ topic: z.literal('rehearsals'), id: z.string() }),
  z.object({ topic: z.literal('texts'), sourceId: z.number() }),
])
/** Something changed that an open screen may show, or (`check`) somebody wants a source read at
 * once, (`items`) what is watched of a source has changed, (`series`) a source has
 * brought series that were not there, (`checks`) a check is asked for or has come further, (`texts`) a device said something,
 * (`demo`) more of the demo's past is there, (`places`) somebody has moved, linked or grouped gear,
 * (`forecasts`) something was forecast anew, or a person has said something of it,
 * (`measures`) a measure of the site is added, changed or deleted,
 * (`accounts`) somebody may come in no more, or is signed out, (`rules`) a rule is changed, (`quiet`) something is quieted or accepted, or no longer, (`callouts`) a call-out, its people or its
 * channels are changed, or a test of one has come further, (`rehearsals`) one is
 * asked for, or has come further, or is to stop. */
export type LiveEvent = z.infer<typeof liveEvent>

/** Tells all listeners, at commit when inside a transaction. */
export async function announce(db: Db, event: LiveEvent): Promise<void> {
  const word = JSON.stringify(event)
  if (db.isTransaction && !isNewIn(db, word)) return
  await sql`select pg_notify(${CHANNEL}, ${word})`.execute(db)
}

/** What transactions that are under way have announced: the server tells the same of one transaction once only. */
const announced = new WeakMap<Db, Set<string>>()

function isNewIn(trx: Db, word: string): boolean {
  const words = announced.get(trx) ?? new Set()
  announced.set(trx, words)
  return words.size < words.add(word).size
}

/** Tells all listeners several things at once. */
export async function announceAll(db: Db, events: readonly LiveEvent[]): Promise<void> {
  const words = events.map((event) => JSON.stringify(event))
  await sql`select pg_notify(${CHANNEL}, word) from unnest(${words}::text[]) as word`.execute(db)
}

/**
 * Listens until closed, and connects again whenever the server went away.
 * @param onGap called after a reconnection: events may have been missed in between.
 */
export function listen(
  url: string,
  onEvent: (event: LiveEvent) => void,
  onGap: () => void,
): { close(): Promise<void> } {
  let client: pg.Client | null = null
  let closed = false
  let retry: NodeJS.Timeout | undefined

  async function open(isAgain: boolean): Promise<void> {
    const next = new pg.Client({ connectionString: url, keepAlive: true })
    client = next
    next.on('notification', ({ payload }) => {
      const parsed = liveEvent.safeParse(JSON.parse(payload ?? 'null'))
      if (parsed.success) onEvent(parsed.data)
    })
    // A lost connection is reported as an error, as an end, or as both; it is taken up once.
    let lost = false
    const again = () => {
      if (lost || closed) return
      lost = true
      void next.end().catch(() => undefined)
      retry = setTimeout(() => void open(true), 1000)
    }
    next.on('error', again)
    next.on('end', again)
    try {
      await next.connect()
      await next.query(`listen ${CHANNEL}`)
      if (isAgain) onGap()
    } catch {
      again()
    }
  }

  void open(false)
  return {
    async close() {
      closed = true
      clearTimeout(retry)
      await client?.end().catch(() => undefined)
    },
  }
}
