import { type ChannelKind, type Step } from '#core/callouts'
import { writeSpan } from '#core/units'

interface Option {
  readonly id: number
  readonly name: string
}

/** Everything that a step may name. */
export interface StepChoices {
  readonly channels: readonly (Option & { readonly kind: ChannelKind })[]
  readonly teams: readonly (Option & { readonly members: number; readonly hasDuty: boolean })[]
  readonly commands: readonly { readonly collector: string; readonly name: string; readonly words: string }[]
  /** What can be asked to stop. */
  readonly gear: readonly Option[]
  readonly rules: readonly { readonly key: string; readonly name: string }[]
}

/** A step as it stands in the form. */
export interface StepRow {
  readonly key: number
  after: string
  does: string
  to: string
  command: string
  gear: string
  rules: readonly string[]
  evenIfTaken: boolean
}

let made = 0

export const stepRow = ({ after, action, evenIfTaken }: Step): StepRow => ({
  key: (made += 1),
  after:
    after.kind === 'intervals'
      ? `${after.count} intervals`
      : after.ms === 0
        ? 'at once'
        : writeSpan(after.ms),
  does: action.do === 'notify' ? `channel ${action.channelId}` : action.do,
  to: action.do === 'notify' && action.to !== null ? `${action.to.kind} ${action.to.teamId}` : '',
  command: action.do === 'command' ? action.name : '',
  gear: action.do === 'stop' && action.gearId !== null ? String(action.gearId) : '',
  rules: action.do === 'notify' ? [] : (action.rules ?? []),
  evenIfTaken,
})

/** A step that nobody has changed yet: the first channel, to the first team. */
export const newStep = ({ channels, teams }: StepChoices, after: string): StepRow => ({
  key: (made += 1),
  after,
  does: channels[0] === undefined ? '' : `channel ${channels[0].id}`,
  to: teams[0] === undefined ? '' : `team ${teams[0].id}`,
  command: '',
  gear: '',
  rules: [],
  evenIfTaken: false,
})

export const channelOf = (row: StepRow, { channels }: StepChoices): ChannelKind | null =>
  channels.find(({ id }) => `channel ${id}` === row.does)?.kind ?? null

const NOT_BY_TEXTS = 'What devices say in logs and notifications never leads to it: anybody can send that.'

/** What a step will do, in words, before it is saved. */
export function stepWords(row: StepRow, choices: StepChoices): string {
  const { commands, gear, teams } = choices
  if (row.does === 'command') {
    const command = commands.find(({ name }) => name === row.command)
    return command === undefined
      ? ''
      : `Runs ${command.words} on ${command.collector}, without a shell, with the alert on its standard input. ${NOT_BY_TEXTS}`
  }
  if (row.does === 'stop') {
    const name = gear.find(({ id }) => String(id) === row.gear)?.name ?? 'the gear that the alert is about'
    return `Asks ${name} through its controller to stop in order. What runs on it ends. ${NOT_BY_TEXTS}`
  }
  const kind = channelOf(row, choices)
  if (kind === 'screen') return 'Shows a line on every open page until somebody takes the alert.'
  if (kind === 'hook') return 'Posts a signed JSON document.'
  const [who, id] = row.to.split(' ')
  const team = teams.find((each) => String(each.id) === id)
  if (kind === null || team === undefined) return ''
  if (who === 'team') return `Reaches all ${team.members} of the ${team.name}.`
  return team.hasDuty
    ? `Reaches whoever of the ${team.name} is on duty then.`
    : `The ${team.name} has no duty calendar: all ${team.members} are reached.`
}
