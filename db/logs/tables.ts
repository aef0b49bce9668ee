import type { Generated } from 'kysely'
import type { Instant, MaybeInstant } from '../platform/columns.ts'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface LogsTables {
  deviceText: {
    id: Generated<string>
    heardAt: Instant
    saidAt: MaybeInstant
    address: string
    host: string | null
    sourceId: number | null
    gearId: number | null
    kind: 'syslog' | 'trap'
    severity: number
    app: string | null
    body: string
    times: number
  }
}
