import { sql } from 'kysely'
import type { Db } from './connect.ts'
import type { RecordKind } from './tables.ts'

/** Whoever acts: their account and where they are. */
export interface Actor {
  readonly id: string
  readonly address: string
}

/**
 * From here to its end, whatever a transaction records is of this account, from this address; and what it changes of what
 * people set up is kept as it was and as it is.
 */
export async function actAs(trx: Db, { id, address }: Actor): Promise<void> {
  await sql`select set_config('rack.account', ${id}, true), set_config('rack.address', ${address}, true),
    set_config('rack.act', gen_random_uuid()::text, true)`.execute(trx)
}

/** Who changed what, for the record. Never the secret itself. */
export async function recordChange(db: Db, who: string, what: string): Promise<void> {
  await db.insertInto('change').values({ who, what }).execute()
}

export interface Happened {
  readonly kind: Exclude<RecordKind, 'change'>
  readonly outcome: 'done' | 'refused'
  readonly who: string
  readonly what: string
  readonly accountId: string | null
  readonly address: string
}

/** What happened at the doors: who came in, and who was refused what. */
export async function recordHappened(db: Db, happened: Happened): Promise<void> {
  await db.insertInto('change').values(happened).execute()
}
