import snmp from 'net-snmp'
import { z } from 'zod'
import type { Failure } from '#core/sources'
import type { Driver } from '#protocols/driver'
import { upsFindings, type VarbindMap } from './ups.ts'

const addressPattern = /^(?:snmp:\/\/)?\[?([^\]]+?)\]?(?::(\d+))?$/

export const snmpTarget = z.object({
  address: z.string().regex(addressPattern, 'The address is a host, with a port if it is not 161'),
  settings: z.object({
    version: z.enum(['v2c', 'v3']),
    authentication: z.enum(['sha', 'sha256', 'sha512']).default('sha256'),
    privacy: z.enum(['aes', 'aes256b']).default('aes'),
  }),
  secret: z.union([
    z.object({ community: z.string().min(1) }),
    z.object({
      username: z.string().min(1),
      authPassword: z.string().min(8),
      privPassword: z.string().min(8),
    }),
  ]),
})
type SnmpTarget = z.infer<typeof snmpTarget>

const UPS_TREE = '1.3.6.1.2.1.33.1'
const MOST_OBJECTS = 2000

/** A UPS by SNMP v2c or v3 (RFC 3414, RFC 7860 for SHA-2, RFC 3826 for AES), read by walking the UPS-MIB. */
export const upsOverSnmp: Driver = {
  protocol: 'snmp-ups',
  async collect({ target, timeoutMs }) {
    const parsed = snmpTarget.parse(target)
    const [, host = '', port = '161'] = addressPattern.exec(parsed.address) ?? []
    const address = `${host}:${port}`
    const session = openSession(host, Number(port), parsed, timeoutMs)
    try {
      const walked = await walkTree(session, timeoutMs)
      if (walked.kind === 'failed')
        return { kind: 'failed', failure: explain(walked.error, address, parsed, timeoutMs) }
      const found = upsFindings(walked.values)
      if (found !== null) return { kind: 'found', found }
      const detail = 'it answers SNMP, but has no UPS tree (RFC 1628)'
      return { kind: 'failed', failure: { kind: 'unsupported', address, detail } }
    } finally {
      session.close()
    }
  },
}

function openSession(host: string, port: number, target: SnmpTarget, timeoutMs: number): snmp.Session {
  const common = { port, retries: 1, timeout: Math.floor(timeoutMs / 2), backwardsGetNexts: true }
  if ('community' in target.secret) {
    return snmp.createSession(host, target.secret.community, { ...common, version: snmp.Version2c })
  }
  const { username, authPassword, privPassword } = target.secret
  return snmp.createV3Session(
    host,
    {
      name: username,
      level: snmp.SecurityLevel.authPriv,
      authProtocol: snmp.AuthProtocols[target.settings.authentication],
      authKey: authPassword,
      privProtocol: snmp.PrivProtocols[target.settings.privacy],
      privKey: privPassword,
    },
    { ...common, version: snmp.Version3 },
  )
}

type Walked =
  | { readonly kind: 'walked'; readonly values: VarbindMap }
  | { readonly kind: 'failed'; readonly error: Error }

/** The whole UPS tree by GetBulk. The deadline is for all of it; what comes after it is not waited for. */
function walkTree(session: snmp.Session, timeoutMs: number): Promise<Walked> {
  return new Promise((resolve) => {
    const values = new Map<string, string | number>()
    const fail = (error: Error) => {
      clearTimeout(deadline)
      resolve({ kind: 'failed', error })
    }
    const deadline = setTimeout(() => fail(new Error('Request timed out')), timeoutMs)
    session.on('error', fail)
    session.subtree(
      UPS_TREE,
      20,
      (varbinds: unknown[]) => {
        for (const varbind of varbinds.flat() as snmp.Varbind[]) {
          if (snmp.isVarbindError(varbind)) continue
          const value = plain(varbind)
          if (value !== null) values.set(varbind.oid, value)
        }
        // A device that never stops counting up is cut off: `true` ends the walk.
        return values.size > MOST_OBJECTS
      },
      (error: Error | null) => {
        if (error !== null && error !== undefined) return fail(error)
        clearTimeout(deadline)
        resolve({ kind: 'walked', values })
      },
    )
  })
}

function plain(varbind: snmp.Varbind): string | number | null {
  const value: unknown = varbind.value
  if (typeof value === 'number' || typeof value === 'string') return value
  return Buffer.isBuffer(value) ? value.toString('utf8') : null
}

function explain(error: Error, address: string, target: SnmpTarget, timeoutMs: number): Failure {
  const code = 'code' in error ? String(error.code) : ''
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN')
    return { kind: 'unknownName', host: address.split(':')[0]! }
  if (code === 'ECONNREFUSED') return { kind: 'connectionRefused', address }
  if (/timed out/i.test(error.message)) {
    const hint =
      'community' in target.secret
        ? 'A wrong community looks the same as a device that is off: check the community, the port and the firewall.'
        : 'A wrong password of a v3 user can look the same as a device that is off: check both, the port and the firewall.'
    return { kind: 'timedOut', address, waitedMs: timeoutMs, hint }
  }
  if (/usm|auth|digest|unknown user|decrypt|security/i.test(error.message)) {
    return { kind: 'credentialsRefused', address, detail: error.message }
  }
  return { kind: 'malformed', address, detail: error.message }
}
