import type { TimeWindow } from '#core/readings'
import { TextWindow, textMatcher } from '#core/rules'
import type { Db } from '#db/platform'
import { listNamesOfGear } from '#db/gear'
import {
  linesForPattern,
  programs,
  rateOfTexts,
  searchTexts,
  speakers,
  type TextFilter,
  readRefused,
} from '#db/logs'
import { idIn } from '../platform/params.ts'
import { SYSLOG_SEVERITIES } from '#protocols/syslog'

const A_PAGE = 200
const BUCKETS = 90

/** What devices said, found by words, gear, program, severity and window; with its rate and who said most. */
export async function loadLogs(db: Db, params: URLSearchParams, window: TimeWindow) {
  const atMost = params.get('grave') === null ? 7 : Number(params.get('grave'))
  const before = params.get('before')
  const filter: TextFilter = {
    query: (params.get('q') ?? '').trim().slice(0, 200),
    atMost: Number.isInteger(atMost) && atMost >= 0 && atMost <= 7 ? atMost : 7,
    gearId: idIn(params, 'gear'),
    app: params.get('app')?.slice(0, 48) || null,
    fromMs: window.fromMs,
    toMs: window.toMs,
  }
  const [lines, rate, most, apps, gear, refused] = await Promise.all([
    searchTexts(db, filter, before !== null && /^\d{1,18}$/.test(before) ? before : null, A_PAGE + 1),
    rateOfTexts(db, filter, BUCKETS),
    speakers(db, filter, 8),
    programs(db, { ...filter, app: null }, 30),
    listNamesOfGear(db),
    readRefused(db),
  ])
  return {
    lines: lines.slice(0, A_PAGE).map((line) => ({ ...line, word: SYSLOG_SEVERITIES[line.severity] ?? '' })),
    next: lines.length > A_PAGE ? (lines[A_PAGE - 1]?.id ?? null) : null,
    rate,
    speakers: most,
    filter,
    programs: apps,
    gear: gear.map(({ id, name }) => ({ id, name })),
    /** What could not be stored at all. */
    refused,
  }
}

const MOST_TRIED = 50_000

/** A pattern tried on stored lines: how many fit, how many alerts they would have been, and some of them. */
export async function tryPattern(
  db: Db,
  asked: {
    readonly pattern: string
    readonly atMost: number
    readonly count: number
    readonly windowMs: number
  },
  nowMs: number,
) {
  const days = 30
  const fits = textMatcher(asked.pattern)
  const rows = await linesForPattern(db, asked.pattern, asked.atMost, nowMs - days * 86_400_000, MOST_TRIED)
  const own = rows.filter(({ app, body }) => fits(`${app ?? ''} ${body}`))
  let alerts = 0
  let gearId: number | null = null
  let window = new TextWindow(asked.windowMs)
  let isOpen = false
  for (const line of own) {
    const atMs = line.heardAt.getTime()
    if (line.gearId !== gearId) {
      gearId = line.gearId
      window = new TextWindow(asked.windowMs)
      isOpen = false
    } else if (atMs - window.lastAtMs >= asked.windowMs) isOpen = false
    window.add(atMs, line.times)
    if (!isOpen && window.countAt(atMs) >= asked.count) {
      isOpen = true
      alerts += 1
    }
  }
  return {
    days,
    lines: own.reduce((sum, { times }) => sum + times, 0),
    gear: new Set(own.map((line) => line.gearId)).size,
    alerts,
    isCutOff: rows.length === MOST_TRIED,
    examples: own.slice(-5).map(({ name, heardAt, body }) => ({ gear: name, atMs: heardAt.getTime(), body })),
  }
}
