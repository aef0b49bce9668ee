import { DEFAULT_RULES } from '#core/rules'
import { SHIPPED_MAPS } from '#protocols/modbus'

/** What comes along with the product and is kept in the database from its first start on. */
export const SEEDS = { rules: DEFAULT_RULES, maps: SHIPPED_MAPS } as const
