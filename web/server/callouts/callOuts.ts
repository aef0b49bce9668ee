import {
  afterWords,
  type CallOut,
  type Action,
  actionWords,
  hoursWords,
  isFirst,
  type ChannelKind,
  onDuty,
  severityWords,
  stepsSentence,
  turnsBetween,
  weaknessesOf,
  type CallOutFields,
  callOutFromFields,
} from '#core/callouts'
import { AmountError, formatElapsed, writeSpan } from '#core/units'
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
import { firstProblem } from '../platform/fields.ts'
import { isAt, isOfKind, type PlaceNames, scopeCovers, scopeWords } from '#core/rules'
import { listStoppable } from '#db/gear'
import { listGearScopes, listRules } from '#db/rules'
import { DESCRIPTORS } from '#protocols/registry'
import { placeNames } from '../rules/rules.ts'
import { alarmWeaknesses } from './selfMonitoring.ts'
import { Refused } from '../platform/refused.ts'

/** Protocols by which gear can be asked to stop. */
const STOPPING = DESCRIPTORS.filter(({ canStop }) => canStop === true).map(({ protocol }) => protocol)

const DAY_MS = 86_400_000
const SHOWN_DAYS = 21
const MOST_MESSAGES = 30

/** All that is told, by whom, to whom, by which channel; and what went out last. */
export async function loadCallOuts(db: Db, nowMs: number) {
  const rows = await listCallOuts(db)
  const wheres = rows.map(({ callOut }) => callOut.scope.where)
  const [bare, rules, teams, people, channels, messages, site, places] = await Promise.all([
    callNames(db),
    listRules(db),
    listTeams(db),
    listPeople(db),
    channelHealth(db, new Date(nowMs)),
    listMessages(db, MOST_MESSAGES),
    readSite(db),
    placeNames(db, wheres),
  ])
  const names = { ...bare, rules: new Map(rules.map(({ rule }) => [rule.key, rule.name])) }
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

const scopeOf = ({ scope }: CallOut, places: PlaceNames): string =>
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
          `“${name}” is stuck: ${count} ${count === 1 ? 'message waits' : 'messages wait'}${
            stuckSince === null ? '' : `, for ${formatElapsed(nowMs - stuckSince.getTime())}`
          }.`,
      )
      .join(' ')
  if (on.length === 0) return 'Nobody is notified of anything: there is no call-out.'
  const duty = duties.find(({ onDutyName }) => onDutyName !== null)
  return `${on.length} ${on.length === 1 ? 'call-out' : 'call-outs'}, and all channels work. ${
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
  const [rows, stoppable, rules, teams, channels, commands] = await Promise.all([
    listCallOuts(db),
    listStoppable(db, STOPPING),
    listRules(db),
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
    gear: stoppable,
    // What anybody can send leads to no action.
    rules: rules
      .filter(({ rule, isOn }) => isOn && rule.kind !== 'text')
      .map(({ rule: { key, name } }) => ({ key, name }))
      .sort(byName),
  }
}

const byName = (a: { readonly name: string }, b: { readonly name: string }): number =>
  a.name.localeCompare(b.name)

/** Whom a step that stops what an alert is about may come to: in the scope of its call-out, and of one of its rules. */
export async function coveredBy(db: Db, { scope }: CallOut, ruleKeys: readonly string[]): Promise<number[]> {
  const [scopes, all] = await Promise.all([listGearScopes(db), listRules(db)])
  const rules = all.flatMap(({ rule }) => (ruleKeys.includes(rule.key) ? [rule] : []))
  return [...scopes.values()]
    .filter(
      (gear) =>
        scopeCovers(scope, { ...gear, partKind: null, partId: null }) &&
        rules.some(
          (rule) =>
            isOfKind(rule.scope.gearKind, gear.gearKind) && isAt(rule.scope.where, { ...gear, partId: null }),
        ),
    )
    .sort((a, b) => a.gearName.localeCompare(b.gearName, 'en', { numeric: true }))
    .map(({ gearId }) => gearId)
}

/** @throws Refused when a step would ask gear to stop of which none can be asked */
export async function assertStoppable(db: Db, callOut: CallOut): Promise<void> {
  for (const [index, { action }] of callOut.steps.entries()) {
    if (action.do !== 'stop') continue
    const can = new Set((await listStoppable(db, STOPPING)).map(({ id }) => id))
    const covered =
      action.gearId === null ? await coveredBy(db, callOut, action.rules ?? []) : [action.gearId]
    if (!covered.some((id) => can.has(id)))
      throw new Refused(
        `Nothing that step ${index + 1} covers can be asked to stop: that takes a controller by which it can be switched off. Choose other rules, or another scope.`,
      )
  }
}

/**
 * A call-out out of its form.
 * @throws Refused when something is missing, or cannot be
 */
export function callOutOf(fields: CallOutFields): CallOut {
  try {
    const parsed = callOutForm.safeParse(callOutFromFields(fields))
    if (!parsed.success) throw new Refused(firstProblem(parsed.error))
    return parsed.data as CallOut
  } catch (error) {
    throw error instanceof AmountError ? new Refused(error.message) : error
  }
}
