import type { AlertsTables } from '../alerts/tables.ts'
import type { CalloutsTables } from '../callouts/tables.ts'
import type { DisksTables } from '../disks/tables.ts'
import type { PastTables } from '../past/tables.ts'
import type { ForecastTables } from '../forecast/tables.ts'
import type { GearTables } from '../gear/tables.ts'
import type { LinksTables } from '../links/tables.ts'
import type { LogsTables } from '../logs/tables.ts'
import type { PlatformTables } from './tables.ts'
import type { PowerTables } from '../power/tables.ts'
import type { ReadingsTables } from '../readings/tables.ts'
import type { RulesTables } from '../rules/tables.ts'
import type { SiteTables } from '../site/tables.ts'
import type { SourcesTables } from '../sources/tables.ts'

/** Every table of every subject. A subject adds its own here. */
export interface Database
  extends
    PlatformTables,
    SiteTables,
    DisksTables,
    PastTables,
    ForecastTables,
    GearTables,
    LinksTables,
    SourcesTables,
    LogsTables,
    PowerTables,
    ReadingsTables,
    RulesTables,
    AlertsTables,
    CalloutsTables {}
