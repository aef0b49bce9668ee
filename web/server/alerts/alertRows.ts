import { isMeasureKey, type MeasureKey } from '#core/catalogue'
import type { TimeWindow } from '#core/readings'
import { alertTitle, type KeptRule, lineOf } from '#core/rules'
import { silenceSentence } from '#core/sources'
import { placeLabel } from '#core/site'
import { foldAlerts } from '#core/alerts'
import { type ListedAlert, messagesOf } from '#db/alerts'
import type { Db } from '#db/platform'
import { listSeries, type SeriesRow } from '#db/gear'
import { drawing, type LatestReadings, latestReadings } from '#db/readings'
import { clockOf } from '#db/sources'
import type { Present } from '../platform/present.ts'

export interface TinyCurve {
  readonly points: readonly (readonly [atMs: number, value: number])[]
  readonly line: number | null
}

export interface AlertRow {
  readonly id: number
  readonly state: 'critical' | 'warning' | 'noData' | 'quiet'
  readonly title: string
  readonly reason: string
  readonly place: string | null
  readonly href: string
  readonly openedAtMs: number
  readonly sinceMs: number
  readonly takenBy: string | null
  readonly told: string
  readonly folded: readonly { readonly id: number; readonly title: string; readonly reason: string }[]
  readonly followOns: readonly { readonly id: number; readonly title: string; readonly path: string }[]
  /** What it means for others. */
  readonly consequence: string
  /** How often it came and went; 0 of what does not flap. */
  readonly flaps: number
  readonly curve: TinyCurve | null
}

const CURVE_PIXELS = 150
const MOST_CURVES = 12

/** Open alerts as rows: one trouble a row, with its title as of now, who was told, and a small curve. */
export async function alertRows(
  present: Present,
  alerts: readonly ListedAlert[],
  window: TimeWindow,
): Promise<AlertRow[]> {
  const groups = foldAlerts(alerts.map((alert) => ({ ...alert, openedAtMs: alert.openedAt.getTime() })))
  const readers = [...new Set(alerts.flatMap((alert) => (alert.readerId === null ? [] : [alert.readerId])))]
  const gearIds = [...new Set(alerts.flatMap((alert) => (alert.gearId === null ? [] : [alert.gearId])))]
  const { db, nowMs } = present
  const [latest, series, messages, sources, rules, callOuts] = await Promise.all([
    latestReadings(db, readers),
    listSeries(db, gearIds),
    messagesOf(
      db,
      alerts.map((alert) => alert.id),
    ),
    present.sources(),
    present.rules(),
    present.callOuts(),
  ])
  // Whether there is anybody to be told at all.
  const isTold = callOuts.some(({ isOn }) => isOn)
  const companionsOf = (alert: ListedAlert): Partial<Record<MeasureKey, number>> =>
    Object.fromEntries(
      series
        .filter((each) => each.gearId === alert.gearId && each.partId === alert.partId)
        .flatMap((each) => {
          const value = latest.get(each.id)?.value
          return value == null ? [] : [[each.measure, value]]
        }),
    )
  return Promise.all(
    groups.map(async ({ lead, folded, followOns }, index) => {
      const source = sources.find((each) => each.id === lead.sourceId)
      const ids = [lead.id, ...folded.map((each) => each.id)]
      return {
        id: lead.id,
        state:
          lead.quietId !== null
            ? ('quiet' as const)
            : followOns.some(({ severity }) => severity === 'critical')
              ? ('critical' as const)
              : lead.sourceId === null
                ? lead.severity
                : ('noData' as const),
        title:
          source === undefined
            ? titleNow(lead, latest, companionsOf(lead))
            : silenceSentence(source.name, clockOf(source), nowMs),
        reason: lead.reason,
        place: placeOf(lead),
        href: hrefOf(lead),
        openedAtMs: lead.openedAt.getTime(),
        sinceMs: lead.sinceAt.getTime(),
        takenBy: lead.takenBy,
        told: toldWords(
          messages.filter((message) => message.alertId !== null && ids.includes(message.alertId)),
          { nowMs, isTold },
        ),
        folded: folded.map(({ id, title, reason }) => ({ id, title, reason })),
        followOns: followOns.map(({ id, title, causePath }) => ({ id, title, path: causePath ?? '' })),
        consequence: lead.consequence ?? '',
        flaps: lead.flaps,
        curve: index < MOST_CURVES ? await curveOf(db, lead, series, { rules, window }) : null,
      }
    }),
  )
}

/** Where to go: the gear with the curve in question, the source, or what concerns the store itself. */
function hrefOf(alert: ListedAlert): string {
  if (alert.gearId !== null)
    return `/gear/${alert.gearId}${alert.seriesId === null ? '' : `?r=${alert.seriesId}`}`
  return alert.sourceId === null ? '/settings/space' : `/sources#source-${alert.sourceId}`
}

/** The headline with the value as it is now, where there is one; else as it was at the opening. */
function titleNow(
  alert: ListedAlert,
  latest: LatestReadings,
  companions: Partial<Record<MeasureKey, number>>,
): string {
  const value = alert.seriesId === null ? null : latest.get(alert.seriesId)?.value
  if (value == null || alert.measure === null || !isMeasureKey(alert.measure) || alert.gearKind === null)
    return alert.title
  const { gearName, gearKind, partName, measure } = alert
  return alertTitle({ gearName: gearName ?? '', gearKind, partName, measure, value, companions })
}

function placeOf(alert: ListedAlert): string | null {
  const position =
    alert.unit === null || alert.heightUnits === null
      ? null
      : { unit: alert.unit, heightUnits: alert.heightUnits }
  return placeLabel({ room: null, rack: alert.rackName, position, onName: alert.onName })
}

/** Who was told of it, each once, and what has not come through. */
function toldWords(
  messages: Awaited<ReturnType<typeof messagesOf>>,
  { isTold, nowMs }: { readonly isTold: boolean; readonly nowMs: number },
): string {
  const meant = messages.filter(({ skipped, event }) => skipped === null && event !== 'cleared')
  const words = meant.flatMap(({ team, sentAt, attempts, isFailed, dueAt }) => {
    if (sentAt !== null) return [team]
    if (isFailed) return [`${team}, in vain`]
    if (attempts > 0) return [`${team}, not through yet`]
    return dueAt.getTime() <= nowMs ? [`${team}, on its way`] : []
  })
  if (words.length > 0) return [...new Set(words)].join('; ')
  const [first] = messages
  if (first?.skipped != null) return `nobody, ${first.skipped}`
  return isTold ? 'nobody yet' : 'nobody, there is no call-out'
}

async function curveOf(
  db: Db,
  alert: ListedAlert,
  series: readonly SeriesRow[],
  { rules, window }: { rules: readonly KeptRule[]; window: TimeWindow },
): Promise<TinyCurve | null> {
  if (alert.seriesId === null) return null
  // During an outage the minutes left say more than the step from mains to battery.
  const isOutage = alert.measure === 'ups.output.source'
  const minutes = series.find(
    (each) => each.gearId === alert.gearId && each.measure === 'ups.battery.minutes_left',
  )
  const shown = isOutage && minutes !== undefined ? minutes.id : alert.seriesId
  const { curve } = await drawing(db, shown, { ...window, pixels: CURVE_PIXELS, longestGapMs: Infinity })
  if (curve.times.length < 2) return null
  const rule = rules.find(({ rule: { key } }) => key === (isOutage ? 'ups-runtime' : alert.ruleKey))?.rule
  const line =
    rule?.kind === 'level' ? ((lineOf(rule, alert.severity) ?? lineOf(rule, 'critical'))?.at ?? null) : null
  return { points: Array.from(curve.times, (atMs, index) => [atMs, curve.values[index]!] as const), line }
}
