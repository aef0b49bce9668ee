import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { CHANNEL_KINDS, type Facts, plainOf, subjectOf } from '#core/callouts'
import {
  CHANNEL_FORMS,
  saveChannel,
  insertMessage,
  type NewMessage,
  findChannel,
  findMessage,
} from '#db/callouts'
import type { Db } from '#db/platform'
import { announce, readSite, readWebAddress } from '#db/platform'
import { seal } from '#db/sources'
import { firstProblem } from '../platform/fields.ts'
import { installation } from '../platform/installation.ts'
import { Refused } from '../platform/refused.ts'
import { nameOfGear } from '#db/gear'

/** The form of a channel: its kind decides which of the other fields matter. */
export const channelForm = z
  .object({
    id: z
      .string()
      .default('')
      .transform((text) => (Number(text) > 0 ? Number(text) : null)),
    kind: z.enum(CHANNEL_KINDS, 'Choose what kind of channel it is'),
    name: z.string().trim().min(1, 'Give the channel a name'),
    password: z.string().default(''),
    noSecret: z.string().default(''),
  })
  .catchall(z.string())
export type ChannelForm = z.infer<typeof channelForm>

/**
 * Keeps a channel. An empty secret keeps the one there is.
 * @returns its id
 * @throws Refused when something is missing, or the name is given already
 */
export async function keepChannel(trx: Db, form: ChannelForm, who: string): Promise<number> {
  const { id, kind, name, password, noSecret, ...settings } = form
  const parsed = CHANNEL_FORMS[kind].safeParse({ ...settings, name, password, noSecret })
  if (!parsed.success) throw new Refused(firstProblem(parsed.error))
  if (id !== null && password === '' && noSecret !== 'on') await assertSamePlace(trx, id, parsed.data)
  const sealedSecret =
    noSecret === 'on' ? null : password === '' ? undefined : seal(installation().key, { password })
  const kept = await saveChannel(trx, id, { name, kind, settings: parsed.data, sealedSecret }, who)
  if (kept === null) throw new Refused(`There is a channel called “${name}” already.`)
  return kept
}

/** A kept secret goes nowhere else than where it was entered for. @throws Refused */
async function assertSamePlace(
  trx: Db,
  id: number,
  settings: Readonly<Record<string, unknown>>,
): Promise<void> {
  const before = await findChannel(trx, id)
  if (before === undefined || before.sealedSecret === null) return
  if (placeOf(before.settings) !== placeOf(settings))
    throw new Refused(
      `What is kept was entered for ${placeOf(before.settings)}. Enter it again for ${placeOf(settings)}, or choose none.`,
    )
}

const placeOf = (settings: Readonly<Record<string, unknown>>): string =>
  typeof settings['url'] === 'string'
    ? new URL(settings['url']).origin
    : `${String(settings['host'])}:${String(settings['port'])}`

/** Sends a test at once, by the way that everything goes, and says under which id to look for its answer. */
export async function testChannel(db: Db, channelId: number, address: string, who: string) {
  const channel = await findChannel(db, channelId)
  if (channel === undefined) return null
  const team = address === '' ? channel.name : address
  return insertTrial(
    db,
    {
      title: `${channel.name} works`,
      reason: `${who} asked for this test. Nothing is wrong; had something been, you would read here what and why.`,
      gear: null,
      team,
      because: 'a test',
    },
    { action: 'notify', channelId, target: address === '' ? {} : { address }, isDry: false },
  )
}

/** Queues a message that is about no alert, by the way that everything goes. @returns its id */
async function insertTrial(
  db: Db,
  words: Pick<Facts, 'title' | 'reason' | 'gear' | 'team' | 'because'>,
  what: Pick<NewMessage, 'action' | 'channelId' | 'target'> & { readonly isDry: boolean },
): Promise<string> {
  const [site, web] = await Promise.all([readSite(db), readWebAddress(db)])
  const facts: Facts = {
    ...words,
    event: 'test',
    site: site.name,
    timeZone: site.timeZone,
    place: null,
    severity: 'warning',
    atMs: Date.now(),
    link: new URL('/alerts/callouts', web).href,
    stillAfter: null,
  }
  const id = randomUUID()
  await insertMessage(db, {
    ...what,
    id,
    alertId: null,
    callOutId: null,
    step: 0,
    team: facts.team,
    event: 'test',
    facts,
    subject: subjectOf(facts),
    body: plainOf(facts),
    dueAt: new Date(),
  })
  await announce(db, { topic: 'callouts' })
  return id
}

type DryAction =
  { readonly gearId: number } | { readonly gearIds: readonly number[] } | { readonly command: string }

function whatWouldBe(action: DryAction, gear: string | null): string {
  if ('command' in action) return `the command “${action.command}” runs`
  return 'gearIds' in action
    ? `${action.gearIds.length} gear are asked to stop`
    : `${gear ?? ''} is asked to stop`
}

/** Goes all the way to what a step does besides telling, and does not do it. */
export async function dryAction(db: Db, action: DryAction, who: string): Promise<string | null> {
  const gear = 'gearId' in action ? await nameOfGear(db, action.gearId) : null
  if (gear === undefined) return null
  const what = whatWouldBe(action, gear)
  return insertTrial(
    db,
    {
      title: `Dry run: ${what}`,
      reason: `${who} asked for this dry run.`,
      gear,
      team: `dry run: ${what}`,
      because: 'a dry run',
    },
    { action: 'command' in action ? 'command' : 'stop', channelId: null, target: action, isDry: true },
  )
}

/** What became of a test or a dry run: `null` while it is under way. */
export async function testOutcome(db: Db, id: string) {
  if (!/^[0-9a-f-]{36}$/.test(id)) return null
  const row = await findMessage(db, id)
  if (row === undefined) return null
  return {
    ...row,
    sentAtMs: row.sentAt?.getTime() ?? null,
    sentAt: undefined,
    isOver: row.sentAt !== null || row.isFailed,
  }
}
