import type { Failure } from '#core/sources'
import type { Driver } from '#protocols/driver'
import { addressOf } from '#protocols/reach'
import {
  failureOf,
  getObjects,
  greetAgent,
  openSession,
  snmpEndpoint,
  type SnmpTarget,
  snmpTarget,
  SnmpError,
  traced,
  type Value,
  walkObjects,
} from './session.ts'
import { agentFindings, SYSTEM_TREE } from './agent.ts'
import { DISK_WALKS, HOST_WALKS } from './host.ts'
import { INTERFACE_WALKS } from './interfaces.ts'
import { NEIGHBOUR_WALKS } from './neighbours.ts'
import { SENSOR_WALKS } from './sensors.ts'
import { UPS_TREE } from './ups.ts'

const MIB_2 = '1.3.6.1.2.1'
const REST = [...HOST_WALKS, ...DISK_WALKS, ...INTERFACE_WALKS, ...SENSOR_WALKS, ...NEIGHBOUR_WALKS]
/** Walks that are under way together on one session. */
const AT_ONCE = 4
const SYS_OBJECT_ID = '1.3.6.1.2.1.1.2.0'
const PROBE_MS = 1500

/** Whatever an SNMP agent has that is known here. */
export const snmpAgent: Driver = {
  protocol: 'snmp',
  reach(target) {
    const trust = { authorityPem: null, fingerprint: null }
    return { ...snmpEndpoint(snmpTarget.parse(target)), transport: 'udp', trust }
  },
  async greet(target, timeoutMs) {
    const greeted = await greetAgent(snmpEndpoint(snmpTarget.parse(target)), Math.min(PROBE_MS, timeoutMs))
    return greeted.kind === 'failed' ? greeted : { kind: 'found', found: greeted.found.said }
  },
  async collect({ target, timeoutMs, trace }) {
    const parsed = snmpTarget.parse(target)
    const address = addressOf(snmpEndpoint(parsed))
    if (lacksPrivacy(parsed))
      return {
        kind: 'failed',
        failure: {
          kind: 'credentialsRefused',
          address,
          detail: 'it was not asked: what is said is to be encrypted, and its user has no privacy password',
          hint: 'Enter the privacy password; or choose the privacy “none”, if the agent encrypts nothing.',
        },
      }
    const untilMs = performance.now() + timeoutMs
    const left = (): number => Math.max(1, untilMs - performance.now())
    const session = openSession(parsed, timeoutMs)
    try {
      await traced(
        { trace, sent: `GET sysObjectID (${SYS_OBJECT_ID}) as ${whoOf(parsed)}` },
        () => getObjects(session, [SYS_OBJECT_ID], left()),
        (objects) => String(objects.get(SYS_OBJECT_ID) ?? 'no such object'),
      )
      const objects = new Map<string, Value>()
      await traced(
        { trace, sent: `walks of what is known here below ${MIB_2}` },
        async () => {
          // Most agents have few of these trees; one that is not there costs a single answer.
          for (const found of await Promise.all(
            [SYSTEM_TREE, UPS_TREE].map((tree) => walkObjects(session, tree, left())),
          ))
            for (const [oid, value] of found) objects.set(oid, value)
          if (![...objects.keys()].some((oid) => oid.startsWith(`${UPS_TREE}.`)))
            await walkSome(session, REST, left, objects)
          return objects
        },
        (found) => `${found.size} objects`,
      )
      const found = agentFindings(objects)
      if (found !== null) return { kind: 'found', found }
      return {
        kind: 'failed',
        failure: {
          kind: 'unsupported',
          address,
          detail: `it answers SNMP, but has none of the trees that are read here (UPS, host, ports, sensors)`,
          hint: 'The account may be kept from them by a view: let it read all of 1.3.6.1.2.1.',
        },
      }
    } catch (error) {
      if (!(error instanceof SnmpError)) throw error
      return { kind: 'failed', failure: failureOf(error, parsed, timeoutMs) }
    } finally {
      session.close()
    }
  },
  async explain({ target, timeoutMs, failure }) {
    return failure.kind === 'timedOut'
      ? explainSilence(snmpTarget.parse(target), timeoutMs, failure)
      : failure
  },
}

/** What was to be encrypted does not go out in clear for want of a password. */
const lacksPrivacy = ({ secret, settings }: SnmpTarget): boolean =>
  'privPassword' in secret && secret.privPassword === '' && settings.privacy !== 'none'

async function walkSome(
  session: ReturnType<typeof openSession>,
  trees: readonly string[],
  left: () => number,
  into: Map<string, Value>,
): Promise<void> {
  const queue = [...trees]
  const work = async (): Promise<void> => {
    for (let tree = queue.shift(); tree !== undefined; tree = queue.shift())
      for (const [oid, value] of await walkObjects(session, tree, left())) into.set(oid, value)
  }
  await Promise.all(Array.from({ length: AT_ONCE }, work))
}

const whoOf = ({ settings, secret }: SnmpTarget): string =>
  'community' in secret ? `${settings.version} with a community` : `v3 user ${secret.username}`

/** An agent drops what it cannot verify. What it answers without, or with less, tells which of them it was. */
async function explainSilence(
  target: SnmpTarget,
  timeoutMs: number,
  failure: Failure & { kind: 'timedOut' },
): Promise<Failure> {
  const endpoint = snmpEndpoint(target)
  const address = addressOf(endpoint)
  const greeted = await greetAgent(endpoint, Math.min(PROBE_MS, timeoutMs))
  if (greeted.kind === 'failed') return greeted.failure
  if (!greeted.found.isAnswered) return { ...failure, kind: 'filtered' }
  if ('community' in target.secret)
    return {
      kind: 'credentialsRefused',
      address,
      detail: `an agent is there, and says nothing to this community by ${target.settings.version}`,
      hint: 'Check the community, that this version is switched on there, and that this machine may ask it.',
    }
  const session = openSession(target, timeoutMs, 'authOnly')
  try {
    await getObjects(session, [SYS_OBJECT_ID], timeoutMs)
  } catch (error) {
    const second = failureOf(error as Error, target, timeoutMs)
    // “authorizationError” and the like come only after the digest was found right.
    if (second.kind === 'credentialsRefused' && /digest|user/i.test(second.detail)) return second
    // Who is not known is told so; who is, and signs wrongly, may be dropped without a word.
    if (second.kind === 'timedOut')
      return {
        kind: 'credentialsRefused',
        address,
        detail: 'an agent is there, and drops what is signed by this user',
        hint: 'The authentication password, or its algorithm, is not the one that is set there.',
      }
  } finally {
    session.close()
  }
  return {
    kind: 'credentialsRefused',
    address,
    detail: 'user and authentication password are right, and what is encrypted is not understood',
    hint: 'The privacy password, or its algorithm, is not the one that is set there.',
  }
}
