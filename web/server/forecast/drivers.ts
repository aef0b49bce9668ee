import {
  type DailyMeans,
  DAY_MS,
  drivenBy,
  type DrivenBy,
  type Drivers,
  driversOf,
  driversSentence,
  driversSince,
  HOUR_MS,
  type Mark,
  type Seen,
  type User,
} from '#core/forecast'
import { bucketHours, type Hours } from '#core/readings'
import { hostsOfCluster } from '#db/compute'
import { type ForecastRow, listUsers } from '#db/forecast'
import type { Db } from '#db/platform'
import { hoursOfMany } from '#db/readings'

/** What uses a thing up, as its page shows it. */
export interface WhatDrives extends Drivers {
  readonly by: DrivenBy
  readonly sentence: string
  /** Those that there was no room for. */
  readonly notRead: number
}

/**
 * Who uses a finite thing up: machines of a datastore, datastores of an array, machines of a host or a cluster, what a UPS feeds.
 * @param amountId the thing itself in an absolute unit
 * @param marks what people have said of its jumps, the newest last
 * @returns `null` where nobody can be named
 */
export async function whatDrives(
  db: Db,
  row: ForecastRow,
  {
    amountId,
    nowMs,
    marks = [],
  }: { readonly amountId: number; readonly nowMs: number; readonly marks?: readonly Mark[] },
): Promise<WhatDrives | null> {
  const by = drivenBy(row)
  if (by === null) return null
  const from = row.gearKind === 'cluster' ? await hostsOfCluster(db, row.gearId) : [row.gearId]
  const { users, all } = await listUsers(db, from, by)
  if (users.length === 0) return null
  const growth = row.body.seen.find((each) => each.what === 'growth')
  const fromMs = driversSince(by.as === 'growth' && growth !== undefined ? growth.sinceMs : null, nowMs)
  const toMs = Math.ceil(nowMs / HOUR_MS) * HOUR_MS
  const isSameUnit = by.measure === row.body.measure && by.isOfProcessors !== true
  const hours = await hoursOfMany(
    db,
    [...users.flatMap(({ seriesIds }) => seriesIds), ...(isSameUnit ? [amountId] : [])],
    fromMs,
    toMs,
  )
  const hoursOf = (ids: readonly number[]): Hours[] => ids.flatMap((id) => hours.get(id) ?? [])
  const known = users.flatMap(({ id, name, seriesIds, processors }): User[] => {
    const weight = by.isOfProcessors === true ? processors : 1
    return weight === null ? [] : [{ id, name, ...dailyMeans(hoursOf(seriesIds), fromMs, weight) }]
  })
  const drivers = driversOf(known, isSameUnit ? dailyMeans(hoursOf([amountId]), fromMs, 1) : null, {
    fromMs,
    toMs: nowMs,
    as: by.as,
    jumpsMs: oneOffs(row.body.seen, marks).filter((atMs) => atMs >= fromMs),
  })
  return { ...drivers, by, sentence: driversSentence(drivers, by.as), notRead: all - known.length }
}

/** The jumps that nobody has said to be growth; what was said last counts. */
const oneOffs = (seen: readonly Seen[], marks: readonly Mark[]): number[] =>
  seen.flatMap((each) => {
    if (each.what !== 'step') return []
    const said = marks.findLast(({ atMs }) => Math.abs(atMs - each.atMs) < DAY_MS / 2)
    return said?.as === 'growth' ? [] : [each.atMs]
  })

/** Of several parts their sum, on the days on which all of them were heard. */
function dailyMeans(parts: readonly Hours[], fromMs: number, weight: number): DailyMeans {
  const sums = new Map<number, { sum: number; heard: number }>()
  for (const hours of parts)
    for (const bucket of bucketHours(hours, fromMs, DAY_MS)) {
      const before = sums.get(bucket.fromMs)
      sums.set(bucket.fromMs, { sum: (before?.sum ?? 0) + bucket.mean, heard: (before?.heard ?? 0) + 1 })
    }
  const whole = [...sums].filter(([, { heard }]) => heard === parts.length).sort(([a], [b]) => a - b)
  return { days: whole.map(([atMs]) => atMs / DAY_MS), means: whole.map(([, { sum }]) => sum * weight) }
}
