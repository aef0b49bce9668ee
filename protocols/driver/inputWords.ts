import { z } from 'zod'

const KINDS: Readonly<Record<string, string>> = {
  string: 'text',
  number: 'a number',
  int: 'a whole number',
  bigint: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  tuple: 'a list',
  object: 'an object',
  record: 'an object',
  null: 'nothing',
  date: 'a time',
}

/** Enough to know it again. */
function shown(input: unknown): string {
  if (input === null) return 'nothing (null)'
  if (Array.isArray(input)) return 'a list'
  if (typeof input === 'object') return 'an object'
  if (typeof input === 'string') return `“${input.length > 40 ? `${input.slice(0, 40)}…` : input}”`
  return String(input)
}

const units = (origin: string, count: number | bigint): string => {
  const one = Number(count) === 1
  if (origin === 'string') return one ? 'character' : 'characters'
  if (origin === 'array' || origin === 'set') return one ? 'entry' : 'entries'
  return ''
}

/** What is wrong with an input of which nobody said it better, and what was received. */
function issueWords(issue: z.core.$ZodRawIssue): string {
  const { input } = issue
  switch (issue.code) {
    case 'invalid_type':
      if (input === undefined) return 'it is missing'
      return `${KINDS[issue.expected] ?? issue.expected} was expected, and ${Number.isNaN(input) ? 'no number' : shown(input)} was given`
    case 'invalid_value':
      if (input === undefined) return 'it is missing'
      return `${shown(input)} is none of ${issue.values.slice(0, 12).map(String).join(', ')}`
    case 'too_big':
    case 'too_small': {
      const [bound, limit] =
        issue.code === 'too_big'
          ? (['at most', issue.maximum] as const)
          : (['at least', issue.minimum] as const)
      const what = units(issue.origin, limit)
      return what === ''
        ? `${shown(input)} is given, and it is ${bound} ${limit}`
        : `it has ${bound} ${limit} ${what}`
    }
    case 'unrecognized_keys':
      return `nothing here is called ${issue.keys.map((key) => `“${key}”`).join(', ')}`
    case 'invalid_format':
      return `${shown(input)} is not written as ${issue.format === 'regex' ? 'it should be' : `${issue.format} is`}`
    default:
      return input === undefined ? 'it is missing' : `${shown(input)} cannot be used`
  }
}

/** What a schema says of input by itself is said in our words from here on, in this process. */
export function sayInputWords(): void {
  z.config({ localeError: (issue) => issueWords(issue) })
}
