import type { MeasureKey } from '#core/catalogue'
import {
  batchesOf,
  disksSentence,
  type Drive,
  type DriveTrouble,
  groupsAtRisk,
  replacements,
  troubleOf,
  writesADay,
} from '#core/disks'
import { type DriveForecast, type DriveRow, listDriveForecasts, listDrives, listDriveSeries } from '#db/disks'
import type { Present } from '../platform/present.ts'

const MEASURES = [
  'hw.status',
  'hw.drive.role',
  'hw.drive.predicted_failure',
  'hw.drive.read_only',
  'hw.drive.life_left',
  'hw.drive.used',
  'hw.drive.spare_margin',
  'hw.drive.media_errors',
  'hw.drive.reallocated',
  'hw.drive.pending',
  'hw.drive.uncorrectable',
  'hw.drive.power_on',
  'hw.drive.written',
  'hw.temperature',
] as const satisfies readonly MeasureKey[]
type DriveMeasure = (typeof MEASURES)[number]

/** The newest of each measure of each drive: of several sources the graver state, otherwise what was told last. */
async function newestOf(present: Present): Promise<(partId: number, measure: DriveMeasure) => number | null> {
  const [series, latest] = await Promise.all([
    listDriveSeries(present.db, { measures: MEASURES }),
    present.latest(),
  ])
  const newest = new Map<string, { value: number; atMs: number }>()
  for (const { id, partId, measure } of series) {
    const reading = latest.get(id)
    if (reading?.value == null) continue
    const { value, atMs } = reading
    const key = `${partId} ${measure}`
    const known = newest.get(key)
    const isGraver =
      measure === 'hw.status' ? value > (known?.value ?? -1) : atMs > (known?.atMs ?? -Infinity)
    if (isGraver) newest.set(key, { value, atMs })
  }
  return (partId, measure) => newest.get(`${partId} ${measure}`)?.value ?? null
}

const flag = (value: number | null): boolean | null => (value === null ? null : value === 1)

function driveOf(
  row: DriveRow,
  value: (measure: DriveMeasure) => number | null,
  ahead: DriveForecast | undefined,
): Drive {
  const { facts, ratedBytes } = row
  const told = value('hw.drive.life_left')
  const written = value('hw.drive.written')
  const byRating = told === null && written !== null && ratedBytes !== null
  const crosses = ahead?.verdict === 'crosses' || ahead?.verdict === 'over'
  const pool = facts['pool'] ?? facts['volume']
  return {
    partId: row.partId,
    name: row.name,
    gearId: row.gearId,
    gear: row.gear,
    group: pool ? `${row.gear} ${pool}` : null,
    model: facts['model'] ?? null,
    serial: facts['serial'] ?? null,
    partNumber: facts['partNumber'] ?? null,
    capacityBytes: Number(facts['capacityBytes']) || null,
    state: value('hw.status'),
    role: value('hw.drive.role'),
    predicts: flag(value('hw.drive.predicted_failure')),
    isReadOnly: value('hw.drive.read_only') === 1,
    lifeLeft: told ?? (byRating ? Math.max(0, 1 - written / ratedBytes) : null),
    lifeFrom: told !== null ? 'drive' : byRating ? 'rating' : null,
    used: value('hw.drive.used') ?? (byRating ? written / ratedBytes : null),
    celsius: value('hw.temperature'),
    spareMargin: value('hw.drive.spare_margin'),
    mediaErrors: value('hw.drive.media_errors'),
    reallocated: value('hw.drive.reallocated'),
    pending: value('hw.drive.pending'),
    uncorrectable: value('hw.drive.uncorrectable'),
    powerOnHours: value('hw.drive.power_on'),
    writtenBytes: written,
    writtenADay: row.writtenDaily,
    ratedBytes,
    wornMs: crosses ? ahead.runOutMs : null,
    wornEarlyMs: ahead?.earlyMs ?? null,
    wornLateMs: ahead?.lateMs ?? null,
    orderByMs: crosses ? ahead.orderByMs : null,
  }
}

/** A drive with what its row shows. */
export interface DriveView extends Drive {
  readonly trouble: DriveTrouble
  readonly place: string
  readonly writesADay: number | null
  readonly aheadId: number | null
}

const placeOf = ({ rack, unit, room }: DriveRow): string =>
  rack === null ? '' : `${rack}${unit === null ? '' : ` U${unit}`}${room === null ? '' : `, ${room}`}`

/** All drives, those in trouble first, then by how much of their life is left. */
export async function loadDrives(present: Present, partId?: number): Promise<DriveView[]> {
  const { db } = present
  const [rows, forecasts, newest] = await Promise.all([
    listDrives(db, partId),
    listDriveForecasts(db),
    newestOf(present),
  ])
  const ahead = new Map<number, DriveForecast>()
  for (const each of forecasts) if (!ahead.has(each.partId)) ahead.set(each.partId, each)
  const rank = ({ severity }: DriveTrouble): number =>
    severity === 'critical' ? 0 : severity === 'warning' ? 1 : 2
  return rows
    .map((row): DriveView => {
      const forecast = ahead.get(row.partId)
      const drive = driveOf(row, (measure) => newest(row.partId, measure), forecast)
      return {
        ...drive,
        trouble: troubleOf(drive, present.nowMs),
        place: placeOf(row),
        writesADay: writesADay(drive),
        aheadId: forecast?.seriesId ?? null,
      }
    })
    .sort((a, b) => rank(a.trouble) - rank(b.trouble) || (a.lifeLeft ?? 2) - (b.lifeLeft ?? 2))
}

/** So many rows come with the page; the rest when it is open. */
const FIRST_ROWS = 60
const MOST_BATCHES = 5

/** What the screen of all drives shows. */
export async function loadDisks(present: Present) {
  const { nowMs } = present
  const drives = await loadDrives(present)
  return {
    sentence: disksSentence(drives, nowMs),
    list: { rows: drives.slice(0, FIRST_ROWS), isWhole: drives.length <= FIRST_ROWS },
    count: drives.length,
    points: drives.map(({ partId, name, gear, lifeLeft, wornMs, powerOnHours, trouble }) => ({
      partId,
      name: `${name} in ${gear}`,
      lifeLeft,
      wornMs,
      powerOnHours,
      severity: trouble.severity,
    })),
    groups: groupsAtRisk(drives, nowMs).map(({ group, gearId, sentence, drives: near }) => ({
      group,
      gearId,
      sentence,
      partIds: near.map(({ partId }) => partId),
    })),
    batches: batchesOf(drives, nowMs)
      .filter(({ inTrouble }) => inTrouble > 0)
      .slice(0, MOST_BATCHES)
      .map(({ drives: all, ...batch }) => ({ ...batch, count: all.length })),
    unrated: [
      ...new Set(
        drives.flatMap(({ lifeLeft, writtenBytes, ratedBytes, model }) =>
          lifeLeft === null && writtenBytes !== null && ratedBytes === null && model !== null ? [model] : [],
        ),
      ),
    ],
  }
}

const WITHIN_DAYS = 365

/** Which drives are to be replaced within a year, in the order in which to do it. */
export async function loadReplacements(present: Present) {
  const drives = await loadDrives(present)
  const views = new Map(drives.map((drive) => [drive.partId, drive]))
  return replacements(drives, present.nowMs, WITHIN_DAYS).map(({ drive, orderByMs, why }) => ({
    drive: views.get(drive.partId)!,
    orderByMs,
    why,
  }))
}
