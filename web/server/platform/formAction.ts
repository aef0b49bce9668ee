import { type ActionFailure, fail, redirect, type RequestEvent } from '@sveltejs/kit'
import { z } from 'zod'
import {
  actAs,
  AlreadyThere,
  announceAll,
  type Db,
  type LiveEvent,
  recordChange,
  transact,
} from '#db/platform'
import { firstProblem, problemsOf } from './fields.ts'
import { installation } from './installation.ts'
import { Refused } from './refused.ts'
import { type SignedIn, signedIn } from './signedIn.ts'

/** What an action is given beside its form. */
export interface Acting {
  /** Everything that is written by it is one transaction with the record of the change. */
  readonly trx: Db
  readonly user: SignedIn
  readonly params: Readonly<Record<string, string>>
  readonly url: URL
  /** All fields, for those that come several times, and for files. */
  readonly data: FormData
}

/** What came of it. */
export interface Acted<Done extends object> {
  /** What was done, as it stands in the record of changes after the name; nothing where the work records it itself. */
  readonly record?: string
  readonly tells?: readonly LiveEvent[]
  /** For the page, beside its message. */
  readonly done?: Done
  /** Where the browser goes on to. */
  readonly to?: string
}

interface Options<Shape extends z.ZodType, Done extends object, Says extends string, About extends object> {
  /** What the form may be; its first problem is the sentence for it. Fields that come several times are in `data`. */
  readonly shape: Shape
  /** Under which name the page looks for the sentence; `message` when not said. */
  readonly says?: Says
  /** What goes with every answer, so that the page knows beside which form it belongs. */
  readonly about?: (fields: Readonly<Record<string, unknown>>) => About
  /** The sentence when a name is given twice. */
  readonly taken?: (form: z.infer<Shape>) => string
  /** @throws Refused with what the person at the screen can mend */
  readonly work: (form: z.infer<Shape>, acting: Acting) => Promise<Acted<Done> | undefined>
}

type Said<Says extends string, Value> = { readonly [key in Says]: Value }

/** What is wrong with which field, by its name, beside the sentence for all of it. */
interface Refusal {
  readonly problems: Readonly<Record<string, string>>
}

/** A form without fields of its own. */
export const noFields = z.object({})

/** The number of a row, as a hidden field. */
export const idField = z.object({
  id: z
    .string()
    .regex(/^\d{1,9}$/, 'That is not there any more; load the page again')
    .transform(Number),
})

/**
 * A form action: holds the form against its shape, does the work and records it in one transaction, and answers. What a
 * person can mend comes back as a sentence, and nothing of it is written.
 */
export function formAction<
  Shape extends z.ZodType,
  Done extends object = object,
  Says extends string = 'message',
  About extends object = object,
>(
  options: Options<Shape, Done, Says, About>,
): (
  event: RequestEvent,
) => Promise<ActionFailure<About & Refusal & Said<Says, string>> | (About & Said<Says, null> & Done)> {
  const says = options.says ?? ('message' as Says)
  return async ({ request, locals, params, url }) => {
    const user = signedIn(locals)
    const data = await request.formData()
    const fields = Object.fromEntries(data)
    const about = (options.about?.(fields) ?? {}) as About
    const refuse = (sentence: string, problems: Readonly<Record<string, string>> = {}) =>
      fail(400, { ...about, problems, [says]: sentence } as About & Refusal & Said<Says, string>)
    if (Object.values(fields).some((value) => typeof value === 'string' && value.includes('\0')))
      return refuse('A field holds a character that no text has (NUL). Type it anew.')
    const parsed = options.shape.safeParse(fields)
    if (!parsed.success) return refuse(firstProblem(parsed.error), problemsOf(parsed.error))
    let acted: Acted<Done> | undefined
    try {
      acted = await transact(installation().db, async (trx) => {
        await actAs(trx, { id: user.id, address: locals.address })
        const given = params as Readonly<Record<string, string>>
        const outcome = await options.work(parsed.data, { trx, user, params: given, url, data })
        if (outcome?.record !== undefined) await recordChange(trx, user.name, outcome.record)
        if (outcome?.tells !== undefined) await announceAll(trx, outcome.tells)
        return outcome
      })
    } catch (thrown) {
      if (thrown instanceof Refused) return refuse(thrown.message, thrown.problems)
      if (thrown instanceof AlreadyThere && options.taken !== undefined)
        return refuse(options.taken(parsed.data))
      throw thrown
    }
    if (acted?.to !== undefined) redirect(303, acted.to)
    return { ...about, [says]: null, ...acted?.done } as About & Said<Says, null> & Done
  }
}
