import { z } from 'zod'
import type { RegisterMap } from '#core/sources'
import { registerMap } from './driver.ts'
import cooling from './maps/brumehall-ir20.json' with { type: 'json' }
import contacts from './maps/lichenfield-lc8.json' with { type: 'json' }
import generator from './maps/voltessa-g60.json' with { type: 'json' }
import meter from './maps/voltessa-em3.json' with { type: 'json' }

const shipped = z.object({ name: z.string(), map: registerMap })

/** Register maps that come along. A map is data: one more is one more file here, or is written in the application. */
export const SHIPPED_MAPS: readonly { readonly name: string; readonly map: RegisterMap }[] = [
  cooling,
  meter,
  generator,
  contacts,
].map((each) => shipped.parse(each) as { name: string; map: RegisterMap })
