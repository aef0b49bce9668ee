import { addressOf } from '#protocols/reach'
import { getObjects, greetAgent, openSession, type SnmpTarget, textOf } from './session.ts'

const SYS_NAME = '1.3.6.1.2.1.1.5.0'
const SYS_DESCR = '1.3.6.1.2.1.1.1.0'
/** RFC 1628 upsIdentName and upsIdentModel. A v1 agent that lacks one of several refuses them all. */
const UPS_NAMES = ['1.3.6.1.2.1.33.1.1.5.0', '1.3.6.1.2.1.33.1.1.2.0']

interface Tried {
  readonly id: number
  readonly kind: string
  readonly secret: Readonly<Record<string, string>>
}

/** Ways to try a credential: old gear knows v1 alone; of a v3 user the usual algorithms first. */
const WAYS: Readonly<Record<string, readonly SnmpTarget['settings'][]>> = {
  'snmp-v2c': [
    { version: 'v2c', authentication: 'sha256', privacy: 'aes' },
    { version: 'v1', authentication: 'sha256', privacy: 'aes' },
  ],
  'snmp-v3': [
    { version: 'v3', authentication: 'sha256', privacy: 'aes' },
    { version: 'v3', authentication: 'sha', privacy: 'aes' },
    { version: 'v3', authentication: 'sha512', privacy: 'aes' },
  ],
}

/** Whether an SNMP agent answers, and which of the credentials it takes. */
export async function recogniseAgent(
  endpoint: { readonly host: string; readonly port: number },
  credentials: readonly Tried[],
  timeoutMs: number,
) {
  const address = addressOf(endpoint)
  const greeted = await greetAgent(endpoint, timeoutMs)
  if (greeted.kind === 'failed') return null
  const found = (settings: object, credentialId: number | null, said: string) => ({
    protocol: 'snmp' as const,
    address,
    settings: { ...settings },
    credentialId,
    said,
  })
  const fitting = credentials.filter(({ kind }) => kind in WAYS)
  const tries = fitting.flatMap(({ id, kind, secret }) =>
    WAYS[kind]!.map(async (settings) => {
      const target = { address, settings, secret } as SnmpTarget
      const session = openSession(target, timeoutMs)
      try {
        const names = settings.version === 'v1' ? [SYS_NAME, SYS_DESCR] : [SYS_NAME, ...UPS_NAMES, SYS_DESCR]
        const objects = await getObjects(session, names, timeoutMs)
        const words = names.map((oid) => textOf(objects.get(oid))).filter(Boolean)
        const said = words.length === 0 ? 'it says no name' : words.join(', ').slice(0, 120)
        return found(settings, id, `SNMP ${settings.version}: ${said}`)
      } catch {
        return null
      } finally {
        session.close()
      }
    }),
  )
  // In the order of the ways: the first that was answered.
  for (const one of tries) {
    const taken = await one
    if (taken !== null) return taken
  }
  if (!greeted.found.isAnswered) return null
  const said =
    fitting.length === 0 ? 'SNMP; no credential for it was tried' : 'SNMP; it takes none of the credentials'
  return found({ version: 'v3' }, null, said)
}
