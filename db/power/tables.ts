import type { Instant } from '../platform/columns.ts'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface PowerTables {
  /** What people say of the batteries of a UPS. */
  battery: { gearId: number; installed: string; years: number; who: string; at: Instant }
}
