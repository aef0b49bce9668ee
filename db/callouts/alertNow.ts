import type { AlertNow } from '#core/callouts'
import type { MeasureKey } from '#core/catalogue'
import { clockOf, findSource } from '../sources/sources.ts'
import { silenceSentence } from '#core/sources'
import type { Db } from '../platform/connect.ts'
import { latestReadings } from '../readings/hot.ts'
import { listRules } from '../rules/rules.ts'

/** What is read of one part within this counts as of one moment: two sources of a part are asked one after the other. */
const ONE_MOMENT_MS = 120_000

/** An alert as it stands at this moment, with what is read of its part; `undefined` when there is none. */
export async function alertNow(db: Db, alertId: number, nowMs: number): Promise<AlertNow | undefined> {
  const row = await db
    .selectFrom('alert')
    .leftJoin('gear', 'gear.id', 'alert.gearId')
    .leftJoin('part', 'part.id', 'alert.partId')
    .select([
      'alert.title',
      'alert.reason',
      'alert.severity',
      'alert.line',
      'alert.value',
      'alert.measure',
      'alert.ruleKey',
      'alert.seriesId',
      'alert.sourceId',
      'alert.gearId',
      'alert.partId',
      'alert.sinceAt',
      'alert.openedAt',
      'alert.clearedAt',
      'gear.name as gearName',
      'gear.kind as gearKind',
      'part.name as partName',
      'part.kind as partKind',
    ])
    .where('alert.id', '=', alertId)
    .executeTakeFirst()
  if (row === undefined) return undefined
  const { title, reason, severity, line, clearedAt } = row
  return {
    title: (clearedAt === null ? await silentTitle(db, row, nowMs) : null) ?? title,
    reason,
    severity,
    line,
    sinceMs: row.sinceAt.getTime(),
    openedAtMs: row.openedAt.getTime(),
    clearedAtMs: clearedAt?.getTime() ?? null,
    thenValue: row.value,
    about: clearedAt === null ? await aboutOf(db, row) : null,
    rule: (await listRules(db)).find(({ rule }) => rule.key === row.ruleKey)?.rule ?? null,
  }
}

/** Of a silent source: how long it has said nothing by now. */
async function silentTitle(
  db: Db,
  { sourceId, seriesId }: { sourceId: number | null; seriesId: number | null },
  nowMs: number,
): Promise<string | null> {
  if (sourceId === null || seriesId !== null) return null
  const source = await findSource(db, sourceId)
  return source === undefined ? null : silenceSentence(source.name, clockOf(source), nowMs)
}

async function aboutOf(
  db: Db,
  row: {
    seriesId: number | null
    measure: MeasureKey | null
    gearId: number | null
    partId: number | null
    gearName: string | null
    gearKind: string | null
    partName: string | null
    partKind: NonNullable<AlertNow['about']>['partKind']
  },
): Promise<AlertNow['about']> {
  const { seriesId, measure, gearId, partId, gearName, gearKind, partName, partKind } = row
  if (seriesId === null || measure === null || gearId === null || gearName === null) return null
  const beside = await db
    .selectFrom('series')
    .select(['id', 'sourceId', 'measure'])
    .where('gearId', '=', gearId)
    .where('partId', partId === null ? 'is' : '=', partId)
    .execute()
  const latest = await latestReadings(db, [...new Set(beside.map(({ sourceId }) => sourceId))])
  const own = latest.get(seriesId)
  if (own?.value == null || Number.isNaN(own.value)) return null
  const companions = Object.fromEntries(
    beside.flatMap(({ id, measure: other }) => {
      const read = latest.get(id)
      const isUsable =
        read?.value != null && !Number.isNaN(read.value) && own.atMs - read.atMs < ONE_MOMENT_MS
      return isUsable ? [[other, read.value]] : []
    }),
  )
  return {
    gearName,
    gearKind: gearKind as NonNullable<AlertNow['about']>['gearKind'],
    partName,
    partKind,
    measure,
    value: own.value,
    companions,
  }
}
