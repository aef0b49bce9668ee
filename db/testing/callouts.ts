import { type CallOut, type Step, USUAL_MOST_A_MINUTE } from '#core/callouts'
import { saveCallOut } from '../callouts/callouts.ts'
import { saveChannel } from '../callouts/channels.ts'
import { savePerson, saveTeam } from '../callouts/people.ts'
import type { Db } from '../platform/connect.ts'
import { writeWebAddress } from '../platform/settings.ts'

const WHO = 'a test'

/** A team that is told of everything by mail, at once and without a hold-off. */
export async function tellByMail(
  db: Db,
  mail: {
    readonly port: number
    readonly team?: string
    readonly to?: readonly string[]
    readonly username?: string
    readonly sealedSecret?: Buffer
    readonly mostAMinute?: number
  },
): Promise<{ channelId: number; teamId: number; callOutId: number }> {
  const { port, team = 'night team', to = ['night@kittiwake.example'], username = '', sealedSecret } = mail
  const { mostAMinute = USUAL_MOST_A_MINUTE } = mail
  await writeWebAddress(db, 'http://rack.example:8460/')
  const channelId = (await saveChannel(
    db,
    null,
    {
      name: 'Mail',
      kind: 'mail',
      settings: { host: '127.0.0.1', port, from: 'rack@kittiwake.example', username },
      sealedSecret: sealedSecret ?? null,
    },
    WHO,
  ))!
  const personIds: number[] = []
  for (const email of to)
    personIds.push((await savePerson(db, null, { name: email.split('@')[0]!, email, phone: '' }, WHO))!)
  const teamId = (await saveTeam(db, null, { name: team, personIds }, WHO))!
  const callOutId = (await saveCallOut(
    db,
    null,
    callOutOf(
      [
        {
          after: AT_ONCE,
          evenIfTaken: false,
          action: { do: 'notify', channelId, to: { kind: 'team', teamId } },
        },
      ],
      { mostAMinute },
    ),
    WHO,
  ))!
  return { channelId, teamId, callOutId }
}

export const AT_ONCE = { kind: 'span', ms: 0 } as const

/** A call-out for everything. */
export const callOutOf = (steps: readonly Step[], rest: Partial<CallOut> = {}): CallOut => ({
  name: 'Everything',
  severity: 'warning',
  scope: { gearKind: null, partKind: null, where: { kind: 'everywhere' } },
  hours: null,
  outside: 'wait',
  holdOffMs: 0,
  mostAMinute: USUAL_MOST_A_MINUTE,
  tellsCleared: true,
  steps,
  ...rest,
})
