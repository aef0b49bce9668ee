import type { OpenSource } from '#db/sources'
import { snmpAgent, snmpTarget, type TrapUser } from '#protocols/snmp'
import { log } from '../platform/log.ts'
import { startSyslog, startTraps, type Texts } from './texts.ts'

export interface EarOptions {
  readonly address: string
  /** `null`: not heard by this collector. */
  readonly syslogPort: number | null
  readonly trapPort: number | null
}

/** What devices say by themselves: syslog and SNMP notifications. */
export interface Ears {
  /** The users of sources may send notifications, too. */
  setSources(sources: readonly OpenSource[]): void
  close(): void
}

export async function openEars({ address, syslogPort, trapPort }: EarOptions, texts: Texts): Promise<Ears> {
  const [syslog, traps] = await Promise.all([
    syslogPort === null
      ? null
      : startSyslog({ port: syslogPort, address }, (said) => texts.take(said)).catch(deaf('syslog')),
    trapPort === null
      ? null
      : startTraps({ port: trapPort, address }, (said) => texts.take(said)).catch(deaf('SNMP notifications')),
  ])
  return {
    setSources: (sources) => traps?.setUsers(trapUsers(sources)),
    close() {
      syslog?.close()
      traps?.close()
    },
  }
}

/** Who asks sources does not stop for a port that another program has. */
const deaf =
  (what: string) =>
  (error: unknown): null => {
    log.error({ reason: String(error) }, `${what} cannot be listened for; free the port and start anew`)
    return null
  }

/** The users of sources that are asked by SNMP v3. */
function trapUsers(sources: readonly OpenSource[]): TrapUser[] {
  const users = sources.flatMap(({ protocol, settings, secret }) => {
    const isAsked = protocol === snmpAgent.protocol
    const parsed = isAsked ? snmpTarget.safeParse({ address: 'any', settings, secret }) : null
    if (parsed?.success !== true || !('username' in parsed.data.secret)) return []
    const { authentication, privacy } = parsed.data.settings
    // What was to be encrypted is not believed in clear.
    if (parsed.data.secret.privPassword === '' && privacy !== 'none') return []
    return [{ ...parsed.data.secret, authentication, privacy }]
  })
  return [...new Map(users.map((user) => [user.username, user])).values()]
}
