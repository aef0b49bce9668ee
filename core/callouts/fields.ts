import { whereFromFields } from '../rules/index.ts'
import { AmountError, parseSpan } from '../units/index.ts'
import type { After, Recipients, Step } from './callOut.ts'

/** A call-out as it stands in a form: everything is text. */
export type CallOutFields = Readonly<Record<string, string>>

/** So many steps a form has at most. */
const MOST_STEPS = 12

/**
 * A call-out out of the fields of its form, as it was meant; whether it may be so is for its schema to say. Steps are
 * numbered `after-0`, `does-0` and so on.
 * @throws AmountError with a sentence when something cannot be read
 */
export function callOutFromFields(fields: CallOutFields): object {
  const steps: Step[] = []
  for (let index = 0; index < MOST_STEPS; index += 1)
    if (fields[`does-${index}`] !== undefined) steps.push(stepOf(fields, index))
  const where = whereFromFields({
    whereKind: fields['whereKind'] ?? 'everywhere',
    whereValue: fields['whereValue'] ?? '',
  })
  if (where === null) throw new AmountError('Choose what the call-out is for.')
  return {
    name: fields['name'] ?? '',
    severity: fields['severity'],
    scope: { gearKind: blankAsNull(fields['gearKind']), partKind: null, where },
    hours: fields['always'] === 'own' ? hoursOf(fields) : null,
    outside: fields['outside'] === 'leave' ? 'leave' : 'wait',
    holdOffMs: spanOf(fields['holdOff'] ?? ''),
    mostAMinute: Number(fields['mostAMinute'] || Number.NaN),
    tellsCleared: fields['tellsCleared'] === 'on',
    steps,
  }
}

const blankAsNull = (text: string | undefined): string | null =>
  text === undefined || text === '' ? null : text

const spanOf = (text: string): number =>
  text.trim() === '' || /^(0|at once|none)$/i.test(text.trim()) ? 0 : parseSpan(text)

/** “at once”, “5 min”, “3 intervals”. */
export function afterOf(text: string): After {
  const intervals = /^(\d+)\s*intervals?$/i.exec(text.trim())
  return intervals === null
    ? { kind: 'span', ms: spanOf(text) }
    : { kind: 'intervals', count: Number(intervals[1]) }
}

function stepOf(fields: CallOutFields, index: number): Step {
  const field = (name: string): string => fields[`${name}-${index}`] ?? ''
  const after = afterOf(field('after'))
  const evenIfTaken = field('evenIfTaken') === 'on'
  const does = field('does')
  if (does === 'command') {
    if (field('command') === '') throw new AmountError(`Choose the command of step ${index + 1}.`)
    return {
      after,
      evenIfTaken,
      action: { do: 'command', name: field('command'), rules: rulesOf(fields, index) },
    }
  }
  if (does === 'stop') {
    const gear = field('gear')
    const gearId = gear === '' ? null : Number(gear)
    return { after, evenIfTaken, action: { do: 'stop', gearId, rules: rulesOf(fields, index) } }
  }
  const channelId = Number(does.replace('channel ', ''))
  if (!Number.isInteger(channelId) || channelId < 1)
    throw new AmountError(`Choose what step ${index + 1} does.`)
  const to = field('to')
  const [kind, teamId] = to.split(' ')
  const recipients: Recipients | null =
    (kind === 'team' || kind === 'duty') && Number(teamId) > 0 ? { kind, teamId: Number(teamId) } : null
  if (field('reaches') === 'people' && recipients === null)
    throw new AmountError(`Choose who is told in step ${index + 1}.`)
  return { after, evenIfTaken, action: { do: 'notify', channelId, to: recipients } }
}

/** The keys of the rules that a step acts on, with blanks between. */
function rulesOf(fields: CallOutFields, index: number): string[] {
  const keys = (fields[`rules-${index}`] ?? '').split(' ').filter(Boolean)
  if (keys.length === 0)
    throw new AmountError(
      `Choose the rules that step ${index + 1} belongs to: what is done is done on those only.`,
    )
  return [...new Set(keys)]
}

function hoursOf(fields: CallOutFields) {
  const minuteOf = (text: string, what: string): number => {
    const match = /^(\d{1,2}):(\d{2})$/.exec(text.trim())
    const minute = match === null ? NaN : Number(match[1]) * 60 + Number(match[2])
    if (!(minute <= 1440)) throw new AmountError(`${what} of the hours is a time, as 07:30.`)
    return minute
  }
  return {
    days: [0, 1, 2, 3, 4, 5, 6].filter((day) => fields[`day-${day}`] === 'on'),
    fromMinute: minuteOf(fields['hoursFrom'] ?? '', 'The beginning'),
    toMinute: minuteOf(fields['hoursTo'] ?? '', 'The end'),
  }
}
