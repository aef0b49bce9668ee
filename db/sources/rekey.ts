import { createHmac, randomBytes } from 'node:crypto'
import { closeSync, existsSync, fsyncSync, openSync, renameSync, rmSync, writeSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { sql } from 'kysely'
import type { Db } from '../platform/connect.ts'
import { recordChange } from '../platform/record.ts'
import { openKeyFile, seal, SealError, type SecretKey, unseal } from './secrets.ts'

/** Says which key it is, and nothing of it. */
const fingerprint = (key: SecretKey): string =>
  createHmac('sha256', key).update('which key this is').digest('hex').slice(0, 16)

const keyPath = (folder: string): string => join(folder, 'secret.key')
/** The next key, while everything is sealed with it; its place is taken when that is done. */
const nextPath = (folder: string): string => join(folder, 'secret.key.next')

function writeDurably(path: string, text: string): void {
  const file = openSync(path, 'w', 0o600)
  writeSync(file, text)
  fsyncSync(file)
  closeSync(file)
}

function renameDurably(from: string, to: string): void {
  renameSync(from, to)
  const folder = openSync(dirname(to), 'r')
  fsyncSync(folder)
  closeSync(folder)
}

/**
 * Ends what was cut short between the database and the key file: the next key takes its place when the database is sealed
 * with it, and goes when it is not. Before anything opens the key file.
 */
export async function settleKey(db: Db, folder: string): Promise<void> {
  if (!existsSync(nextPath(folder))) return
  const row = await db.selectFrom('setting').select('body').where('key', '=', 'key').executeTakeFirst()
  let isNext: boolean
  try {
    isNext = row?.body['fingerprint'] === fingerprint(openKeyFile(nextPath(folder)))
  } catch {
    // It was cut short while it was written; nothing is sealed with it.
    isNext = false
  }
  if (isNext) renameDurably(nextPath(folder), keyPath(folder))
  else rmSync(nextPath(folder))
}

export interface Rekeyed {
  readonly sealed: number
  /** What the key before did not open either; it is as it was. */
  readonly shut: number
}

/**
 * Seals every secret anew, with a new key. All of it, or nothing: whenever it is cut short, `settleKey` finds the key that
 * belongs to the database.
 * @param recode texts that the sign-in library has encrypted, from the key before to the next
 */
export async function rekey(
  db: Db,
  folder: string,
  recode: (text: string, from: SecretKey, to: SecretKey) => Promise<string>,
): Promise<Rekeyed> {
  await settleKey(db, folder)
  const from = openKeyFile(keyPath(folder))
  const to = randomBytes(32)
  writeDurably(nextPath(folder), `${to.toString('hex')}\n`)
  const counts = await db.transaction().execute(async (trx) => {
    const counted = { sealed: 0, shut: 0 }
    for (const { table, column } of await sealedColumns(trx)) {
      const outcome = await resealColumn(trx, { table, column, from, to })
      counted.sealed += outcome.sealed
      counted.shut += outcome.shut
    }
    await recodeSecondFactors(trx, (text) => recode(text, from, to))
    // The cookies of all sessions were signed with what is made from the key before.
    await sql`delete from session`.execute(trx)
    const body = JSON.stringify({ fingerprint: fingerprint(to) })
    await trx
      .insertInto('setting')
      .values({ key: 'key', body })
      .onConflict((conflict) => conflict.column('key').doUpdateSet({ body }))
      .execute()
    await recordChange(
      trx,
      'Whoever runs this machine',
      `sealed ${counted.sealed} secrets anew, with a new key`,
    )
    return counted
  })
  renameDurably(nextPath(folder), keyPath(folder))
  return counts
}

interface SealedColumn {
  readonly table: string
  readonly column: string
}

/** Every column that holds something sealed, by its name. */
export async function sealedColumns(db: Db): Promise<SealedColumn[]> {
  const { rows } = await sql<SealedColumn>`
    select table_name as table, column_name as column from information_schema.columns
    where table_schema = current_schema() and data_type = 'bytea' and column_name in ('sealed', 'sealed_secret')
    order by 1, 2`.execute(db)
  return rows
}

async function resealColumn(
  trx: Db,
  { table, column, from, to }: SealedColumn & { readonly from: SecretKey; readonly to: SecretKey },
): Promise<Rekeyed> {
  const [name, sealed] = [sql.table(table), sql.ref(column)]
  await sql`lock table ${name} in exclusive mode`.execute(trx)
  const { rows } = await sql<{ place: string; bytes: Buffer }>`
    select ctid::text as place, ${sealed} as bytes from ${name} where ${sealed} is not null`.execute(trx)
  let shut = 0
  for (const { place, bytes } of rows) {
    try {
      const anew = seal(to, unseal(from, bytes))
      await sql`update ${name} set ${sealed} = ${anew} where ctid = ${place}::tid`.execute(trx)
    } catch (error) {
      if (!(error instanceof SealError)) throw error
      shut += 1
    }
  }
  return { sealed: rows.length - shut, shut }
}

async function recodeSecondFactors(trx: Db, recode: (text: string) => Promise<string>): Promise<void> {
  const { rows } = await sql<{ id: string; secret: string; codes: string }>`
    select id, secret, "backupCodes" as codes from "twoFactor" for update`.execute(trx)
  for (const { id, secret, codes } of rows)
    await sql`
      update "twoFactor" set secret = ${await recode(secret)}, "backupCodes" = ${await recode(codes)}
      where id = ${id}`.execute(trx)
}
