import { z } from 'zod'
import type { CallOut } from '#core/callouts'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { scopeForm } from '../rules/ruleForm.ts'
import { recordChange } from '../platform/record.ts'

const id = z.number().int().positive()
const after = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('span'),
    ms: z
      .number()
      .int()
      .min(0)
      .max(30 * 86_400_000),
  }),
  z.object({ kind: z.literal('intervals'), count: z.number().int().min(0).max(1000) }),
])
const rules = z.array(z.string().min(1).max(120)).min(1, 'Choose the rules that it belongs to').max(40)
const action = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('notify'),
    channelId: id,
    to: z
      .discriminatedUnion('kind', [
        z.object({ kind: z.literal('team'), teamId: id }),
        z.object({ kind: z.literal('duty'), teamId: id }),
      ])
      .nullable(),
  }),
  z.object({ do: z.literal('command'), name: z.string().min(1).max(80), rules }),
  z.object({ do: z.literal('stop'), gearId: id.nullable(), rules }),
])
const minute = z.number().int().min(0).max(1440)

/** The one description of what a call-out may be. */
export const callOutForm = z.object({
  name: z.string().trim().min(2, 'Give the call-out a name').max(80),
  severity: z.enum(['critical', 'warning']),
  scope: scopeForm,
  hours: z
    .object({
      days: z.array(z.number().int().min(0).max(6)).min(1, 'Choose at least one day of the week'),
      fromMinute: minute,
      toMinute: minute,
    })
    .nullable(),
  outside: z.enum(['wait', 'leave']),
  holdOffMs: z
    .number()
    .int()
    .min(0)
    .max(7 * 86_400_000, 'A hold-off is at most 7 d'),
  mostAMinute: z
    .number('Say as a number how many messages may go out in a minute')
    .int()
    .min(1, 'At least one message a minute goes out')
    .max(600, 'At most 600 messages a minute go out alone'),
  tellsCleared: z.boolean(),
  steps: z
    .array(z.object({ after, action, evenIfTaken: z.boolean() }))
    .min(1, 'A call-out has at least one step')
    .max(8, 'A call-out has at most 8 steps'),
})

export interface CallOutRow {
  readonly id: number
  readonly isOn: boolean
  readonly callOut: CallOut
  readonly createdBy: string | null
}

export async function listCallOuts(db: Db): Promise<CallOutRow[]> {
  const rows = await db.selectFrom('callOut').selectAll().orderBy('id').execute()
  return rows.map(({ body, ...row }) => ({ ...row, callOut: body }))
}

/** Keeps a call-out: a new one, or another form of one. @returns `null` when another has its name */
export async function saveCallOut(
  db: Db,
  callOutId: number | null,
  callOut: CallOut,
  who: string,
): Promise<number | null> {
  return within(db, async (trx) => {
    const { name } = callOut
    const other = await trx.selectFrom('callOut').select('id').where('name', '=', name).executeTakeFirst()
    if (other !== undefined && other.id !== callOutId) return null
    const body = JSON.stringify(callOut)
    const kept =
      callOutId === null
        ? await trx
            .insertInto('callOut')
            .values({ name, body, createdBy: who })
            .returning('id')
            .executeTakeFirst()
        : await trx
            .updateTable('callOut')
            .set({ name, body })
            .where('id', '=', callOutId)
            .returning('id')
            .executeTakeFirst()
    if (kept === undefined) return null
    await recordChange(trx, who, `${callOutId === null ? 'added' : 'changed'} the call-out “${name}”`)
    await announce(trx, { topic: 'callouts' })
    return kept.id
  })
}

export async function switchCallOut(db: Db, callOutId: number, isOn: boolean, who: string): Promise<void> {
  await within(db, async (trx) => {
    const row = await trx
      .updateTable('callOut')
      .set({ isOn })
      .where('id', '=', callOutId)
      .returning('name')
      .executeTakeFirst()
    if (row === undefined) return
    await recordChange(trx, who, `switched the call-out “${row.name}” ${isOn ? 'on' : 'off'}`)
    await announce(trx, { topic: 'callouts' })
  })
}

/** What it was about to tell is not told any more. */
export async function deleteCallOut(db: Db, callOutId: number, who: string): Promise<void> {
  await within(db, async (trx) => {
    await trx
      .updateTable('message')
      .set({ skipped: 'its call-out is gone' })
      .where('callOutId', '=', callOutId)
      .where('sentAt', 'is', null)
      .where('skipped', 'is', null)
      .execute()
    const row = await trx
      .deleteFrom('callOut')
      .where('id', '=', callOutId)
      .returning('name')
      .executeTakeFirst()
    if (row === undefined) return
    await recordChange(trx, who, `deleted the call-out “${row.name}”`)
    await announce(trx, { topic: 'callouts' })
  })
}
