import type { CallOut, Step } from '#core/callouts'
import {
  saveCallOut,
  saveChannel,
  saveDuty,
  savePerson,
  saveTeam,
  insertHeartbeat,
  writeAlarm,
} from '#db/callouts'
import type { Db } from '#db/platform'
import { seal, type SecretKey } from '#db/sources'
import { writeWebAddress } from '#db/platform'
import { BEAT_TOKEN, GATEWAY_TOKEN, HOOK_SECRET, type portsFrom, TEAM } from '../site/index.ts'

const WHO = 'Asta Holm'
const PEOPLE = [
  { name: 'Bo Lindqvist', email: 'bo@kittiwake.example', phone: '+47 555 0102' },
  { name: 'Dag Ness', email: 'dag@kittiwake.example', phone: '+47 555 0104' },
  { name: 'Eir Solvik', email: 'eir@kittiwake.example', phone: '+47 555 0105' },
  { name: 'Asta Holm', email: 'asta@kittiwake.example', phone: '+47 555 0101' },
  { name: 'Frode Utne', email: 'frode@kittiwake.example', phone: '+47 555 0106' },
] as const
const DAY_MS = 86_400_000
const MINUTE_MS = 60_000

interface Given {
  readonly key: SecretKey
  readonly ports: ReturnType<typeof portsFrom>
  readonly portBase: number
  readonly nowMs: number
  readonly idOf: (name: string) => number | null
}

/**
 * Whom Kittiwake Sound tells: the night team by mail, who of it is on duty by text when something critical stays, the
 * facility people for power and air, and a hook that keeps a log elsewhere.
 */
export async function insertDemoCallOuts(trx: Db, given: Given): Promise<void> {
  await writeWebAddress(trx, `http://127.0.0.1:${given.portBase}/`)
  const channels = await insertChannels(trx, given)
  await watchItself(trx, given, channels.mail)
  const teams = await insertTeams(trx, given.nowMs)
  await insertSteps(trx, channels, teams)
}

interface Channels {
  readonly mail: number
  readonly text: number
  readonly hook: number
  readonly screen: number
}

async function insertChannels(trx: Db, { key, ports }: Given): Promise<Channels> {
  const add = async (
    name: string,
    kind: keyof Channels,
    settings: Record<string, unknown>,
    password: string | null,
  ): Promise<number> => {
    const sealedSecret = password === null ? null : seal(key, { password })
    return (await saveChannel(trx, null, { name, kind, settings, sealedSecret }, WHO))!
  }
  const outside = `http://127.0.0.1:${ports.outside}`
  const fields = { format: 'json', toField: 'to', textField: 'text', idField: 'id', username: '' }
  return {
    mail: await add(
      'Mail',
      'mail',
      { host: '127.0.0.1', port: ports.mail, from: TEAM.from, username: '' },
      null,
    ),
    text: await add('Text messages', 'text', { url: `${outside}/texts`, ...fields }, GATEWAY_TOKEN),
    hook: await add(
      'Log of the harbour office',
      'hook',
      { url: `${outside}/hooks/harbour-office` },
      HOOK_SECRET,
    ),
    screen: await add('Every open screen', 'screen', { sound: 'once' }, null),
  }
}

/** One collector and the database run at the light station, on a server with one cord. */
async function watchItself(trx: Db, { idOf, ports }: Given, mail: number): Promise<void> {
  const [light, post] = [idOf('petrel-11'), idOf('petrel-02')]
  const channels = post === null ? {} : { [String(mail)]: post }
  if (light !== null)
    await writeAlarm(trx, { collectors: { 'collector-1': light }, database: light, channels }, WHO)
  const url = `http://127.0.0.1:${ports.outside}/heartbeat`
  await insertHeartbeat(
    trx,
    { direction: 'out', name: 'the harbour office', url, sealedSecret: null, intervalSeconds: 30 },
    WHO,
  )
  await insertHeartbeat(
    trx,
    { direction: 'in', name: 'the light station', token: BEAT_TOKEN, intervalSeconds: 10 },
    WHO,
  )
}

interface Teams {
  readonly night: number
  readonly facility: number
}

async function insertTeams(trx: Db, nowMs: number): Promise<Teams> {
  const ids = new Map<string, number>()
  for (const person of PEOPLE)
    ids.set(
      person.name,
      (await savePerson(trx, null, { ...person, phone: person.phone.replaceAll(' ', '') }, WHO))!,
    )
  const of = (...names: string[]): number[] => names.map((name) => ids.get(name)!)
  const team = async (name: string, personIds: number[]): Promise<number> =>
    (await saveTeam(trx, null, { name, personIds }, WHO))!
  const nightPeople = of('Bo Lindqvist', 'Dag Ness', 'Eir Solvik')
  const night = await team(TEAM.name, nightPeople)
  // The turns began on a Monday some weeks ago, with Bo.
  const monday = new Date(nowMs - ((new Date(nowMs).getUTCDay() + 6) % 7) * DAY_MS - 21 * DAY_MS)
  const swap = {
    personId: of('Eir Solvik')[0]!,
    fromMs: nowMs + 3 * DAY_MS,
    toMs: nowMs + 5 * DAY_MS,
  }
  await saveDuty(
    trx,
    night,
    {
      personIds: nightPeople,
      turnDays: 7,
      firstDay: monday.toISOString().slice(0, 10),
      handOverMinute: 8 * 60,
      swaps: [swap],
    },
    WHO,
  )
  return { night, facility: await team('facility people', of('Asta Holm', 'Frode Utne')) }
}

async function insertSteps(
  trx: Db,
  { mail, text, hook, screen }: Channels,
  { night, facility }: Teams,
): Promise<void> {
  const step = (afterMs: number, channelId: number, to: 'team' | 'duty' | null, teamId: number): Step => ({
    after: { kind: 'span', ms: afterMs },
    evenIfTaken: false,
    action: { do: 'notify', channelId, to: to === null ? null : { kind: to, teamId } },
  })
  const base: Omit<CallOut, 'name' | 'steps'> = {
    severity: 'warning',
    scope: { gearKind: null, partKind: null, where: { kind: 'everywhere' } },
    hours: null,
    outside: 'wait',
    holdOffMs: 5 * MINUTE_MS,
    mostAMinute: 12,
    tellsCleared: true,
  }
  const keep = (callOut: CallOut): Promise<number | null> => saveCallOut(trx, null, callOut, WHO)
  await keep({ ...base, name: 'Everything, by mail', holdOffMs: 0, steps: [step(0, mail, 'team', night)] })
  await keep({
    ...base,
    name: 'What is critical and stays',
    severity: 'critical',
    holdOffMs: 30 * MINUTE_MS,
    tellsCleared: false,
    steps: [step(0, screen, null, night), step(5 * MINUTE_MS, text, 'duty', night)],
  })
  await keep({
    ...base,
    name: 'Power at work hours',
    scope: { gearKind: 'ups', partKind: null, where: { kind: 'everywhere' } },
    hours: { days: [0, 1, 2, 3, 4], fromMinute: 7 * 60, toMinute: 17 * 60 },
    outside: 'leave',
    steps: [step(5 * MINUTE_MS, mail, 'team', facility)],
  })
  await keep({ ...base, name: 'Log elsewhere', holdOffMs: 0, steps: [step(0, hook, null, night)] })
}
