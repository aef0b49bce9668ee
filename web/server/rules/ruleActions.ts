import { fail, type RequestEvent } from '@sveltejs/kit'
import { type Rule, ruleFromFields } from '#core/rules'
import { ruleForm, deleteRule, insertRule, switchRule, updateRule } from '#db/rules'
import { firstProblem, switchForm, textFields } from '../platform/fields.ts'
import { formAction, noFields } from '../platform/formAction.ts'
import { Refused } from '../platform/refused.ts'

type Parsed =
  | { readonly kind: 'rule'; readonly rule: Rule }
  | {
      readonly kind: 'problems'
      readonly problems: Readonly<Record<string, string>>
      readonly message: string
    }

/** A rule out of the fields of its form, held against what a rule may be. */
export function parseRule(fields: Readonly<Record<string, string>>): Parsed {
  const filled = ruleFromFields(fields)
  if (filled.kind === 'problems')
    return { ...filled, message: Object.values(filled.problems)[0] ?? 'Something is missing.' }
  const parsed = ruleForm.safeParse(filled.rule)
  if (parsed.success) return filled
  return { kind: 'problems', problems: {}, message: firstProblem(parsed.error) }
}

type IdOf = (params: Readonly<Record<string, string>>) => number | null

/** What can be done in the form of a rule; `idOf` says which it is, `null` of a new one. */
export const ruleActions = (idOf: IdOf) => ({
  /** A new one, or another form of an own one. A shipped one is not changed; an own one takes its place. */
  save: async (event: RequestEvent) => {
    const fields = textFields(await event.request.clone().formData())
    const parsed = parseRule(fields)
    if (parsed.kind === 'problems')
      return fail(400, { message: parsed.message, problems: parsed.problems, fields })
    return saved(parsed.rule, idOf)(event)
  },
  remove: formAction({
    shape: noFields,
    about: () => NOTHING,
    work: async (_form, { trx, user, params }) => {
      const id = idOf(params)
      if (id === null || !(await deleteRule(trx, id, user.name)))
        throw new Refused('A shipped rule does not go: switch it off instead.')
      return { to: '/alerts/rules' }
    },
  }),
  turn: formAction({
    shape: switchForm,
    about: () => NOTHING,
    work: async ({ isOn }, { trx, user, params }) => {
      const id = idOf(params)
      if (id !== null) await switchRule(trx, id, isOn, user.name)
      return undefined
    },
  }),
})

/** No field is wrong, and none is to be filled again. */
const NOTHING = {
  problems: {} as Readonly<Record<string, string>>,
  fields: null as Readonly<Record<string, string>> | null,
}

const saved = (rule: Rule, idOf: IdOf) =>
  formAction({
    shape: noFields,
    about: () => NOTHING,
    work: async (_form, { trx, user, params }) => {
      const id = idOf(params)
      if (id === null || !(await updateRule(trx, id, rule, user.name))) await insertRule(trx, rule, user.name)
      return { to: '/alerts/rules' }
    },
  })
