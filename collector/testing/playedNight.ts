import type { MeasureKey } from '#core/catalogue'
import { formatReading } from '#core/catalogue'
import { foldAlerts, isRecovering } from '#core/alerts'
import { insertQuiet, listOpenAlerts } from '#db/alerts'
import { keptValues, listNamesOfGear, type Placement, storeFindings } from '#db/gear'
import type { Db } from '#db/platform'
import { recordFailure } from '#db/sources'
import { type Reader } from '../../standins/demo/readers.ts'
import type { FaultBoard } from '../../standins/model/faults.ts'
import type { SimSite } from '../../standins/model/site.ts'
import type { Night, NightStep, NightTells } from '../../standins/nights/index.ts'
import { Blindness } from '../judging/blindness.ts'
import { Causes } from '../judging/causes.ts'
import { Judgement } from '../judging/judgement.ts'
import { Quieting } from '../judging/quieting.ts'
import { SenderClocks } from '../judging/senderClocks.ts'
import { Silence } from '../judging/silence.ts'
import { TextRules } from '../judging/textRules.ts'
import { AlertWriter } from '../judging/alertWriter.ts'
import type { Notifier } from '../notify/notifier.ts'

const TICK_MS = 10_000
const MINUTE_MS = 60_000
/** What is told is true of the time from one reading to the next, and of the moment of judging it. */
const LATE_MS = 2 * TICK_MS

/** A message as it was received, with the moment of the night. */
export interface Received {
  readonly atMs: number
  readonly subject: string
  readonly text: string
  readonly isText: boolean
}

export interface Played {
  readonly rowsMost: number
  readonly mails: readonly Received[]
  readonly texts: number
  /** What had to be told and was not, each with its deadline. */
  readonly untold: readonly string[]
  /** Numbers in messages that no stand-in gave at that time. */
  readonly untrue: readonly string[]
  readonly numbers: number
  /** Told as new although it had begun long before, or after all was mended. */
  readonly stale: readonly string[]
}

export interface Stage {
  readonly db: Db
  readonly site: SimSite
  readonly readers: readonly Reader[]
  /** Ids of the sources by the readers' names. */
  readonly sources: ReadonlyMap<string, number>
  readonly notifier: Notifier
  readonly mailFaults: FaultBoard
  readonly received: {
    readonly mails: () => readonly { subject: string; text: string }[]
    readonly texts: () => number
  }
  /** Sets the clock of this process. */
  readonly setClock: (atMs: number) => void
}

/** A radio link of the site comes and goes by weather, whatever else happens; it is counted with no night. */
const isOwnStory = (words: string): boolean => /\bradio-[01]\b/.test(words)

interface Said {
  readonly atMs: number
  readonly value: number
}

/**
 * Plays nights through the stand-ins' documents, the parsers, judging, a real database and real channels; only the clock is
 * an argument. Everything is read at the pace of its source.
 */
export class NightPlayer {
  readonly #boards = new Map<string, FaultBoard[]>()
  readonly #judgement: Judgement
  readonly #silence: Silence
  readonly #causes: Causes
  readonly #quieting: Quieting
  readonly #blindness: Blindness
  readonly #clocks: SenderClocks
  readonly #texts: TextRules
  readonly #placements = new Map<string, Placement>()
  readonly #intervals = new Map<string, number>()
  readonly #ahead = new Map<string, number>()
  /** What the stand-ins gave, whether anybody asked or not: by gear and measure. */
  #journal = new Map<string, Said[]>()
  readonly #retryMs = new Map<string, number>()
  #isBlind = false

  constructor(
    private readonly stage: Stage,
    private nowMs: number,
  ) {
    const { db, notifier, site } = stage
    const writer = new AlertWriter(db, notifier)
    this.#judgement = new Judgement(db, writer)
    this.#silence = new Silence(db, writer, nowMs)
    this.#causes = new Causes(db, notifier)
    this.#quieting = new Quieting(db, notifier)
    this.#blindness = new Blindness(db, writer)
    this.#clocks = new SenderClocks(db, writer)
    this.#texts = new TextRules(db, writer)
    for (const { spec, faults } of [
      ...site.servers,
      ...site.upses,
      ...site.hypervisors,
      site.chassis,
      ...site.chassis.ties.blades,
      ...site.arrays,
      ...site.pdus,
      ...site.switches,
      ...site.coolings,
      site.generator,
      site.probes,
      site.hallProbes,
      site.volumes,
      ...site.pages,
    ])
      this.#boards.set(spec.name, [...(this.#boards.get(spec.name) ?? []), faults])
    this.#boards.set('mail-server', [stage.mailFaults])
  }

  /** Lets time go by with nothing happening, so that what stands from before has been told. */
  async settle(minutes: number): Promise<void> {
    const rows = await this.stage.db.selectFrom('source').select(['name', 'id', 'intervalSeconds']).execute()
    for (const [name, id] of this.stage.sources)
      this.#intervals.set(name, (rows.find((row) => row.id === id)?.intervalSeconds ?? 60) * 1000)
    for (let tick = 0; tick < minutes * 6; tick += 1) await this.#tick()
  }

  async play(night: Night): Promise<Played> {
    const { db, received } = this.stage
    const beganMs = this.nowMs
    const before = await this.#rows()
    const [mailsBefore, textsBefore] = [received.mails().length, received.texts()]
    const mails: Received[] = []
    const untrue: string[] = []
    let [rowsMost, numbers, seen] = [0, 0, 0]
    this.#journal = new Map()
    const todo = [...night.steps].sort((a, b) => a.atMin - b.atMin)
    for (let tick = 0; tick < night.lastsMin * 6; tick += 1) {
      while (todo[0] !== undefined && beganMs + todo[0].atMin * MINUTE_MS <= this.nowMs)
        await this.#do(todo.shift()!)
      await this.#tick()
      rowsMost = Math.max(rowsMost, (await this.#rows()) - before)
      for (const mail of received.mails().slice(mailsBefore + seen)) {
        seen += 1
        if (isOwnStory(mail.subject)) continue
        mails.push({ ...mail, atMs: this.nowMs, isText: false })
        const held = this.#held(mail)
        numbers += held.numbers
        untrue.push(...held.untrue)
      }
    }
    const lastMendMs = Math.max(
      0,
      ...night.steps.flatMap((step) =>
        step.does === 'mend' || step.does === 'see' ? [beganMs + step.atMin * MINUTE_MS] : [],
      ),
    )
    return {
      rowsMost,
      mails,
      texts: received.texts() - textsBefore,
      untold: night.tells.flatMap((tells) => untoldOf(tells, mails, beganMs)),
      untrue,
      numbers,
      stale: await staleOf(db, beganMs, lastMendMs),
    }
  }

  async #rows(): Promise<number> {
    const open = (await listOpenAlerts(this.stage.db)).filter(
      ({ quietId, title }) => quietId === null && !isOwnStory(title),
    )
    const ids = new Set(open.map(({ id }) => id))
    const standing = open.filter((alert) => !isRecovering(alert, ids))
    return foldAlerts(standing.map((alert) => ({ ...alert, openedAtMs: alert.openedAt.getTime() }))).length
  }

  async #do(step: NightStep): Promise<void> {
    const { db } = this.stage
    switch (step.does) {
      case 'cause':
      case 'mend': {
        const boards = this.#boards.get(step.gear)
        if (boards === undefined) throw new Error(`there is no stand-in ${step.gear}`)
        if (step.does === 'mend')
          for (const board of boards) board.mend(step.fault, step.part ?? null, this.nowMs)
        else
          for (const board of boards.filter(({ known }) => known.includes(step.fault)))
            board.cause(step.fault, step.part ?? null, this.nowMs, step.pace ?? 1)
        return
      }
      case 'say': {
        const gearId = await this.#gearId(step.gear)
        await this.#texts.take([
          {
            heardAt: new Date(this.nowMs),
            severity: step.severity,
            body: step.text,
            app: 'kernel',
            times: step.times,
            gearId,
          },
        ])
        return
      }
      case 'quiet':
        await insertQuiet(db, {
          scope: { where: { kind: 'gear', id: await this.#gearId(step.gear) }, measure: null, ruleKey: null },
          reason: step.because,
          who: 'Bo Lindqvist',
          fromMs: this.nowMs,
          toMs: this.nowMs + step.forMin * MINUTE_MS,
          repeats: null,
        })
        return
      case 'blind':
      case 'see':
        this.#isBlind = step.does === 'blind'
        return
      case 'set clock':
        this.#ahead.set(step.source, step.aheadS * 1000)
        return
      default:
        step satisfies never
    }
  }

  async #gearId(name: string): Promise<number> {
    return (await listNamesOfGear(this.stage.db)).find((each) => each.name === name)!.id
  }

  /** Ten seconds: what is due is read and judged, then everything looks that looks now and then, and what is due is sent. */
  async #tick(): Promise<void> {
    const { db, readers, setClock } = this.stage
    const heard: number[] = []
    for (const [index, reader] of readers.entries()) {
      const intervalMs = this.#intervals.get(reader.name) ?? TICK_MS
      const turns = Math.max(1, Math.round(intervalMs / TICK_MS))
      const isDue = Math.round(this.nowMs / TICK_MS) % turns === index % turns
      if (this.#isBlind || this.#isSilent(reader.name)) {
        if (isDue) await this.#fail(reader)
        continue
      }
      const isWatched = this.#isTroubled(reader.name)
      if (!isDue && !isWatched) continue
      const atMs = this.nowMs + ((index * 131) % 9000)
      const findings = await reader.read(atMs)
      this.#note(findings, atMs)
      if (!isDue) continue
      setClock(atMs)
      heard.push(await this.#take(reader, findings, atMs))
    }
    this.nowMs += TICK_MS
    setClock(this.nowMs)
    if (heard.length > 0)
      await db
        .updateTable('source')
        .set({ lastHeardAt: new Date(this.nowMs), failure: null, failures: 0 })
        .where('id', 'in', heard)
        .execute()
    await this.#silence.look(this.nowMs)
    await this.#blindness.look(this.nowMs)
    await this.#causes.look(this.nowMs)
    // What is asked for at once is read before anything is told.
    if ((await this.#readAsked()) > 0) {
      await this.#silence.look(this.nowMs)
      await this.#causes.look(this.nowMs)
    }
    await this.#quieting.look(this.nowMs)
    await this.#texts.look(this.nowMs)
    await this.#send()
  }

  /** What was read is stored and judged. @returns the id of its source */
  async #take(reader: Reader, findings: Awaited<ReturnType<Reader['read']>>, atMs: number): Promise<number> {
    const sourceId = this.stage.sources.get(reader.name)!
    const isPushed = reader.name.endsWith('hypervisor') || reader.name === 'kelp'
    const taken = {
      sourceId,
      atMs: atMs + (this.#ahead.get(reader.name) ?? 0),
      heardAtMs: atMs,
      durationMs: isPushed ? null : 20,
      findings,
    }
    const { placement } = await storeFindings(this.stage.db, taken, this.#placements.get(reader.name) ?? null)
    this.#placements.set(reader.name, placement)
    const values = keptValues(placement, findings)
    await this.#judgement.judgeMoment({ taken, seriesIds: placement.layout.seriesIds, values })
    await this.#clocks.heard(taken)
    return sourceId
  }

  /** What we ask and does not answer; a sender that is silent fails at nothing. */
  async #fail({ name }: Reader): Promise<void> {
    if (name.endsWith('hypervisor') || name === 'kelp') return
    const failure = { kind: 'timedOut', address: name, waitedMs: 5000 } as const
    await recordFailure(this.stage.db, this.stage.sources.get(name)!, new Date(this.nowMs), failure)
  }

  async #readAsked(): Promise<number> {
    const { db, readers, sources } = this.stage
    const asked = await db
      .selectFrom('source')
      .select('id')
      .where('checkRequestedAt', '=', new Date(this.nowMs))
      .execute()
    const ids = new Set(asked.map(({ id }) => id))
    const due = readers.filter(({ name }) => ids.has(sources.get(name)!))
    for (const reader of due) {
      if (this.#isBlind || this.#isSilent(reader.name)) {
        await this.#fail(reader)
        continue
      }
      const findings = await reader.read(this.nowMs)
      this.#note(findings, this.nowMs)
      await this.#take(reader, findings, this.nowMs)
    }
    return due.length
  }

  #isSilent(name: string): boolean {
    const own = name.replace(/ hypervisor$/, '')
    const boards = this.#boards.get(own) ?? []
    if (
      boards.some((board) =>
        ['silent', 'die', 'cut-off'].some((fault) => board.known.includes(fault) && board.has(fault)),
      )
    )
      return !this.stage.site.pages.some(({ spec }) => spec.name === own)
    const server = this.stage.site.servers.find(({ spec }) => spec.name === own)
    return name !== own && server?.isOn(this.nowMs) === false
  }

  /** What is at fault, or carries others, is noted at every moment, so that each number can be held against it. */
  #isTroubled(name: string): boolean {
    const boards = this.#boards.get(name) ?? []
    return name.startsWith('harbour') || boards.some((board) => board.list().length > 0)
  }

  #note(findings: Awaited<ReturnType<Reader['read']>>, atMs: number): void {
    const names = new Map(findings.gear.map(({ key, name }) => [key, name]))
    for (const { gear, measure, value } of findings.readings) {
      if (value === null) continue
      const key = `${names.get(gear) ?? gear} ${measure}`
      const said = this.#journal.get(key) ?? []
      this.#journal.set(key, said)
      said.push({ atMs, value })
    }
  }

  /** Everything that is due; what was refused is tried again within two minutes. */
  async #send(): Promise<void> {
    const { db, notifier } = this.stage
    const due = await db
      .selectFrom('message')
      .select(['id', 'attempts'])
      .where('sentAt', 'is', null)
      .where('skipped', 'is', null)
      .where('isFailed', '=', false)
      .where('dueAt', '<=', new Date(this.nowMs))
      .orderBy('dueAt')
      .execute()
    for (const { id, attempts } of due) {
      if ((this.#retryMs.get(id) ?? 0) > this.nowMs) continue
      await notifier.send(db, id).catch(() => {
        this.#retryMs.set(id, this.nowMs + Math.min(120_000, 10_000 * 2 ** attempts))
      })
    }
  }

  /** The numbers of a mail, held against what the stand-ins gave since the reading before. */
  #held(mail: { readonly subject: string; readonly text: string }): { numbers: number; untrue: string[] } {
    const gear = [...this.#boards.keys()].find((name) => new RegExp(`\\b${name}\\b`).test(mail.subject))
    // What was then, and where the line is, is not of now. That it is over says what it was.
    const now = /^\[[^\]]*\] (Cleared|Already over)/.test(mail.subject)
      ? ''
      : `${mail.subject.replace(/^\[[^\]]*\] /, '')}\n${mail.text.split('\n')[0]!}`
          .replaceAll(/, was [^;.]*? at \d\d:\d\d/g, '')
          .replaceAll(/the line: [^;\n]*|(above|below) the line of [^,\n]*/g, '')
          .replaceAll(/[\u00a0\u202f]/g, ' ')
    let numbers = 0
    const untrue: string[] = []
    for (const [measure, pattern] of NUMBERS)
      for (const [, shown = ''] of gear === undefined ? [] : now.matchAll(pattern)) {
        const intervalMs = this.#intervals.get(gear!) ?? MINUTE_MS
        const said = (this.#journal.get(`${gear} ${measure}`) ?? []).filter(
          ({ atMs }) => atMs >= this.nowMs - intervalMs - LATE_MS,
        )
        if (said.length === 0) continue
        numbers += 1
        const words = said.map(({ value }) =>
          formatReading(measure, value).replaceAll(/[\u00a0\u202f]/g, ' '),
        )
        if (!words.some((each) => each.startsWith(shown.trim())))
          untrue.push(
            `${mail.subject}: “${shown}” of ${measure}, and it was ${[...new Set(words)].join(', ')}`,
          )
      }
    return { numbers, untrue }
  }
}

/** How numbers stand in messages. */
const NUMBERS: readonly (readonly [MeasureKey, RegExp])[] = [
  ['ups.battery.minutes_left', /(\d+ min) left/g],
  ['hw.battery.charge', /charge (\d+ %)/gi],
  ['ups.output.load', /load (\d+ %)/gi],
  ['hw.temperature', /temperature (-?[\d.]+ °C)/gi],
  ['hw.fan.speed', /fan speed ([\d ]+ rpm)/gi],
]

function untoldOf(tells: NightTells, mails: readonly Received[], beganMs: number): string[] {
  const fromMs = beganMs + tells.fromMin * MINUTE_MS
  const untilMs = fromMs + tells.withinS * 1000
  const isTold = mails.some(
    ({ subject, atMs }) => tells.subject.test(subject) && atMs >= fromMs && atMs <= untilMs + TICK_MS,
  )
  return isTold ? [] : [`${String(tells.subject)} within ${tells.withinS} s of minute ${tells.fromMin}`]
}

/**
 * Messages that said *new* of what had begun before all was mended, or long before they left; not of what goes on by itself
 * in the demo, whose time has nothing to do with the night's.
 */
async function staleOf(db: Db, beganMs: number, lastMendMs: number): Promise<string[]> {
  const rows = await db
    .selectFrom('message')
    .innerJoin('alert', 'alert.id', 'message.alertId')
    .select(['message.subject', 'message.sentAt', 'alert.sinceAt', 'alert.openedAt'])
    .where('message.event', '=', 'opened')
    .where('message.action', '=', 'notify')
    .where('message.sentAt', '>=', new Date(beganMs))
    .execute()
  return rows.flatMap(({ subject, sentAt, sinceAt, openedAt }) => {
    if (!/\] New: /.test(subject) || isOwnStory(subject)) return []
    const isAfterEnd = lastMendMs > 0 && sentAt!.getTime() > lastMendMs && sinceAt.getTime() < lastMendMs
    const isLate = sentAt!.getTime() - openedAt.getTime() > 3 * MINUTE_MS
    return isAfterEnd || isLate ? [subject] : []
  })
}
