import type { Severity } from '../rules/index.ts'
import { writeSpan } from '../units/index.ts'
import {
  type After,
  type CallOut,
  type ChannelKind,
  type Hours,
  isFirst,
  namesNoRule,
  type Step,
} from './callOut.ts'

/** Names of what a call-out points to. */
export interface CallNames {
  readonly channels: ReadonlyMap<number, { readonly name: string; readonly kind: ChannelKind }>
  readonly teams: ReadonlyMap<number, string>
  readonly gear: ReadonlyMap<number, string>
  /** Of rules by their keys. */
  readonly rules?: ReadonlyMap<string, string>
}

const BY: Readonly<Record<ChannelKind, string>> = {
  mail: 'by mail',
  text: 'by text',
  hook: 'by hook',
  screen: 'on screen',
}
export const CHANNEL_WORDS: Readonly<Record<ChannelKind, string>> = {
  mail: 'mail',
  text: 'text message',
  hook: 'web hook',
  screen: 'on screen',
}

/** What a step does, in words that go on from “At once”: “night team by mail”, “who is on duty of night team by text”. */
export function actionWords({ action }: Step, names: CallNames): string {
  if (action.do === 'command') return `the command “${action.name}” runs${onRules(action.rules, names)}`
  if (action.do === 'stop') {
    const which =
      action.gearId === null
        ? 'the gear that it is about'
        : (names.gear.get(action.gearId) ?? 'a gear that is gone')
    return `${which} is asked to stop${onRules(action.rules, names)}`
  }
  const channel = names.channels.get(action.channelId)
  if (channel === undefined) return 'nobody: its channel is gone'
  if (channel.kind === 'screen') return 'every open screen'
  if (channel.kind === 'hook') return `the hook ${channel.name}`
  const team = action.to === null ? 'nobody' : (names.teams.get(action.to.teamId) ?? 'a team that is gone')
  return `${action.to?.kind === 'duty' ? `who of the ${team} is on duty` : `the ${team}`} ${BY[channel.kind]}`
}

const onRules = (rules: readonly string[] | undefined, names: CallNames): string => {
  if (rules === undefined || names.rules === undefined) return ''
  return ` (${rules.map((key) => names.rules!.get(key) ?? 'a rule that is gone').join(', ')})`
}

export const afterWords = (after: After): string =>
  after.kind === 'span'
    ? after.ms === 0
      ? 'at once'
      : `after ${writeSpan(after.ms)}`
    : after.count === 0
      ? 'at once'
      : `after ${after.count} ${after.count === 1 ? 'interval' : 'intervals'}`

/** All steps as one sentence: “At once the night team by mail; still open after 5 min and not taken: who of it is on duty by text.” */
export function stepsSentence({ steps }: CallOut, names: CallNames): string {
  if (steps.length === 0) return 'It has no step, and notifies nobody.'
  const parts = steps.map((step) => {
    const what = actionWords(step, names)
    if (isFirst(step)) return `at once ${what}`
    return `still open ${afterWords(step.after)}${step.evenIfTaken ? '' : ' and not taken'}: ${what}`
  })
  const sentence = parts.join('; ')
  return `${sentence[0]!.toUpperCase()}${sentence.slice(1)}.`
}

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const
const clock = (minute: number): string =>
  `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`

export function hoursWords(hours: Hours | null): string {
  if (hours === null) return 'at any hour'
  const days = [...hours.days].sort((a, b) => a - b)
  const isRow = days.length > 2 && days.every((day, index) => index === 0 || day === days[index - 1]! + 1)
  const named =
    days.length === 7
      ? 'every day'
      : isRow
        ? `${DAYS[days[0]!]} to ${DAYS[days.at(-1)!]}`
        : days.map((day) => DAYS[day]).join(', ')
  return `${named} ${clock(hours.fromMinute)}–${clock(hours.toMinute)}`
}

export const severityWords = (severity: Severity): string =>
  severity === 'critical' ? 'what is critical' : 'what is critical or a warning'

/** What is weak about call-outs, each in a sentence with what mends it. A message goes to a group, never only to one person. */
export function weaknessesOf(
  callOuts: readonly CallOut[],
  around: {
    readonly names: CallNames
    readonly membersOf: ReadonlyMap<number, number>
    /** People of a team whom a channel cannot reach, for want of an address or a number. */
    readonly unreachable: (teamId: number, kind: ChannelKind) => readonly string[]
  },
): string[] {
  const found: string[] = []
  const critical = callOuts.filter(({ steps }) => steps.some(({ action }) => action.do === 'notify'))
  if (critical.length === 0) found.push('Nobody is notified of anything: add a call-out.')
  for (const { name, steps } of callOuts) {
    if (steps.some(({ action }) => namesNoRule(action) !== null))
      found.push(`“${name}” does nothing: what it does names no rule. Open it and choose the rules.`)
    const tells = steps.flatMap(({ action }) => (action.do === 'notify' ? [action] : []))
    const reach = tells.map(({ to, channelId }) => {
      const kind = around.names.channels.get(channelId)?.kind
      if (kind === undefined) return 0
      if (to === null) return Infinity
      return to.kind === 'duty' ? 1 : (around.membersOf.get(to.teamId) ?? 0)
    })
    if (tells.length > 0 && reach.every((count) => count === 0))
      found.push(`“${name}” reaches nobody: its team is empty or its channel is gone.`)
    else if (tells.length > 0 && reach.every((count) => count <= 1))
      found.push(`“${name}” reaches one person only: add a step that tells a whole team.`)
    for (const { to, channelId } of tells) {
      const kind = around.names.channels.get(channelId)?.kind
      if (to === null || kind === undefined) continue
      const missing = around.unreachable(to.teamId, kind)
      if (missing.length > 0)
        found.push(
          `${missing.join(', ')} of the ${around.names.teams.get(to.teamId) ?? ''} cannot be reached by ${CHANNEL_WORDS[kind]}: ${kind === 'text' ? 'a telephone number' : 'a mail address'} is missing.`,
        )
    }
  }
  return [...new Set(found)]
}
