import { fail, redirect } from '@sveltejs/kit'
import { type Rule, ruleFromFields } from '#core/rules'
import { ruleForm, deleteRule, insertRule, switchRule, updateRule } from '#db/rules'
import { firstProblem } from '../platform/forms.ts'
import { installation } from '../platform/installation.ts'

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

export const textFields = (form: FormData): Record<string, string> =>
  Object.fromEntries([...form].flatMap(([name, value]) => (typeof value === 'string' ? [[name, value]] : [])))

/** Saves a rule: a new one, or another form of an own one. A shipped one is not changed; an own one takes its place. */
export async function saveRule(request: Request, who: string, id: number | null) {
  const fields = textFields(await request.formData())
  const parsed = parseRule(fields)
  if (parsed.kind === 'problems')
    return fail(400, { message: parsed.message, problems: parsed.problems, fields })
  const { db } = installation()
  if (id !== null && (await updateRule(db, id, parsed.rule, who))) redirect(303, '/alerts/rules')
  await insertRule(db, parsed.rule, who)
  redirect(303, '/alerts/rules')
}

export async function removeRule(id: number, who: string) {
  if (!(await deleteRule(installation().db, id, who)))
    return fail(400, {
      message: 'A shipped rule does not go: switch it off instead.',
      problems: {},
      fields: null,
    })
  redirect(303, '/alerts/rules')
}

export async function turnRule(request: Request, who: string, id: number) {
  const isOn = (await request.formData()).get('isOn') === 'yes'
  await switchRule(installation().db, id, isOn, who)
  return { message: null, problems: {}, fields: null }
}
