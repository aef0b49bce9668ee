import type { MeasureKey } from '#core/catalogue'
import type { Db } from '../platform/connect.ts'

/** A drive, known by its serial number, in one bay from one instant to another. */
export interface Service {
  readonly partId: number
  readonly gearId: number
  readonly gear: string
  readonly bay: string
  readonly serial: string
  readonly model: string | null
  readonly sinceMs: number
  /** `null`: it is there. */
  readonly untilMs: number | null
}

const services = (db: Db) =>
  db
    .selectFrom('driveService')
    .innerJoin('part', 'part.id', 'driveService.partId')
    .innerJoin('gear', 'gear.id', 'part.gearId')
    .select([
      'driveService.partId',
      'gear.id as gearId',
      'gear.name as gear',
      'part.name as bay',
      'driveService.serial',
      'driveService.model',
      'driveService.since',
      'driveService.until',
    ])
    .orderBy('driveService.since', 'desc')
    .orderBy('driveService.id', 'desc')

type Row = Awaited<ReturnType<ReturnType<typeof services>['execute']>>[number]
const serviceOf = ({ since, until, ...row }: Row): Service => ({
  ...row,
  sinceMs: since.getTime(),
  untilMs: until?.getTime() ?? null,
})

/** Who was in this bay, the newest first, and where else this drive was. */
export async function servicesAround(
  db: Db,
  partId: number,
): Promise<{ readonly inBay: Service[]; readonly elsewhere: Service[] }> {
  const inBay = (await services(db).where('driveService.partId', '=', partId).execute()).map(serviceOf)
  const serial = inBay.find(({ untilMs }) => untilMs === null)?.serial
  const elsewhere =
    serial === undefined
      ? []
      : (
          await services(db)
            .where('driveService.serial', '=', serial)
            .where('driveService.partId', '!=', partId)
            .execute()
        ).map(serviceOf)
  return { inBay, elsewhere }
}

/** A stretch of the readings of a drive, wherever it was then. */
export interface Stretch {
  readonly seriesId: number
  readonly fromMs: number
  readonly toMs: number
}

/**
 * Where the readings of a drive are, for drives that took the place of another, or came from another bay: history stays
 * with the serial number. Of drives that have always been where they are nothing is said.
 * @returns by the series of the bay that the drive is in now
 */
export async function stretchesOfMoved(
  db: Db,
  measures: readonly MeasureKey[],
): Promise<Map<number, Stretch[]>> {
  const moved = await services(db)
    .where(({ or, exists, selectFrom }) =>
      or([
        exists(
          selectFrom('driveService as other')
            .select('other.id')
            .whereRef('other.partId', '=', 'driveService.partId')
            .whereRef('other.id', '!=', 'driveService.id'),
        ),
        exists(
          selectFrom('driveService as other')
            .select('other.id')
            .whereRef('other.serial', '=', 'driveService.serial')
            .whereRef('other.id', '!=', 'driveService.id'),
        ),
      ]),
    )
    .execute()
  if (moved.length === 0) return new Map()
  const all = moved.map(serviceOf)
  const firstIn = new Map<number, number>()
  for (const { partId, sinceMs } of all)
    firstIn.set(partId, Math.min(sinceMs, firstIn.get(partId) ?? Infinity))
  // What was read before anybody noted who is in a bay is of the first that was.
  const rows = all.map((service) =>
    firstIn.get(service.partId) === service.sinceMs ? { ...service, sinceMs: 0 } : service,
  )
  const series = await db
    .selectFrom('series')
    .select(['id', 'partId', 'measure'])
    .where('partId', 'in', [...new Set(rows.map(({ partId }) => partId))])
    .where('measure', 'in', [...measures])
    .orderBy('id')
    .execute()
  const stretches = new Map<number, Stretch[]>()
  for (const now of rows.filter(({ untilMs }) => untilMs === null))
    for (const own of series.filter(({ partId }) => partId === now.partId)) {
      const ofSerial = rows
        .filter(
          ({ serial, partId, untilMs }) =>
            serial === now.serial && (partId !== now.partId || untilMs === null),
        )
        .flatMap((service): Stretch[] => {
          const there =
            service.partId === now.partId
              ? own
              : series.find((each) => each.partId === service.partId && each.measure === own.measure)
          return there === undefined
            ? []
            : [{ seriesId: there.id, fromMs: service.sinceMs, toMs: service.untilMs ?? Infinity }]
        })
        .sort((a, b) => a.fromMs - b.fromMs)
      stretches.set(own.id, ofSerial)
    }
  return stretches
}
