import type { Generated } from 'kysely'
import type { CreatedAt, Instant, MaybeInstant } from '../platform/columns.ts'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface DisksTables {
  drivePage: {
    partId: number
    kind: 'nvme-health' | 'ata-smart'
    data: Buffer
    thresholds: Buffer | null
    readAt: Instant
  }
  driveRating: {
    model: string
    ratedBytes: number
    origin: string
    madeBy: string
    madeAt: CreatedAt
  }
  /** How much is written to a drive, over the last weeks. */
  drivePace: {
    partId: number
    writtenDaily: number
    days: number
    madeAt: CreatedAt
  }
  driveService: {
    id: Generated<number>
    partId: number
    serial: string
    model: string | null
    since: CreatedAt
    until: MaybeInstant
  }
}
