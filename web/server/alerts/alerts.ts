import type { TimeWindow } from '#core/readings'
import { placeOf } from '#core/alerts'
import { formatElapsed, inReadersScale } from '#core/units'
import {
  ALERT_STATES,
  type AlertFilter,
  type AlertState,
  alertsAround,
  alertsByIds,
  countAlerts,
  earlierOf,
  eventsOf,
  findAlert,
  followOnsOf,
  listAlerts,
  type ListedAlert,
  messagesOf,
  repeatsOf,
  listQuiets,
  type QuietRow,
} from '#db/alerts'
import type { Db } from '#db/platform'
import type { Present } from '../platform/present.ts'
import { textsOf } from '#db/logs'
import { SYSLOG_SEVERITIES } from '#protocols/syslog'
import { alertRows } from './alertRows.ts'
import { idIn } from '../platform/params.ts'
import { loadCharts } from '../readings/charts.ts'
import { type KeptRule } from '#core/rules'

const A_PAGE = 100
const AROUND_MS = 10 * 60_000

export interface AlertItem {
  readonly id: number
  readonly title: string
  readonly reason: string
  readonly severity: 'critical' | 'warning'
  readonly glyph: 'critical' | 'warning' | 'noData' | 'quiet' | 'well'
  readonly place: string | null
  readonly gearId: number | null
  readonly openedAtMs: number
  readonly clearedAtMs: number | null
  readonly lastedMs: number
  readonly takenBy: string | null
  readonly isQuiet: boolean
  readonly flaps: number
  readonly consequence: string
  readonly causeId: number | null
  readonly causePath: string | null
  readonly ruleKey: string
}

export function itemOf(alert: ListedAlert, nowMs: number): AlertItem {
  const clearedAtMs = alert.clearedAt?.getTime() ?? null
  return {
    id: alert.id,
    title: alert.title,
    reason: alert.reason,
    severity: alert.severity,
    glyph:
      clearedAtMs !== null
        ? 'well'
        : alert.quietId !== null
          ? 'quiet'
          : alert.sourceId !== null
            ? 'noData'
            : alert.severity,
    place: placeOf(alert),
    gearId: alert.gearId,
    openedAtMs: alert.openedAt.getTime(),
    clearedAtMs,
    lastedMs: (clearedAtMs ?? nowMs) - alert.openedAt.getTime(),
    takenBy: alert.takenBy,
    isQuiet: alert.quietId !== null,
    flaps: alert.flaps,
    consequence: alert.consequence ?? '',
    causeId: alert.causeId,
    causePath: alert.causePath,
    ruleKey: alert.ruleKey,
  }
}

export function filterIn(params: URLSearchParams, window: TimeWindow): AlertFilter {
  const state = params.get('state') ?? 'open'
  const severity = params.get('severity')
  return {
    state: ALERT_STATES.includes(state as AlertState) ? (state as AlertState) : 'open',
    severity: severity === 'critical' || severity === 'warning' ? severity : null,
    words: (params.get('q') ?? '').split(/\s+/).filter(Boolean).slice(0, 8),
    ruleKey: params.get('rule'),
    gearId: idIn(params, 'gear'),
    ...window,
  }
}

/** A page of alerts, each with what it explains and how often the same has been; and how many there are in all. */
export async function loadAlerts(present: Present, params: URLSearchParams, window: TimeWindow) {
  const { db, nowMs } = present
  const filter = filterIn(params, window)
  const beforeId = idIn(params, 'before')
  const [alerts, counts, rules] = await Promise.all([
    listAlerts(db, filter, beforeId, A_PAGE + 1),
    countAlerts(db, window.fromMs),
    present.rules(),
  ])
  const shown = alerts.slice(0, A_PAGE)
  const ids = shown.map(({ id }) => id)
  const [repeats, followOns] = await Promise.all([repeatsOf(db, ids, window.fromMs), followOnsOf(db, ids)])
  // What stands under its cause on this page does not stand by itself again.
  const onPage = new Set(ids)
  const rows = shown
    .filter(({ causeId }) => causeId === null || !onPage.has(causeId))
    .map((alert) => ({
      ...itemOf(alert, nowMs),
      rule: rules.find(({ rule }) => rule.key === alert.ruleKey)?.rule.name ?? null,
      times: repeats.get(alert.id)?.times ?? 1,
      followOns: followOns.filter(({ causeId }) => causeId === alert.id).map(followOnView),
    }))
  const ruleName = rules.find(({ rule }) => rule.key === filter.ruleKey)?.rule.name ?? filter.ruleKey
  return {
    rows,
    counts,
    filter: { ...filter, words: filter.words.join(' '), ruleName },
    next: alerts.length > A_PAGE ? (shown.at(-1)?.id ?? null) : null,
  }
}

/** One alert with all that is known around it. */
export async function loadAlert(present: Present, id: number) {
  const { db, nowMs } = present
  const alert = await findAlert(db, id)
  if (alert === undefined) return null
  const item = itemOf(alert, nowMs)
  const window = windowAround(alert.sinceAt.getTime(), item, nowMs)
  const [now, events, messages, around, earlier, followOns, causes, rules, quiets, charts, texts] =
    await Promise.all([
      wordsNow(present, alert),
      eventsOf(db, id),
      messagesOf(db, [id]),
      alertsAround(db, id, AROUND_MS, 12),
      earlierOf(db, id, 8),
      followOnsOf(db, [id]),
      alertsByIds(db, alert.causeId === null ? [] : [alert.causeId]),
      present.rules(),
      alert.quietId === null ? [] : listQuiets(db, nowMs, { endedSinceMs: 0 }),
      alert.seriesId === null || alert.gearId === null
        ? []
        : loadCharts(present, alert.gearId, [alert.seriesId], { window, pixels: 900 }),
      saidAround(db, alert.gearId, item.openedAtMs, nowMs),
    ])
  const [cause] = causes
  return {
    alert: { ...item, ...now, ...factsOf(alert) },
    rule: ruleView(rules.find(({ rule }) => rule.key === alert.ruleKey)),
    cause: cause === undefined ? null : { id: cause.id, title: cause.title },
    quiet: quietView(quiets.find((each) => each.id === alert.quietId)),
    followOns: followOns.map(followOnView),
    events: events.map(({ at, ...event }) => ({ ...event, atMs: at.getTime() })),
    messages: messages.map(messageView),
    around: around.map(aroundView),
    earlier: earlier.map(earlierView),
    charts,
    window,
    texts,
  }
}

/** The headline and the reason of an open alert with the readings of now; what has cleared keeps its last words. */
async function wordsNow(present: Present, alert: ListedAlert): Promise<Partial<AlertItem>> {
  if (alert.clearedAt !== null) return {}
  const [row] = await alertRows(present, [alert], null)
  return row === undefined ? {} : { title: row.title, reason: row.reason }
}

/** What an alert hangs on. */
const factsOf = (alert: ListedAlert) => ({
  line: alert.line,
  sinceMs: alert.sinceAt.getTime(),
  clearedReason: alert.clearedReason,
  seriesId: alert.seriesId,
  partId: alert.partId,
  partName: alert.partName,
  gearName: alert.gearName,
  rackName: alert.rackName,
  sourceId: alert.sourceId,
  readerId: alert.readerId,
})

const followOnView = ({
  id,
  title,
  causePath,
  clearedAt,
}: Awaited<ReturnType<typeof followOnsOf>>[number]) => ({
  id,
  title,
  path: causePath ?? '',
  isCleared: clearedAt !== null,
})

const aroundView = ({ openedAt, clearedAt, ...each }: Awaited<ReturnType<typeof alertsAround>>[number]) => ({
  ...each,
  openedAtMs: openedAt.getTime(),
  isCleared: clearedAt !== null,
})

const earlierView = ({ openedAt, clearedAt, ...each }: Awaited<ReturnType<typeof earlierOf>>[number]) => ({
  ...each,
  openedAtMs: openedAt.getTime(),
  lasted: clearedAt === null ? null : formatElapsed(clearedAt.getTime() - openedAt.getTime()),
})

/** From some time before it began to some time after it ended. */
function windowAround(
  sinceMs: number,
  { openedAtMs, clearedAtMs }: { readonly openedAtMs: number; readonly clearedAtMs: number | null },
  nowMs: number,
): TimeWindow {
  const endMs = clearedAtMs ?? nowMs
  const room = Math.max(30 * 60_000, (endMs - openedAtMs) / 4)
  return { key: 'own', fromMs: Math.min(sinceMs, openedAtMs) - room, toMs: Math.min(nowMs, endMs + room) }
}

/** What its gear said when it opened. */
async function saidAround(db: Db, gearId: number | null, openedAtMs: number, nowMs: number) {
  if (gearId === null) return []
  const span = { fromMs: openedAtMs - AROUND_MS, toMs: Math.min(nowMs, openedAtMs + AROUND_MS) }
  return (await textsOf(db, gearId, span, 30)).map(({ heardAt, ...text }) => ({
    ...text,
    atMs: heardAt.getTime(),
    word: SYSLOG_SEVERITIES[text.severity] ?? '',
  }))
}

const ruleView = (kept: KeptRule | undefined) =>
  kept === undefined
    ? null
    : { id: kept.id, name: kept.rule.name, why: inReadersScale(kept.rule.why), isDefault: kept.isDefault }

const quietView = (quiet: QuietRow | undefined) =>
  quiet === undefined
    ? null
    : {
        id: quiet.id,
        what: quiet.what,
        reason: quiet.reason,
        who: quiet.who,
        untilMs: quiet.time?.toMs ?? null,
      }

const messageView = ({
  createdAt,
  sentAt,
  dueAt,
  ...message
}: Awaited<ReturnType<typeof messagesOf>>[number]) => ({
  ...message,
  createdAtMs: createdAt.getTime(),
  sentAtMs: sentAt?.getTime() ?? null,
  dueAtMs: dueAt.getTime(),
})
