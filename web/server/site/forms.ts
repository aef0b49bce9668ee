import { FACES, TURNS } from '#core/site'
import { z } from 'zod'
import { name, wholeNumber, id } from '../platform/fields.ts'

/** Metres as people write them, to millimetres. */
const metres = (what: string, mostMetres: number) =>
  z
    .string()
    .trim()
    .regex(/^\d{1,3}([.,]\d{1,3})?$/, `${what} is a number of metres, as 7.2`)
    .transform((text) => Math.round(Number(text.replace(',', '.')) * 1000))
    .pipe(
      z
        .number()
        .min(1000, `${what} is at least 1 m`)
        .max(mostMetres * 1000, `${what} is at most ${mostMetres} m`),
    )

export const room = z.object({
  name: name('a name for the room'),
  building: z.string().trim().max(64, 'The name of a building has at most 64 characters').default(''),
  widthMm: metres('The width', 200).default(6000),
  depthMm: metres('The depth', 200).default(4800),
})

export const rack = z.object({
  roomId: wholeNumber('The room'),
  name: name('a name for the rack'),
  heightUnits: wholeNumber('The height').pipe(
    z.number().min(1, 'A rack has at least 1 U').max(60, 'A rack has at most 60 U'),
  ),
})

const mm = z.number().int().min(-200_000).max(200_000)

const turn = z.union(TURNS.map((each) => z.literal(each)))

/** What was moved on a plan or in a rack, as JSON. */
export const moveForm = z.discriminatedUnion('what', [
  z.object({
    what: z.literal('mount'),
    gearId: id,
    place: z
      .object({
        rackId: id,
        unit: z.number().int().min(1, 'The lowest unit of a rack is 1'),
        heightUnits: z
          .number()
          .int()
          .min(1, 'A gear is at least 1 U high')
          .max(60, 'A rack has at most 60 U'),
        face: z.enum(FACES),
      })
      .nullable(),
  }),
  z.object({ what: z.literal('stand'), gearId: id, roomId: id, xMm: mm, yMm: mm, turn }),
  z.object({ what: z.literal('rack'), rackId: id, roomId: id, xMm: mm, yMm: mm, turn }),
])
export type Move = z.infer<typeof moveForm>
