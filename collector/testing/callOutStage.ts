import { randomBytes } from 'node:crypto'
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { CallOut, Step } from '#core/callouts'
import { clearAlerts, openAlert } from '#db/alerts'
import { saveCallOut, saveChannel, savePerson, saveTeam } from '#db/callouts'
import { seal } from '#db/sources'
import { AT_ONCE, callOutOf } from '#db/testing/callouts'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { freePort } from '../../bin/setup/postgres.mjs'
import { type SunkMail, startMailSink } from '../../standins/mail/sink.ts'
import { Outside } from '../../standins/outside/server.ts'
import { Allowance } from '../notify/allowance.ts'
import { Notifier } from '../notify/notifier.ts'

export const MINUTE = 60_000
export const WHO = 'a test'
export const key = randomBytes(32)

interface Trouble {
  readonly subject: string
  readonly severity?: 'warning' | 'critical'
}

/** A step that tells a team, or who of it is on duty, by a channel. */
const teller =
  (teamId: number) =>
  (channelId: number, rest: Partial<Step> = {}, to: 'team' | 'duty' | null = 'team'): Step => ({
    after: AT_ONCE,
    evenIfTaken: false,
    action: { do: 'notify', channelId, to: to === null ? null : { kind: to, teamId } },
    ...rest,
  })

export const later = (minutes: number) => ({ kind: 'span', ms: minutes * MINUTE }) as const

/**
 * A database with a mail server, a gateway for texts, a hook, a team of two and a list of allowed commands: what call-outs
 * are carried out with. Alerts are opened and cleared by hand, and what is due is sent when asked.
 */
export async function callOutStage() {
  const folder = mkdtempSync(join(tmpdir(), 'rack-callouts-'))
  const commandsPath = join(folder, 'commands.json')

  const { db, drop } = await freshDatabaseWithJobs()
  const [mailPort, port] = [await freePort(), await freePort()]
  const sink = await startMailSink(mailPort, undefined, undefined, (address) =>
    address.startsWith('gone') ? { code: 550, words: 'no such user here' } : null,
  )
  const outside = new Outside({ port, token: 'gateway-token', secret: 'hook-secret', mails: sink.mails })
  await outside.start()
  const channel = async (
    name: string,
    kind: 'mail' | 'text' | 'hook',
    settings: Record<string, unknown>,
    password: string | null,
  ) =>
    (await saveChannel(
      db,
      null,
      { name, kind, settings, sealedSecret: password === null ? null : seal(key, { password }) },
      WHO,
    ))!
  const mail = await channel(
    'Mail',
    'mail',
    { host: '127.0.0.1', port: mailPort, from: 'rack@a.example', username: '' },
    null,
  )
  const text = await channel('Texts', 'text', { url: `http://127.0.0.1:${port}/texts` }, 'gateway-token')
  const hook = await channel('Hook', 'hook', { url: `http://127.0.0.1:${port}/hooks/log` }, 'hook-secret')
  const people: number[] = []
  for (const [name, phone] of [
    ['Bo', '+475550102'],
    ['Dag', '+475550104'],
  ] as const)
    people.push((await savePerson(db, null, { name, email: `${name}@a.example`.toLowerCase(), phone }, WHO))!)
  const teamId = (await saveTeam(db, null, { name: 'night team', personIds: people }, WHO))!
  writeFileSync(
    commandsPath,
    JSON.stringify([
      { name: 'note', program: '/bin/cat' },
      { name: 'fails', program: '/bin/sh', arguments: ['-c', 'echo broken >&2; exit 3'] },
      { name: 'hangs', program: '/bin/sleep', arguments: ['60'], timeoutSeconds: 1 },
    ]),
  )
  chmodSync(commandsPath, 0o600)
  const allowance = new Allowance(db, commandsPath, 'collector-1')
  await allowance.look()
  const notifier = new Notifier(key, 0, allowance)
  const make = async (steps: readonly Step[], rest: Partial<CallOut> = {}): Promise<void> => {
    await saveCallOut(db, null, callOutOf(steps, rest), WHO)
  }

  async function open({ subject, severity = 'warning' }: Trouble): Promise<number> {
    return db.transaction().execute(async (trx) => {
      const at = new Date()
      const [title, reason] = [`Trouble of ${subject}`, 'It is so.']
      const id = (await openAlert(trx, {
        ruleKey: 'r',
        seriesId: null,
        sourceId: null,
        gearId: null,
        partId: null,
        measure: null,
        subject,
        severity,
        title,
        reason,
        sinceAt: at,
        openedAt: at,
      }))!
      await notifier.notify(trx, { alertId: id, event: 'opened', title, reason, atMs: at.getTime() })
      return id
    })
  }
  async function clear(id: number): Promise<void> {
    await db.transaction().execute(async (trx) => {
      await clearAlerts(trx, [{ id, at: new Date(), reason: 'It is well again.' }])
      const title = 'Trouble'
      await notifier.notifyCleared(trx, { alertId: id, title, reason: 'It is well again.', atMs: Date.now() })
    })
  }
  /** Sends all that is due at a time: what is due later is brought forward by moving its time back. */
  async function sendDue(inMinutes = 0): Promise<void> {
    const due = await db
      .selectFrom('message')
      .select('id')
      .where('sentAt', 'is', null)
      .where('skipped', 'is', null)
      .where('isFailed', '=', false)
      .where('dueAt', '<=', new Date(Date.now() + inMinutes * MINUTE + 500))
      .orderBy('dueAt')
      .execute()
    for (const { id } of due) await notifier.send(db, id).catch(() => undefined)
  }
  const messages = () => db.selectFrom('message').selectAll().orderBy('createdAt').orderBy('step').execute()
  const mailsOf = (subject: string): readonly SunkMail[] =>
    sink.mails.filter((each) => each.subject.includes(`Trouble of ${subject}`))
  return {
    db,
    notifier,
    allowance,
    sink,
    outside,
    mail,
    text,
    hook,
    teamId,
    people,
    commandsPath,
    make,
    open,
    clear,
    sendDue,
    messages,
    mailsOf,
    tell: teller(teamId),
    /** Nothing is left of the test before. */
    async clean(): Promise<void> {
      await db.deleteFrom('message').execute()
      await db.deleteFrom('callOut').execute()
    },
    async close(): Promise<void> {
      outside.close()
      await sink.close()
      await drop()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
