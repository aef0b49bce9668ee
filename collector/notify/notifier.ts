import { randomUUID } from 'node:crypto'
import {
  againMs,
  type CallOut,
  actionWords,
  documentOf,
  factsNow,
  type Facts,
  howToGo,
  type ChannelKind,
  onDuty,
  plainOf,
  type Step,
  subjectOf,
  type MessageEvent,
  USUAL_MOST_A_MINUTE,
  type LastOfStep,
  planStep,
  SETTLE_MS,
  stillAfterWords,
  takesBackEnd,
  isMeantBy,
  type Action,
} from '#core/callouts'
import { scopeCovers, type Severity } from '#core/rules'
import { formatElapsed } from '#core/units'
import { recordEvent, quietFromTheStart } from '#db/alerts'
import {
  type CallOutRow,
  listCallOuts,
  listPeople,
  listTeams,
  callNames,
  giveUp,
  alertNow,
  goesTogether,
  hurryChannel,
  insertMessages,
  lastNotified,
  openMessage,
  type OpenMessage,
  postpone,
  recentlySent,
  recordEnd,
  recordTry,
  removeJobs,
  skipWaiting,
  skipWaitingEnd,
  type NotifiedAlert,
  notifiedAlerts,
  type NewMessage,
  waitingBeside,
  type MessageTarget,
} from '#db/callouts'
import type { Db } from '#db/platform'
import { announce, readSite, readWebAddress } from '#db/platform'
import { type SecretKey, unseal } from '#db/sources'
import { listGearScopes } from '#db/rules'
import { type AllowedCommand, dryRun, runCommand } from './commands.ts'
import { sendBy } from './channels/channels.ts'
import { RefusedForGood } from './channels/sending.ts'
import { isSkipped, whyImpossible } from './skipping.ts'
import { dryStops, stopGear } from './stopping.ts'

/** Scopes of gear are read anew after this. */
const SCOPES_FOR_MS = 10_000

export interface News {
  readonly alertId: number
  readonly event: MessageEvent
  readonly title: string
  readonly reason: string
  readonly atMs: number
  /** It is told even to those who know: a quiet is over, say. */
  readonly isAgain?: boolean
  /** It waits for so long on top of what everything waits for. */
  readonly waitMs?: number
  /** The alert that this is the next word about; told by itself nobody would know what it belongs to. */
  readonly next?: Facts['next']
}

interface StepGiven {
  readonly step: Step
  readonly alert: NotifiedAlert
  readonly news: News
  readonly last: LastOfStep | null
  /** Nothing of this call-out was told, or is about to be, of this very alert. */
  readonly isNewHere: boolean
  readonly facts: Facts
  readonly timeZone: string
}

/**
 * Carries out call-outs. A message is written in the transaction that changes the alert, together with the job that sends
 * it, so there is no alert without its messages and no message without its alert. Sending is at least once: every try
 * has the message's id, by which a repeat is recognised.
 */
export class Notifier {
  readonly #ofTransaction = new WeakMap<Db, Promise<Settled>>()
  #scopes: { readonly atMs: number; readonly of: Awaited<ReturnType<typeof listGearScopes>> } | null = null

  constructor(
    private readonly key: SecretKey,
    /** What is told waits for so long, for its cause may come after it. */
    private readonly settleMs = SETTLE_MS,
    private readonly allowed: { readonly list: readonly AllowedCommand[] } = { list: [] },
  ) {}

  /** Of each alert once a call. */
  async notify(trx: Db, ...all: readonly News[]): Promise<void> {
    const begun = all.filter(({ event }) => event !== 'cleared')
    const quiet = begun.length === 0 ? new Set() : await quietFromTheStart(trx, begun)
    const told = all.filter(({ alertId, event }) => event === 'cleared' || !quiet.has(alertId))
    const { callOuts, site, names, web } = await this.#settled(trx)
    if (callOuts.length === 0 || told.length === 0) return
    const alerts = await notifiedAlerts(
      trx,
      told.map(({ alertId }) => alertId),
    )
    const last = await lastNotified(
      trx,
      callOuts.map(({ id }) => id),
      [...alerts.values()],
    )
    const messages: NewMessage[] = []
    for (const news of told) {
      const alert = alerts.get(news.alertId)!
      const facts = factsOf(news, alert, site, web)
      for (const row of callOuts) {
        if (!(await this.#covers(trx, row.callOut, alert))) continue
        const ofSteps = last(row.id, alert.id)
        for (const [index, step] of row.callOut.steps.entries()) {
          if (!isMeantBy(step.action, alert.ruleKey)) continue
          const message = await this.#plan(trx, row, index, {
            step,
            alert,
            news,
            last: news.isAgain ? null : (ofSteps.get(index) ?? null),
            isNewHere: ![...ofSteps.values()].some(({ isSameAlert }) => isSameAlert),
            facts: { ...facts, team: actionWords(step, names), because: row.callOut.name },
            timeZone: site.timeZone,
          })
          if (message !== null) messages.push(message)
        }
      }
    }
    await insertMessages(trx, messages)
  }

  /** What is the same for every alert of one transaction. */
  #settled(trx: Db): Promise<Settled> {
    const known = this.#ofTransaction.get(trx) ?? readSettled(trx)
    if (trx.isTransaction) this.#ofTransaction.set(trx, known)
    return known
  }

  async #covers(trx: Db, { severity, scope }: CallOut, alert: NotifiedAlert): Promise<boolean> {
    if (severity === 'critical' && alert.severity !== 'critical') return false
    if (scope.where.kind === 'everywhere' && scope.gearKind === null && scope.partKind === null) return true
    if (scope.where.kind === 'part' && scope.where.id === alert.partId) return true
    if (this.#scopes === null || Date.now() - this.#scopes.atMs > SCOPES_FOR_MS)
      this.#scopes = { atMs: Date.now(), of: await listGearScopes(trx) }
    return alert.gearIds.some((id) => {
      const gear = this.#scopes!.of.get(id)
      return gear !== undefined && scopeCovers(scope, { ...gear, partKind: null, partId: alert.partId })
    })
  }

  async #plan(
    trx: Db,
    { id: callOutId, callOut }: CallOutRow,
    index: number,
    given: StepGiven,
  ): Promise<NewMessage | null> {
    const { step, alert, news, facts, isNewHere, timeZone } = given
    const { action } = step
    let { last } = given
    if (takesBackEnd(news.event, last)) {
      await skipWaitingEnd(trx, callOutId, alert)
      last = (await lastNotified(trx, [callOutId], [alert]))(callOutId, alert.id).get(index) ?? null
    }
    const { event } = news
    const nowMs = Date.now()
    const settleMs = this.settleMs + (news.waitMs ?? 0)
    const plan = planStep({ event, callOut, step, alert, last, isNewHere, nowMs, timeZone, settleMs })
    if (plan === null) return null
    const skipped = plan.skipped ?? (await whyImpossible(trx, action, alert))
    const said = { ...facts, stillAfter: stillAfterWords(plan) }
    return {
      id: randomUUID(),
      alertId: alert.id,
      callOutId,
      step: index,
      action: action.do,
      channelId: action.do === 'notify' ? action.channelId : null,
      target: targetOf(action, alert),
      team: facts.team,
      event,
      facts: said,
      subject: subjectOf(said),
      body: plainOf(said),
      dueAt: new Date(plan.dueAtMs),
      ...(skipped === null ? {} : { skipped }),
    }
  }

  /** What came and went before a step's turn is not told by it. Who heard that it began hears that it ended. */
  async notifyCleared(trx: Db, ...all: readonly Omit<News, 'event'>[]): Promise<void> {
    const ids = all.map(({ alertId }) => alertId)
    await skipWaiting(trx, ids, 'it went away before its turn came', ['opened', 'worse'])
    await this.notify(trx, ...all.map((news) => ({ ...news, event: 'cleared' as const })))
  }

  /** The job behind a message. Rejects when the far side does, and is then tried again with growing pauses. */
  async send(
    db: Db,
    id: string,
    { abortSignal }: { abortSignal?: AbortSignal | undefined } = {},
  ): Promise<void> {
    const message = await openMessage(db, id)
    if (message === undefined || message.sentAt !== null || message.skipped !== null) return
    if (abortSignal?.aborted || (await isSkipped(db, message))) return
    const letter = await this.#letter(db, message)
    if (letter === null) return
    try {
      await this.#record(db, message, letter, await this.#carryOut(db, letter))
    } catch (error) {
      if (error instanceof RefusedForGood) {
        await this.#record(db, message, letter, { isWell: false, words: error.message, recipients: [] })
        return
      }
      const answer = error instanceof Error ? error.message : String(error)
      const messages = letter.map((part) => part.message)
      await recordTry(db, messages, { answer, at: new Date() })
      if (message.event === 'test' || message.attempts === 0) await announce(db, { topic: 'callouts' })
      // A test is tried once: somebody waits for its answer.
      if (message.event === 'test') {
        await giveUp(db, id)
        return
      }
      if (letter.length > 1) await postpone(db, message, new Date(Date.now() + againMs(message.attempts)))
      else throw error
    }
  }

  /** This message, or this and all that wait beside it. `null` when it is not its time: too many went out in this minute. */
  async #letter(db: Db, message: OpenMessage): Promise<Letter | null> {
    const alone = [{ message, facts: await wordedNow(db, message) }]
    if (!goesTogether(message)) return alone
    const [waiting, sentMs] = await Promise.all([waitingBeside(db, message), recentlySent(db, message)])
    const going = howToGo(
      Date.now(),
      sentMs,
      waiting.length,
      message.callOut?.mostAMinute ?? USUAL_MOST_A_MINUTE,
    )
    if (going.how === 'later') await postpone(db, message, new Date(going.atMs))
    if (going.how !== 'together') return going.how === 'alone' ? alone : null
    const letter: Letter[number][] = []
    for (const id of new Set([...waiting, message.id])) {
      const each = id === message.id ? message : await openMessage(db, id)
      if (each === undefined || each.sentAt !== null) continue
      if (id === message.id || !(await isSkipped(db, each)))
        letter.push({ message: each, facts: await wordedNow(db, each) })
    }
    return letter
  }

  async #carryOut(db: Db, letter: Letter): Promise<Done> {
    const { message, facts } = letter[0]!
    const target = message.target ?? {}
    if (message.action === 'command') {
      const command = this.allowed.list.find(({ name }) => name === target.command)
      if (command === undefined)
        return {
          isWell: false,
          words: `“${target.command ?? ''}” is not allowed on this machine any more.`,
          recipients: [],
        }
      if (message.isDry) return { ...dryRun(command), recipients: [] }
      const document = JSON.stringify(documentOf(message.id, message.alertId, facts))
      return { ...(await runCommand(command, document)), recipients: [] }
    }
    if (message.action === 'stop' && message.isDry && target.gearIds !== undefined)
      return { ...(await dryStops(db, this.key, target.gearIds)), recipients: [] }
    if (message.action === 'stop')
      return {
        ...(await stopGear(db, this.key, target.gearId ?? 0, message.isDry)),
        recipients: [],
      }
    const { channelKind, settings, sealedSecret } = message
    if (channelKind === null) return { isWell: false, words: 'its channel is gone', recipients: [] }
    const recipients = await recipientsOf(db, message, channelKind)
    if (recipients.length === 0 && (channelKind === 'mail' || channelKind === 'text'))
      return {
        isWell: false,
        words: `nobody there has ${channelKind === 'mail' ? 'a mail address' : 'a telephone number'}`,
        recipients,
      }
    const secret = sealedSecret === null ? null : (unseal(this.key, sealedSecret)['password'] ?? null)
    const parts = letter.map((part) => ({
      id: part.message.id,
      alertId: part.message.alertId,
      facts: part.facts,
    }))
    const { words, refused } = await sendBy(channelKind, { settings, secret, recipients, parts })
    return { isWell: true, words, recipients: recipients.filter((each) => !refused.includes(each)), refused }
  }

  async #record(db: Db, running: OpenMessage, letter: Letter, end: Done): Promise<void> {
    const at = new Date()
    const others = letter.length - 1
    const answer = others === 0 ? end.words : `${end.words}; ${letter.length} messages in one`
    await db.transaction().execute(async (trx) => {
      for (const { message, facts } of letter) {
        const { isWell, recipients } = end
        const written = { subject: subjectOf(facts), body: plainOf(facts), facts }
        await recordEnd(trx, message.id, { at, isWell, answer, recipients, ...written })
        if (message.alertId !== null)
          await recordEvent(trx, message.alertId, {
            at,
            what: message.action === 'notify' ? 'notified' : 'done',
            who: null,
            text: eventText(message, { ...end, others, at }),
          })
      }
      const ids = letter.map(({ message }) => message.id)
      await removeJobs(
        trx,
        ids.filter((id) => id !== running.id),
      )
      await announce(trx, { topic: 'alerts' })
      await announce(trx, { topic: 'callouts' })
    })
    // What waited for a channel that is through again need not wait for its next turn.
    if (end.isWell && running.channelId !== null && letter.some(({ message }) => message.attempts > 0))
      await hurryChannel(db, running.channelId)
  }
}

const factsOf = (
  { alertId, event, title, reason, atMs, next }: News,
  { place, severity, gearName }: NotifiedAlert,
  site: Settled['site'],
  web: Settled['web'],
): Facts => ({
  event,
  site: site.name,
  timeZone: site.timeZone,
  title,
  reason,
  place,
  severity,
  gear: gearName,
  atMs,
  link: new URL(`/alerts/${alertId}`, web).href,
  team: '',
  because: '',
  stillAfter: null,
  ...(next === undefined ? {} : { next }),
})

type Settled = Awaited<ReturnType<typeof readSettled>>

async function readSettled(trx: Db) {
  const [all, site, names, web] = await Promise.all([
    listCallOuts(trx),
    readSite(trx),
    callNames(trx),
    readWebAddress(trx),
  ])
  return { callOuts: all.filter(({ isOn }) => isOn), site, names, web }
}

/** Whom a step reaches; of a command its name, of a stop the gear. */
function targetOf(action: Action, { gearId }: NotifiedAlert): MessageTarget {
  switch (action.do) {
    case 'notify':
      return { to: action.to }
    case 'command':
      return { command: action.name }
    case 'stop':
      return { gearId: action.gearId ?? gearId ?? 0 }
    default:
      return action satisfies never
  }
}

/** What goes out at once: one message, or many of one step to the same people. The first is the oldest. */
type Letter = readonly { readonly message: OpenMessage; readonly facts: Facts }[]

interface Done {
  readonly isWell: boolean
  readonly words: string
  readonly recipients: readonly string[]
  /** Of those who should have received it, who did not. */
  readonly refused?: readonly string[]
}

function eventText(
  { team, action, dueAt }: OpenMessage,
  { isWell, words, others, at, refused = [] }: Done & { readonly others: number; readonly at: Date },
): string {
  const late = at.getTime() - dueAt.getTime()
  const lateWords = late > 60_000 ? `, ${formatElapsed(late)} late` : ''
  const named = `${team[0]?.toUpperCase() ?? ''}${team.slice(1)}`
  if (action !== 'notify') return `${named}${lateWords}: ${words}`
  return isWell
    ? `Told: ${team}${lateWords}${others === 0 ? '' : `, with ${others} more in one`}.${refused.length === 0 ? '' : ` Not taken for ${refused.join(', ')}.`}`
    : `Could not be told: ${team}: ${words}.`
}

/** Who receives it now: of the duty whoever has it at this moment. */
async function recipientsOf(db: Db, { target }: OpenMessage, kind: ChannelKind): Promise<string[]> {
  if (target?.address !== undefined) return [target.address]
  const to = target?.to ?? null
  if (to === null) return []
  const [teams, people, site] = await Promise.all([listTeams(db), listPeople(db), readSite(db)])
  const team = teams.find(({ id }) => id === to.teamId)
  if (team === undefined) return []
  const duty = team.duty === null ? null : onDuty(team.duty, Date.now(), site.timeZone)
  // A team without a calendar is on duty as a whole.
  const ids = to.kind === 'duty' && duty !== null ? [duty] : team.personIds
  return people
    .filter(({ id }) => ids.includes(id))
    .flatMap(({ email, phone }) => (kind === 'text' ? phone : email) ?? [])
}

/**
 * A message as it leaves: with the numbers of this moment, and with what its alert means for others, which is known a
 * moment after it has opened.
 */
async function wordedNow(db: Db, message: OpenMessage): Promise<Facts> {
  const planned = message.facts ?? legacyFacts(message)
  if (message.event === 'cleared' || message.event === 'test' || message.alertId === null) return planned
  const nowMs = Date.now()
  const alert = await alertNow(db, planned.next?.alertId ?? message.alertId, nowMs)
  const facts =
    alert === undefined ? planned : factsNow(planned, alert, { nowMs, dueAtMs: message.dueAt.getTime() })
  if (facts.overMs != null) return facts
  const follows = message.cause === null ? '' : `It follows from: ${message.cause}.`
  return { ...facts, reason: [facts.reason, message.consequence, follows].filter(Boolean).join(' ') }
}

/** Of a message that was written before there were call-outs. */
const legacyFacts = ({ event, subject, body, createdAt, team }: OpenMessage): Facts => ({
  event,
  site: '',
  timeZone: 'UTC',
  title: subject,
  reason: body,
  place: null,
  severity: 'warning' satisfies Severity,
  gear: null,
  atMs: createdAt.getTime(),
  link: '',
  team,
  because: '',
  stillAfter: null,
})
