import type { Generated } from 'kysely'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface PastTables {
  /** A view of the past under a name: what stands behind the address. */
  pastView: { id: Generated<number>; name: string; query: string; madeBy: string; madeAt: Generated<Date> }
  /** Something that is known to run at a time of the week. `days`: 0 is Monday. */
  knownJob: {
    id: Generated<number>
    name: string
    days: number[]
    fromMinute: number
    minutes: number
    madeBy: string
    madeAt: Generated<Date>
  }
}
