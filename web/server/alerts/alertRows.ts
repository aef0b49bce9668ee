import {
  ALIKE_FROM,
  alikeKey,
  alertRow,
  type AlertRow,
  foldAlerts,
  lineOnCurve,
  MINUTES_LEFT,
  type OpenAlert,
  type RowMessage,
  tellingSeries,
  type TinyCurve,
} from '#core/alerts'
import type { MeasureKey } from '#core/catalogue'
import type { TimeWindow } from '#core/readings'
import { silenceSentence } from '#core/sources'
import { type ListedAlert, messagesOf } from '#db/alerts'
import { listSeriesBeside, type SeriesRow } from '#db/gear'
import { drawings } from '#db/readings'
import { listClocks, type SourceClockRow } from '#db/sources'
import type { NewestReadings, Present } from '../platform/present.ts'

const CURVE_PIXELS = 150
const MOST_CURVES = 12

/**
 * Open alerts as rows: one trouble a row, with its title as of now, and who was notified.
 * @param window of the small curves; `null` when none are shown
 */
export async function alertRows(
  present: Present,
  alerts: readonly ListedAlert[],
  window: TimeWindow | null,
): Promise<AlertRow[]> {
  if (alerts.length === 0) return []
  const groups = foldAlerts(alerts.map(openAlert))
  const leads = groups.map(({ lead }) => lead)
  const [around, messages, callOuts] = await Promise.all([
    aroundLeads(present, leads),
    listMessages(present, alerts),
    present.callOuts(),
  ])
  const curves = window === null ? new Map() : await tinyCurves(present, leads, around.series, window)
  return groups.map((group) => {
    const { lead } = group
    return alertRow(group, {
      ...factsOf(lead, around),
      messages: [lead, ...group.folded].flatMap(({ id }) => messages.get(id) ?? []),
      hasCallOut: callOuts.some(({ isOn }) => isOn),
      curve: curves.get(lead.id) ?? null,
    })
  })
}

/** The title as of now of each trouble, by the alert that leads it. */
export async function titlesNow(
  present: Present,
  alerts: readonly ListedAlert[],
): Promise<ReadonlyMap<number, string>> {
  const groups = foldAlerts(alerts.map(openAlert))
  const around = await aroundLeads(
    present,
    groups.map(({ lead }) => lead),
  )
  const unsaid = { messages: [], hasCallOut: true, curve: null }
  return new Map(
    groups.map((group) => [
      group.lead.id,
      alertRow(group, { ...factsOf(group.lead, around), ...unsaid }).title,
    ]),
  )
}

/** What is known now of what some alerts are about. */
interface AroundLeads {
  readonly latest: NewestReadings
  readonly series: readonly SeriesRow[]
  readonly sources: readonly SourceClockRow[]
  readonly nowMs: number
  readonly timeZone: string
}

async function aroundLeads(
  present: Present,
  leads: readonly ReturnType<typeof openAlert>[],
): Promise<AroundLeads> {
  const { db, nowMs } = present
  const [latest, series, sources, { timeZone }] = await Promise.all([
    present.latestOf(leads.flatMap(({ readerId }) => readerId ?? [])),
    listSeriesBeside(db, leads, MINUTES_LEFT),
    listClocks(db, [...new Set(leads.flatMap(({ sourceId }) => sourceId ?? []))]),
    present.site(),
  ])
  return { latest, series, sources, nowMs, timeZone }
}

function factsOf(lead: OpenAlert, { latest, series, sources, nowMs, timeZone }: AroundLeads) {
  const source = sources.find(({ id }) => id === lead.sourceId)
  return {
    value: lead.seriesId === null ? null : (latest.get(lead.seriesId)?.value ?? null),
    companions: companionsOf(lead, series, latest),
    silence: source === undefined ? null : silenceSentence(source.name, source, nowMs),
    nowMs,
    timeZone,
  }
}

const openAlert = ({ openedAt, sinceAt, ...alert }: ListedAlert) => ({
  ...alert,
  openedAtMs: openedAt.getTime(),
  sinceMs: sinceAt.getTime(),
})

/** What became of the messages about each alert. */
async function listMessages(
  { db }: Present,
  alerts: readonly ListedAlert[],
): Promise<ReadonlyMap<number, RowMessage[]>> {
  const rows = await messagesOf(
    db,
    alerts.map(({ id }) => id),
  )
  const of = new Map<number, RowMessage[]>()
  for (const { alertId, sentAt, dueAt, ...message } of rows)
    if (alertId !== null)
      of.set(alertId, [
        ...(of.get(alertId) ?? []),
        { ...message, isSent: sentAt !== null, dueMs: dueAt.getTime() },
      ])
  return of
}

/** The newest values of the part that an alert is about, by measure. */
const companionsOf = (
  alert: OpenAlert,
  series: readonly SeriesRow[],
  latest: NewestReadings,
): Partial<Record<MeasureKey, number>> =>
  Object.fromEntries(
    series
      .filter(({ gearId, partId }) => gearId === alert.gearId && partId === alert.partId)
      .flatMap(({ id, measure }) => {
        const value = latest.get(id)?.value
        return value == null ? [] : [[measure, value]]
      }),
  )

/** Small curves of the first alerts, by the alert; of many that are alike none. */
async function tinyCurves(
  present: Present,
  leads: readonly OpenAlert[],
  series: readonly SeriesRow[],
  window: TimeWindow,
): Promise<Map<number, TinyCurve>> {
  const counts = new Map<string, number>()
  for (const lead of leads) counts.set(alikeKey(lead), (counts.get(alikeKey(lead)) ?? 0) + 1)
  const single = leads.filter((lead) => counts.get(alikeKey(lead))! < ALIKE_FROM[lead.severity])
  const shown = single.slice(0, MOST_CURVES).flatMap((lead) => {
    const id = tellingSeries(lead, series)
    return id === null ? [] : [{ lead, id }]
  })
  const [drawn, rules] = await Promise.all([
    drawings(
      present.db,
      shown.map(({ id }) => ({ id, longestGapMs: Infinity })),
      { ...window, pixels: CURVE_PIXELS },
    ),
    present.rules(),
  ])
  return new Map(
    shown.flatMap(({ lead }, index) => {
      const { times, values } = drawn[index]!.curve
      if (times.length < 2) return []
      const points = Array.from(times, (atMs, at) => [atMs, values[at]!] as const)
      return [[lead.id, { points, line: lineOnCurve(lead, rules) }] as const]
    }),
  )
}
