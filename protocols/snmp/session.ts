import { createSocket } from 'node:dgram'
import type { EventEmitter } from 'node:events'
import { isIPv6 } from 'node:net'
import snmp from 'net-snmp'
import { z } from 'zod'
import type { Exchange, Failure, Outcome } from '#core/sources'
import { addressOf, connectFailure, errorCode, errorWords, printable } from '#protocols/reach'

const addressPattern =
  /^(?:snmp:\/\/)?(?:\[([^\]\s]+)\]|([^\s/:[\]]+)|([^\s/[\]]*:[^\s/[\]]*:[^\s/[\]]*))(?::(\d{1,5}))?$/

/** How a user of v3 signs: HMAC-MD5-96 and HMAC-SHA-96 (RFC 3414 §6, §7) are for gear of old; SHA-2 is RFC 7860. */
export const AUTHENTICATIONS = ['md5', 'sha', 'sha224', 'sha256', 'sha384', 'sha512'] as const
/** And how it encrypts: not at all (authNoPriv), or by AES (RFC 3826). CBC-DES (RFC 3414 §8) is in no current library. */
export const PRIVACIES = ['none', 'aes', 'aes256b', 'aes256r'] as const

export const snmpTarget = z.object({
  address: z.string().trim().regex(addressPattern, 'The address is a host, with :port if it is not 161'),
  settings: z.object({
    version: z.enum(['v1', 'v2c', 'v3']),
    authentication: z.enum(AUTHENTICATIONS).default('sha256'),
    privacy: z.enum(PRIVACIES).default('aes'),
  }),
  secret: z.union([
    z.object({ community: z.string().min(1) }),
    z.object({
      username: z.string().min(1),
      authPassword: z.string().min(8),
      /** Empty where the agent encrypts nothing. */
      privPassword: z.union([z.literal(''), z.string().min(8)]),
    }),
  ]),
})
export type SnmpTarget = z.infer<typeof snmpTarget>

export function snmpEndpoint({ address }: Pick<SnmpTarget, 'address'>): { host: string; port: number } {
  const [, bracketed, name, bare, port = '161'] = addressPattern.exec(address) ?? []
  return { host: bracketed ?? name ?? bare ?? '', port: Number(port) }
}

export type Level = 'full' | 'authOnly'

/**
 * One session: v1 (RFC 1157), v2c (RFC 3416), v3 with users (RFC 3414; RFC 7860 for SHA-2, RFC 3826 for AES).
 * @param level `authOnly` leaves privacy out, to see which of the two passwords is wrong
 */
export function openSession(target: SnmpTarget, timeoutMs: number, level: Level = 'full'): snmp.Session {
  const { host, port } = snmpEndpoint(target)
  const common = {
    port,
    retries: 1,
    timeout: Math.floor(timeoutMs / 2),
    backwardsGetNexts: true,
    transport: isIPv6(host) ? ('udp6' as const) : ('udp4' as const),
  }
  if ('community' in target.secret) {
    const version = target.settings.version === 'v1' ? snmp.Version1 : snmp.Version2c
    return snmp.createSession(host, target.secret.community, { ...common, version })
  }
  const { username, authPassword, privPassword } = target.secret
  const user = {
    name: username,
    authProtocol: snmp.AuthProtocols[target.settings.authentication],
    authKey: authPassword,
  }
  const { privacy } = target.settings
  return snmp.createV3Session(
    host,
    level === 'authOnly' || privacy === 'none'
      ? { ...user, level: snmp.SecurityLevel.authNoPriv }
      : {
          ...user,
          level: snmp.SecurityLevel.authPriv,
          privProtocol: snmp.PrivProtocols[privacy],
          privKey: privPassword,
        },
    { ...common, version: snmp.Version3 },
  )
}

/** A value as SNMP has it; a 64-bit counter as `bigint`, octets as they are. */
export type Value = string | number | bigint | Buffer
/** What was read, by object identifier in dotted form without a leading dot. */
export type Objects = ReadonlyMap<string, Value>

export class SnmpError extends Error {}

/** Asks for some objects by GET; those that are not there are left out. @throws SnmpError */
export function getObjects(
  session: snmp.Session,
  oids: readonly string[],
  timeoutMs: number,
): Promise<Objects> {
  return withDeadline(session, timeoutMs, (done) => {
    session.get([...oids], (error, varbinds) => {
      if (error !== null) return done(error)
      const values = new Map<string, Value>()
      for (const varbind of varbinds ?? []) keep(values, varbind as snmp.Varbind)
      done(null, values)
    })
  })
}

const MOST_OBJECTS = 20_000
const TOGETHER = 25

/**
 * Everything below an object, by GetBulk (GetNext for v1). The deadline is for all of it; what comes after it is not
 * waited for.
 * @throws SnmpError
 */
export function walkObjects(session: snmp.Session, oid: string, timeoutMs: number): Promise<Objects> {
  const values = new Map<string, Value>()
  return withDeadline(session, timeoutMs, (done) => {
    session.subtree(
      oid,
      TOGETHER,
      (varbinds: unknown[]) => {
        const found = varbinds.flat() as snmp.Varbind[]
        for (const varbind of found) keep(values, varbind)
        // `true` ends the walk: when nothing comes after it (endOfMibView has the name that was asked for, RFC 3416
        // §4.2.2, and would be asked for again and again), and when a device never stops counting up.
        return found.some((varbind) => snmp.isVarbindError(varbind)) || values.size > MOST_OBJECTS
      },
      (error: Error | null | undefined) => (error ? done(error) : done(null, values)),
    )
  })
}

/** A session is an emitter; its types tell only half of it. */
const errorsOf = (session: snmp.Session): EventEmitter => session as unknown as EventEmitter

function withDeadline(
  session: snmp.Session,
  timeoutMs: number,
  work: (done: (error: Error | null, values?: Objects) => void) => void,
): Promise<Objects> {
  return new Promise((resolve, reject) => {
    const fail = (error: Error): void => {
      clearTimeout(deadline)
      errorsOf(session).removeListener('error', fail)
      reject(asSnmpError(error))
    }
    const deadline = setTimeout(() => fail(new Error('Request timed out')), timeoutMs)
    errorsOf(session).on('error', fail)
    work((error, values) => {
      if (error !== null) return fail(error)
      clearTimeout(deadline)
      errorsOf(session).removeListener('error', fail)
      resolve(values!)
    })
  })
}

const asSnmpError = (error: Error): SnmpError => new SnmpError(error.message, { cause: error })

const COUNTER64 = snmp.ObjectType.Counter64

function keep(values: Map<string, Value>, varbind: snmp.Varbind): void {
  if (snmp.isVarbindError(varbind)) return
  const value: unknown = varbind.value
  if (Buffer.isBuffer(value)) {
    // The library gives 64-bit counters as their octets (RFC 2578 §7.1.10).
    values.set(varbind.oid, varbind.type === COUNTER64 ? unsigned(value) : value)
  } else if (typeof value === 'number' || typeof value === 'string' || typeof value === 'bigint')
    values.set(varbind.oid, value)
}

const unsigned = (bytes: Buffer): bigint => (bytes.length === 0 ? 0n : BigInt(`0x${bytes.toString('hex')}`))

/** Octets as text (most are DisplayString, RFC 2579); anything else as it prints. */
export const textOf = (value: Value | undefined): string =>
  value === undefined
    ? ''
    : Buffer.isBuffer(value)
      ? value.toString('utf8').replaceAll('\0', '').trim()
      : String(value).trim()

export const numberOf = (value: Value | undefined): number | null => {
  if (typeof value !== 'number' && typeof value !== 'bigint') return null
  const number = Number(value)
  return Number.isFinite(number) ? number : null
}

/** Why SNMP failed, from its error alone. */
export function failureOf(error: Error, target: SnmpTarget, timeoutMs: number): Failure {
  const endpoint = snmpEndpoint(target)
  const address = addressOf(endpoint)
  const known = connectFailure(errorCode(error), endpoint, timeoutMs)
  if (known !== null) return known
  if (/timed out/i.test(error.message)) {
    const hint =
      'community' in target.secret
        ? 'A wrong community looks the same as a device that is off: check the community, the port and the firewall.'
        : 'A wrong password of a v3 user can look the same as a device that is off: check both, the port and the firewall.'
    return { kind: 'timedOut', address, waitedMs: timeoutMs, hint }
  }
  if (/unknown user ?name/i.test(error.message))
    return {
      kind: 'credentialsRefused',
      address,
      detail: error.message,
      hint: 'This user is not known there: check its spelling, or create it as a read-only user.',
    }
  if (/digest|authentication/i.test(error.message))
    return {
      kind: 'credentialsRefused',
      address,
      detail: error.message,
      hint: 'The authentication password, or its algorithm, is not the one that is set there.',
    }
  if (/decrypt/i.test(error.message))
    return {
      kind: 'credentialsRefused',
      address,
      detail: error.message,
      hint: 'The privacy password, or its algorithm, is not the one that is set there.',
    }
  if (/usm|security|unsupported/i.test(error.message))
    return { kind: 'credentialsRefused', address, detail: error.message }
  if (/authorizationError|noAccess/i.test(error.message))
    return { kind: 'notAllowed', address, what: 'what is asked below 1.3.6.1.2.1' }
  return { kind: 'malformed', address, detail: printable(error.message) }
}

/** Watches one question, so that a check can show it. */
export async function traced<Result>(
  rest: { readonly trace: ((exchange: Exchange) => void) | undefined; readonly sent: string },
  work: () => Promise<Result>,
  describe: (result: Result) => string,
): Promise<Result> {
  const startedMs = performance.now()
  const tell = (received: string, isAccepted: boolean): void =>
    rest.trace?.({ sent: rest.sent, received, tookMs: performance.now() - startedMs, isAccepted })
  try {
    const result = await work()
    tell(describe(result), true)
    return result
  } catch (error) {
    tell(error instanceof Error ? error.message : 'nothing', false)
    throw error
  }
}

/**
 * Asks an agent for its engine (RFC 3414 §4), which takes no credential. Most agents answer, and a port that nobody
 * listens on is told of by the network; silence proves nothing, since agents of old have no engine.
 */
export async function greetAgent(
  endpoint: { host: string; port: number },
  timeoutMs: number,
): Promise<Outcome<{ isAnswered: boolean; said: string }>> {
  const address = addressOf(endpoint)
  const socket = createSocket(isIPv6(endpoint.host) ? 'udp6' : 'udp4')
  try {
    return await new Promise((resolve) => {
      const deadline = setTimeout(
        () =>
          resolve({
            kind: 'found',
            found: {
              isAnswered: false,
              said: `Nothing came back within ${Math.round(timeoutMs)} ms; an agent of old answers only who it knows.`,
            },
          }),
        timeoutMs,
      )
      const give = (outcome: Outcome<{ isAnswered: boolean; said: string }>): void => {
        clearTimeout(deadline)
        resolve(outcome)
      }
      const fail = (error: Error): void => {
        const failure = connectFailure(errorCode(error), endpoint, timeoutMs)
        give({
          kind: 'failed',
          failure: failure ?? { kind: 'unreachable', address, detail: errorWords(error) },
        })
      }
      socket.once('error', fail)
      socket.once('message', (answer) => {
        if (answer[0] === 0x30)
          give({ kind: 'found', found: { isAnswered: true, said: `An SNMP agent answers on ${address}.` } })
        else
          give({
            kind: 'failed',
            failure: {
              kind: 'otherProtocol',
              address,
              asked: 'SNMP',
              seen: printable(answer.toString('latin1')),
            },
          })
      })
      // A connected socket hears of a refusal (ICMP port unreachable, RFC 1122 §4.1.3.3).
      socket.connect(endpoint.port, endpoint.host, (error?: Error) => {
        if (error) fail(error)
        else socket.send(DISCOVERY)
      })
    })
  } finally {
    socket.close()
  }
}

const tlv = (tag: number, ...content: Buffer[]): Buffer => {
  const body = Buffer.concat(content)
  return Buffer.concat([Buffer.from([tag, body.length]), body])
}
const integer = (...bytes: number[]): Buffer => tlv(0x02, Buffer.from(bytes))
const octets = (bytes: Buffer = Buffer.alloc(0)): Buffer => tlv(0x04, bytes)

/** An SNMPv3 message without user, engine or objects, that asks for a report (RFC 3412 §6, RFC 3414 §4). */
const DISCOVERY = tlv(
  0x30,
  integer(3),
  tlv(0x30, integer(0x1a, 0x2b, 0x3c), integer(0x00, 0xff, 0xe3), octets(Buffer.from([4])), integer(3)),
  octets(tlv(0x30, octets(), integer(0), integer(0), octets(), octets(), octets())),
  tlv(0x30, octets(), octets(), tlv(0xa0, integer(1), integer(0), integer(0), tlv(0x30))),
)
