import {
  type After,
  afterWords,
  type CallOut,
  type Action,
  actionWords,
  hoursWords,
  isFirst,
  type ChannelKind,
  onDuty,
  type Recipients,
  severityWords,
  type Step,
  stepsSentence,
  turnsBetween,
  weaknessesOf,
} from '#core/callouts'
import type { Where } from '#core/rules'
import { AmountError, formatElapsed, parseSpan, writeSpan } from '#core/units'
import {
  callOutForm,
  type CallOutRow,
  listCallOuts,
  listCommands,
  listChannels,
  channelHealth,
  listMessages,
  listPeople,
  listTeams,
  type Person,
  type Team,
  callNames,
} from '#db/callouts'
import type { Db } from '#db/platform'
import { readSite } from '#db/platform'
import { firstProblem } from '../platform/forms.ts'
import { placeNames, scopeWords } from '../rules/rules.ts'
import { alarmWeaknesses } from './selfMonitoring.ts'

const DAY_MS = 86_400_000
const SHOWN_DAYS = 21
const MOST_MESSAGES = 30

/** All that is told, by whom, to whom, by which channel; and what went out last. */
export async function loadCallOuts(db: Db, nowMs: number) {
  const [rows, names, teams, people, channels, messages, site, places] = await Promise.all([
    listCallOuts(db),
    callNames(db),
    listTeams(db),
    listPeople(db),
    channelHealth(db, new Date(nowMs)),
    listMessages(db, MOST_MESSAGES),
    readSite(db),
    placeNames(db),
  ])
  const on = rows.filter(({ isOn }) => isOn)
  const duties = teams.map((team) => dutyView(team, people, nowMs, site.timeZone))
  return {
    sentence: sentenceOf(on, channels, duties, nowMs),
    callOuts: rows.map((row) => ({
      id: row.id,
      isOn: row.isOn,
      name: row.callOut.name,
      covers: `${severityWords(row.callOut.severity)} ${scopeOf(row.callOut, places)}`.trim(),
      hours: hoursWords(row.callOut.hours),
      holdOff: row.callOut.holdOffMs === 0 ? null : writeSpan(row.callOut.holdOffMs),
      tellsCleared: row.callOut.tellsCleared,
      sentence: stepsSentence(row.callOut, names),
      steps: row.callOut.steps.map((step) => ({
        after: afterWords(step.after),
        isFirst: isFirst(step),
        ifNotTaken: !isFirst(step) && !step.evenIfTaken,
        words: actionWords(step, names),
        kind: kindOf(step.action, names.channels),
      })),
    })),
    weaknesses: [
      ...weaknessesOf(
        on.map(({ callOut }) => callOut),
        {
          names,
          membersOf: new Map(teams.map(({ id, personIds }) => [id, personIds.length])),
          unreachable: (teamId, kind) => unreachable(teams, people, teamId, kind),
        },
      ),
      ...(await alarmWeaknesses(db)),
    ],
    duties,
    window: { fromMs: nowMs, toMs: nowMs + SHOWN_DAYS * DAY_MS },
    channels: channels.map(({ throughAt, stuckSince, ...each }) => ({
      ...each,
      throughAtMs: throughAt?.getTime() ?? null,
      stuckSinceMs: stuckSince?.getTime() ?? null,
    })),
    messages: messages.map(messageView),
  }
}

const scopeOf = ({ scope }: CallOut, places: Awaited<ReturnType<typeof placeNames>>): string =>
  scope.where.kind === 'everywhere' && scope.gearKind === null && scope.partKind === null
    ? ''
    : `on ${scopeWords(scope, places)}`

const kindOf = (
  action: Action,
  channels: ReadonlyMap<number, { readonly kind: ChannelKind }>,
): ChannelKind | 'command' | 'stop' =>
  action.do === 'notify' ? (channels.get(action.channelId)?.kind ?? 'mail') : action.do

function sentenceOf(
  on: readonly CallOutRow[],
  channels: Awaited<ReturnType<typeof channelHealth>>,
  duties: readonly ReturnType<typeof dutyView>[],
  nowMs: number,
): string {
  const stuck = channels.filter((each) => each.stuck > 0)
  if (stuck.length > 0)
    return stuck
      .map(
        ({ name, stuck: count, stuckSince }) =>
          `«${name}» is stuck: ${count} ${count === 1 ? 'message waits' : 'messages wait'}${
            stuckSince === null ? '' : `, for ${formatElapsed(nowMs - stuckSince.getTime())}`
          }.`,
      )
      .join(' ')
  if (on.length === 0) return 'Nobody is told of anything: there is no call-out.'
  const duty = duties.find(({ onDutyName }) => onDutyName !== null)
  return `${on.length} ${on.length === 1 ? 'call-out' : 'call-outs'}, and everything gets through. ${
    duty === undefined ? 'No team has a duty calendar.' : `${duty.onDutyName} of the ${duty.team} is on duty.`
  }`
}

function dutyView(team: Team, people: readonly Person[], nowMs: number, timeZone: string) {
  const nameOf = (id: number): string => people.find((each) => each.id === id)?.name ?? 'somebody'
  const now = team.duty === null ? null : onDuty(team.duty, nowMs, timeZone)
  return {
    teamId: team.id,
    team: team.name,
    members: team.personIds.map(nameOf),
    onDutyName: now === null ? null : nameOf(now),
    turns:
      team.duty === null
        ? []
        : turnsBetween(team.duty, nowMs, nowMs + SHOWN_DAYS * DAY_MS, timeZone).map((turn) => ({
            ...turn,
            name: nameOf(turn.personId),
          })),
  }
}

function unreachable(
  teams: readonly Team[],
  people: readonly Person[],
  teamId: number,
  kind: ChannelKind,
): string[] {
  if (kind !== 'mail' && kind !== 'text') return []
  const ids = teams.find(({ id }) => id === teamId)?.personIds ?? []
  return people
    .filter(({ id, email, phone }) => ids.includes(id) && (kind === 'mail' ? email : phone) === null)
    .map(({ name }) => name)
}

function messageView(message: Awaited<ReturnType<typeof listMessages>>[number]) {
  const { dueAt, createdAt, sentAt, ...rest } = message
  return {
    ...rest,
    dueAtMs: dueAt.getTime(),
    createdAtMs: createdAt.getTime(),
    sentAtMs: sentAt?.getTime() ?? null,
  }
}

/** What the form of a call-out can choose from, and one as it stands in it. */
export async function loadCallOutForm(db: Db, id: number | null) {
  const [rows, names, teams, channels, commands] = await Promise.all([
    listCallOuts(db),
    callNames(db),
    listTeams(db),
    listChannels(db),
    listCommands(db),
  ])
  const row = id === null ? null : (rows.find((each) => each.id === id) ?? null)
  if (id !== null && row === null) return null
  return {
    kept: row === null ? null : { id: row.id, isOn: row.isOn, name: row.callOut.name },
    callOut: row?.callOut ?? null,
    channels: channels.map(({ id: channelId, name, kind }) => ({ id: channelId, name, kind })),
    teams: teams.map(({ id: teamId, name, personIds, duty }) => ({
      id: teamId,
      name,
      members: personIds.length,
      hasDuty: duty !== null,
    })),
    commands,
    gear: [...names.gear].map(([gearId, name]) => ({ id: gearId, name })).sort(byName),
  }
}

const byName = (a: { readonly name: string }, b: { readonly name: string }): number =>
  a.name.localeCompare(b.name)

type Parsed<T> =
  { readonly kind: 'parsed'; readonly value: T } | { readonly kind: 'refused'; readonly message: string }

/** A call-out out of the fields of its form; steps are numbered `after-0`, `does-0` and so on. */
export function parseCallOut(fields: Readonly<Record<string, string>>): Parsed<CallOut> {
  try {
    const steps: Step[] = []
    for (let index = 0; index < 12; index += 1)
      if (fields[`does-${index}`] !== undefined) steps.push(stepOf(fields, index))
    const draft = {
      name: fields['name'] ?? '',
      severity: fields['severity'],
      scope: {
        gearKind: blankAsNull(fields['gearKind']),
        partKind: null,
        where: whereOf(fields['whereKind'] ?? 'everywhere', fields['whereValue'] ?? ''),
      },
      hours: fields['always'] === 'own' ? hoursOf(fields) : null,
      outside: fields['outside'] === 'leave' ? 'leave' : 'wait',
      holdOffMs: spanOf(fields['holdOff'] ?? ''),
      mostAMinute: Number(fields['mostAMinute'] || Number.NaN),
      tellsCleared: fields['tellsCleared'] === 'on',
      steps,
    }
    const parsed = callOutForm.safeParse(draft)
    return parsed.success
      ? { kind: 'parsed', value: parsed.data as CallOut }
      : { kind: 'refused', message: firstProblem(parsed.error) }
  } catch (error) {
    if (error instanceof AmountError) return { kind: 'refused', message: error.message }
    throw error
  }
}

const blankAsNull = (text: string | undefined): string | null =>
  text === undefined || text === '' ? null : text

function whereOf(kind: string, value: string): Where {
  if (kind === 'everywhere') return { kind }
  if (value === '') throw new AmountError('Choose what the call-out is for.')
  if (kind === 'tag') return { kind, tag: value }
  if (kind === 'cluster') return { kind, name: value }
  return { kind: kind as 'room', id: Number(value) }
}

const spanOf = (text: string): number =>
  text.trim() === '' || /^(0|at once|none)$/i.test(text.trim()) ? 0 : parseSpan(text)

/** «at once», «5 min», «3 intervals». */
export function afterOf(text: string): After {
  const intervals = /^(\d+)\s*intervals?$/i.exec(text.trim())
  return intervals === null
    ? { kind: 'span', ms: spanOf(text) }
    : { kind: 'intervals', count: Number(intervals[1]) }
}

function stepOf(fields: Readonly<Record<string, string>>, index: number): Step {
  const field = (name: string): string => fields[`${name}-${index}`] ?? ''
  const after = afterOf(field('after'))
  const evenIfTaken = field('evenIfTaken') === 'on'
  const does = field('does')
  if (does === 'command') {
    if (field('command') === '') throw new AmountError(`Choose the command of step ${index + 1}.`)
    return { after, evenIfTaken, action: { do: 'command', name: field('command') } }
  }
  if (does === 'stop') {
    const gear = field('gear')
    return { after, evenIfTaken, action: { do: 'stop', gearId: gear === '' ? null : Number(gear) } }
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

function hoursOf(fields: Readonly<Record<string, string>>) {
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
