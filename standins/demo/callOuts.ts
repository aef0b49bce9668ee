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

/**
 * Whom Kittiwake Sound tells: the night team by mail, who of it is on duty by text when something critical stays, the
 * facility people for power and air, and a hook that keeps a log elsewhere.
 */
export async function insertDemoCallOuts(
  trx: Db,
  given: {
    readonly key: SecretKey
    readonly ports: ReturnType<typeof portsFrom>
    readonly portBase: number
    readonly nowMs: number
    readonly idOf: (name: string) => number | null
  },
): Promise<void> {
  const { key, ports, nowMs } = given
  await writeWebAddress(trx, `http://127.0.0.1:${given.portBase}/`)
  const sealed = (password: string): Buffer => seal(key, { password })
  const channel = async (
    name: string,
    kind: 'mail' | 'text' | 'hook' | 'screen',
    settings: Record<string, unknown>,
    sealedSecret: Buffer | null,
  ): Promise<number> => (await saveChannel(trx, null, { name, kind, settings, sealedSecret }, WHO))!
  const mail = await channel(
    'Mail',
    'mail',
    { host: '127.0.0.1', port: ports.mail, from: TEAM.from, username: '' },
    null,
  )
  const text = await channel(
    'Text messages',
    'text',
    {
      url: `http://127.0.0.1:${ports.outside}/texts`,
      format: 'json',
      toField: 'to',
      textField: 'text',
      idField: 'id',
      username: '',
    },
    sealed(GATEWAY_TOKEN),
  )
  const hook = await channel(
    'Log of the harbour office',
    'hook',
    { url: `http://127.0.0.1:${ports.outside}/hooks/harbour-office` },
    sealed(HOOK_SECRET),
  )
  const screen = await channel('Every open screen', 'screen', { sound: 'once' }, null)

  // One collector and the database run at the light station, on a server with one cord.
  const [light, post] = [given.idOf('petrel-11'), given.idOf('petrel-02')]
  if (light !== null)
    await writeAlarm(
      trx,
      {
        collectors: { 'collector-1': light },
        database: light,
        channels: post === null ? {} : { [String(mail)]: post },
      },
      WHO,
    )
  await insertHeartbeat(
    trx,
    {
      direction: 'out',
      name: 'the harbour office',
      url: `http://127.0.0.1:${ports.outside}/heartbeat`,
      sealedSecret: null,
      intervalSeconds: 30,
    },
    WHO,
  )
  await insertHeartbeat(
    trx,
    { direction: 'in', name: 'the light station', token: BEAT_TOKEN, intervalSeconds: 10 },
    WHO,
  )

  const ids = new Map<string, number>()
  for (const person of PEOPLE)
    ids.set(
      person.name,
      (await savePerson(trx, null, { ...person, phone: person.phone.replaceAll(' ', '') }, WHO))!,
    )
  const of = (...names: string[]): number[] => names.map((name) => ids.get(name)!)
  const night = (await saveTeam(
    trx,
    null,
    { name: TEAM.name, personIds: of('Bo Lindqvist', 'Dag Ness', 'Eir Solvik') },
    WHO,
  ))!
  const facility = (await saveTeam(
    trx,
    null,
    { name: 'facility people', personIds: of('Asta Holm', 'Frode Utne') },
    WHO,
  ))!
  // The turns began on a Monday some weeks ago, with Bo.
  const monday = new Date(nowMs - ((new Date(nowMs).getUTCDay() + 6) % 7) * DAY_MS - 21 * DAY_MS)
  await saveDuty(
    trx,
    night,
    {
      personIds: of('Bo Lindqvist', 'Dag Ness', 'Eir Solvik'),
      turnDays: 7,
      firstDay: monday.toISOString().slice(0, 10),
      handOverMinute: 8 * 60,
      swaps: [
        {
          personId: of('Eir Solvik')[0]!,
          fromMs: nowMs + 3 * DAY_MS,
          toMs: nowMs + 5 * DAY_MS,
        },
      ],
    },
    WHO,
  )

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
