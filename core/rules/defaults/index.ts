import type { Rule } from '../rule.ts'
import { ANYTHING } from './anything.ts'
import { SERVERS } from './servers.ts'
import { DRIVES } from './drives.ts'
import { SPACE } from './space.ts'
import { NETWORK } from './network.ts'
import { POWER } from './power.ts'
import { CLIMATE } from './climate.ts'
import { WATCHING } from './watching.ts'
import { TEXTS } from './texts.ts'
import { AHEAD } from './ahead.ts'

/** Rules in force from the first minute. Lines are in the unit of the measure; a ratio of 0.78 is 78 %. */
export const DEFAULT_RULES: readonly Rule[] = [
  ...ANYTHING,
  ...SERVERS,
  ...DRIVES,
  ...SPACE,
  ...NETWORK,
  ...POWER,
  ...CLIMATE,
  ...WATCHING,
  ...TEXTS,
  ...AHEAD,
]
