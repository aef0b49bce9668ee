import { LINK_KINDS } from '#core/catalogue'
import { z } from 'zod'
import { listGear } from '#db/gear'
import type { Db } from '#db/platform'
import { Refused } from '../platform/refused.ts'

/** A link that a person draws from the gear at hand, or to it. */
export const linkForm = z.object({
  kind: z.enum(LINK_KINDS),
  way: z.enum(['from', 'to']),
  other: z.string().trim().min(1, 'Enter the name of the other gear').max(64),
})
export const unlinkForm = z.object({
  link: z
    .string()
    .regex(/^\d{1,9}$/, 'That link is not there any more; load the page again')
    .transform(Number),
})

/**
 * The link that a person means, from the gear at hand.
 * @throws Refused when the other is nobody's name, or several gear's, or the gear itself
 */
export async function linkTo(db: Db, id: number, { kind, way, other }: z.infer<typeof linkForm>) {
  const found = (await listGear(db)).filter(({ name }) => name.toLowerCase() === other.toLowerCase())
  if (found.length === 0) throw new Refused(`No gear is called “${other}”. Choose one of the list.`)
  if (found.length > 1)
    throw new Refused(`${found.length} gear are called “${other}”. Rename them so that one is meant.`)
  const otherId = found[0]!.id
  if (otherId === id) throw new Refused('A gear cannot hang on itself.')
  const [fromGearId, toGearId] = way === 'from' ? [id, otherId] : [otherId, id]
  return { kind, fromGearId, toGearId }
}
