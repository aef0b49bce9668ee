import type { GearState } from '#core/gear'
import { worstState } from '#core/gear'
import { foldAlerts } from '#core/alerts'
import { CHANNEL_FORMS, listScreenCalls } from '#db/callouts'
import { countDue } from '#db/forecast'
import { titlesNow } from '../alerts/alertRows.ts'
import type { Present } from '../platform/present.ts'

export interface Lamp {
  readonly state: Exclude<GearState, 'well'>
  readonly count: number
}

/** What must be ordered within this lights the lamp. */
const ORDER_MS = 7 * 86_400_000

/** What stands around every screen: the site, the lamps of the rail, how fresh everything is. */
export async function loadShell(present: Present) {
  const { db, nowMs } = present
  const [site, sources, silent, alerts, states, demo, calls, due] = await Promise.all([
    present.site(),
    present.sourceCount(),
    present.silent(),
    present.openAlerts(),
    present.states(),
    present.demoProgress(),
    listScreenCalls(db, 20),
    countDue(db, new Date(nowMs + ORDER_MS)),
  ])
  const groups = foldAlerts(
    alerts
      .filter(({ quietId }) => quietId === null)
      .map((alert) => ({ ...alert, openedAtMs: alert.openedAt.getTime() })),
  )
  const leads = groups.map(({ lead }) => lead)
  const critical = groups.filter(
    ({ lead, followOns }) =>
      lead.takenAt === null && [lead, ...followOns].some(({ severity }) => severity === 'critical'),
  ).length
  const failing = new Set([...sources.failingIds, ...silent]).size
  const watch: Lamp | null =
    critical > 0
      ? { state: 'critical', count: critical }
      : leads.length > 0
        ? { state: 'warning', count: leads.length }
        : null
  return {
    site,
    lamps: {
      watch,
      gear: lampOf([...states.values()]),
      ahead: due === 0 ? null : ({ state: 'warning', count: due } satisfies Lamp),
      sources: failing === 0 ? null : ({ state: 'noData', count: failing } satisfies Lamp),
    },
    heard: {
      lastMs: sources.lastHeardAtMs,
      sources: sources.count,
      silent: silent.size,
    },
    /** What is called out on screen, an alert once: until somebody has it, or it is over. */
    calls: await screenCalls(present, calls),
    /** Of a demo: how many of its days are laid down so far; `null` when all are. */
    demo: demo === null || demo.doneDays >= demo.days ? null : { done: demo.doneDays, of: demo.days },
    nowMs,
  }
}

async function screenCalls(present: Present, rows: Awaited<ReturnType<typeof listScreenCalls>>) {
  if (rows.length === 0) return []
  const called = new Set(rows.map(({ alertId }) => alertId))
  const open = (await present.openAlerts()).filter(({ id }) => called.has(id))
  // What was so when it was called out may be worse by now.
  const titleNow = await titlesNow(present, open)
  const shown = new Map<
    number,
    {
      id: string
      alertId: number
      title: string
      severity: 'critical' | 'warning'
      sentAtMs: number
      sound: 'no' | 'once' | 'taken'
    }
  >()
  for (const { id, alertId, title, severity, sentAt, settings } of rows)
    if (!shown.has(alertId))
      shown.set(alertId, {
        id,
        alertId,
        title: titleNow.get(alertId) ?? title,
        severity,
        sentAtMs: sentAt?.getTime() ?? 0,
        sound: CHANNEL_FORMS.screen.safeParse(settings).data?.sound ?? 'no',
      })
  return [...shown.values()]
}

function lampOf(states: readonly GearState[]): Lamp | null {
  const worst = worstState(states)
  return worst === 'well' || worst === 'quiet'
    ? null
    : { state: worst, count: states.filter((state) => state === worst).length }
}
