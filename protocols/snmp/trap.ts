import { createSocket, type Socket } from 'node:dgram'
import { isIP } from 'node:net'
import snmp from 'net-snmp'
import { printable } from '#protocols/reach'
import type { AUTHENTICATIONS, PRIVACIES } from './session.ts'

/** A notification in words. */
export interface Trap {
  /** Its object identifier, of a v1 trap as RFC 3584 §3.1 translates it. */
  readonly oid: string
  /** As of syslog, 0 emergency to 7 debug. */
  readonly severity: number
  readonly text: string
  /** `ifIndex` of the interface it is about (RFC 2863); `null` where it names none. */
  readonly interfaceIndex: string | null
  /** Whose it is, where it says so: a relay sends those of others (RFC 3584 §3.1). */
  readonly agent: string | null
}

const SNMP_TRAPS = '1.3.6.1.6.3.1.1.5'
const UPS_TRAPS = '1.3.6.1.2.1.33.2'
const TRAP_OID = '1.3.6.1.6.3.1.1.4.1.0'
const UP_TIME = '1.3.6.1.2.1.1.3.0'
/** `snmpTrapAddress` and `snmpTrapCommunity` of RFC 3584 §3.1: the latter is shown to nobody. */
const TRAP_ADDRESS = '1.3.6.1.6.3.18.1.3.0'
const TRAP_COMMUNITY = '1.3.6.1.6.3.18.1.4.0'

/** RFC 3418 §2 `snmpTraps`, RFC 2863 §6 `linkDown` and `linkUp`, RFC 1628 §3 `upsTraps`. */
const KNOWN: ReadonlyMap<string, readonly [words: string, severity: number]> = new Map([
  [`${SNMP_TRAPS}.1`, ['it started anew (coldStart)', 5]],
  [`${SNMP_TRAPS}.2`, ['it started again (warmStart)', 5]],
  [`${SNMP_TRAPS}.3`, ['a link went down (linkDown)', 4]],
  [`${SNMP_TRAPS}.4`, ['a link came up (linkUp)', 5]],
  [`${SNMP_TRAPS}.5`, ['somebody asked it with a wrong community or user (authenticationFailure)', 4]],
  [`${UPS_TRAPS}.0.1`, ['it runs on battery (upsTrapOnBattery)', 2]],
  [`${UPS_TRAPS}.0.2`, ['its battery test is over (upsTrapTestCompleted)', 6]],
  [`${UPS_TRAPS}.0.3`, ['an alarm of its own began (upsTrapAlarmEntryAdded)', 4]],
  [`${UPS_TRAPS}.0.4`, ['an alarm of its own is over (upsTrapAlarmEntryRemoved)', 5]],
])
/** RFC 1628 has its traps at `upsTraps` 1 to 4, which v1 agents send with a 0 in between. */
const canonical = (oid: string): string =>
  oid.startsWith(`${UPS_TRAPS}.`) && oid.split('.').length === 9
    ? `${UPS_TRAPS}.0.${oid.split('.').at(-1)}`
    : oid

/** Objects that come along with these notifications, by their column. */
const OBJECTS: Readonly<Record<string, string>> = {
  '1.3.6.1.2.1.2.2.1.1': 'ifIndex',
  '1.3.6.1.2.1.2.2.1.2': 'ifDescr',
  '1.3.6.1.2.1.2.2.1.7': 'ifAdminStatus',
  '1.3.6.1.2.1.2.2.1.8': 'ifOperStatus',
  '1.3.6.1.2.1.31.1.1.1.1': 'ifName',
  '1.3.6.1.2.1.33.1.2.3': 'upsEstimatedMinutesRemaining',
  '1.3.6.1.2.1.33.1.2.2': 'upsSecondsOnBattery',
  '1.3.6.1.2.1.33.1.6.2.1.1': 'upsAlarmId',
  '1.3.6.1.2.1.33.1.6.2.1.2': 'upsAlarmDescr',
}

interface Varbind {
  readonly oid?: unknown
  readonly value?: unknown
}
/** What the library makes of a received PDU. Nothing in it is taken for granted. */
export interface TrapPdu {
  readonly varbinds?: unknown
  readonly enterprise?: unknown
  readonly agentAddr?: unknown
  readonly generic?: unknown
  readonly specific?: unknown
}

const MOST_OBJECTS = 20

/** A received notification in words: what it is, and the objects that came with it. Never throws. */
export function trapOf(pdu: TrapPdu): Trap {
  const given = (Array.isArray(pdu.varbinds) ? pdu.varbinds : []) as Varbind[]
  const objects = given.flatMap(({ oid, value }) => (typeof oid === 'string' ? [{ oid, value }] : []))
  const named = objects.find((each) => each.oid === TRAP_OID)?.value
  const oid = canonical(typeof named === 'string' && named !== '' ? named : firstVersionOid(pdu))
  const [words, severity] = KNOWN.get(oid) ?? [`notification ${oid}`, 5]
  const rest = objects
    .filter((each) => ![TRAP_OID, UP_TIME, TRAP_ADDRESS, TRAP_COMMUNITY].includes(each.oid))
    .slice(0, MOST_OBJECTS)
    .map((each) => `${nameOf(each.oid)} ${wordsOf(nameOf(each.oid), each.value)}`)
  const told = [pdu.agentAddr, objects.find((each) => each.oid === TRAP_ADDRESS)?.value]
  const agent = told.find(
    (each): each is string => typeof each === 'string' && isIP(each) > 0 && each !== '0.0.0.0',
  )
  return {
    oid,
    severity,
    text: rest.length === 0 ? words : `${words}: ${rest.join(', ')}`,
    interfaceIndex: interfaceOf(objects),
    agent: agent ?? null,
  }
}

function firstVersionOid({ enterprise, generic, specific }: TrapPdu): string {
  if (typeof generic === 'number' && generic >= 0 && generic <= 5) return `${SNMP_TRAPS}.${generic + 1}`
  return `${typeof enterprise === 'string' ? enterprise : '0.0'}.0.${Number(specific) || 0}`
}

function nameOf(oid: string): string {
  const column = Object.keys(OBJECTS).find((each) => oid === each || oid.startsWith(`${each}.`))
  return column === undefined ? oid : OBJECTS[column]!
}

/** The interface that its objects are of: columns of `ifTable` and `ifXTable` are indexed by it. */
function interfaceOf(objects: readonly { readonly oid: string }[]): string | null {
  for (const { oid } of objects) {
    const index = /^1\.3\.6\.1\.2\.1\.(?:2\.2\.1|31\.1\.1\.1)\.\d+\.(\d{1,10})$/.exec(oid)?.[1]
    if (index !== undefined) return index
  }
  return null
}

/** RFC 2863 §6, `ifAdminStatus` and `ifOperStatus`. */
const STATUS = ['up', 'down', 'testing', 'unknown', 'dormant', 'notPresent', 'lowerLayerDown']

const wordsOf = (name: string, value: unknown): string =>
  (/^if(Admin|Oper)Status$/.test(name) ? STATUS[Number(value) - 1] : undefined) ?? valueText(value)

function valueText(value: unknown): string {
  if (!Buffer.isBuffer(value)) return printable(String(value))
  const text = value.toString('utf8')
  // eslint-disable-next-line no-control-regex -- octets that are no text are shown as numbers
  return /^[^\u0000-\u001f\ufffd]*$/.test(text)
    ? `“${printable(text)}”`
    : value.subarray(0, 32).toString('hex')
}

export interface TrapUser {
  readonly username: string
  readonly authPassword: string
  readonly privPassword: string
  readonly authentication: (typeof AUTHENTICATIONS)[number]
  readonly privacy: (typeof PRIVACIES)[number]
}

interface Received {
  readonly pdu: TrapPdu
  readonly rinfo: { readonly address: string }
}

/**
 * Receives SNMP notifications, v1 (RFC 1157), v2c and informs (RFC 3416), and v3 of known users (RFC 3414).
 * @param heard told of each, with the address it came from
 * @param refused told why one could not be read: an unknown user, a wrong digest, no SNMP at all
 */
export async function startTrapReceiver(options: {
  readonly port: number
  readonly address: string
  readonly heard: (trap: Trap, from: string) => void
  readonly refused: (reason: string, from: string) => void
}): Promise<{ port: number; setUsers(users: readonly TrapUser[]): void; close(): void }> {
  let socket: Socket | null = null
  const receiver = snmp.createReceiver(
    {
      port: options.port,
      address: options.address,
      transport: options.address.includes(':') ? 'udp6' : 'udp4',
      disableAuthorization: false,
      dgramModule: {
        createSocket(type: 'udp4' | 'udp6') {
          socket = guarded(createSocket(type), options.refused)
          return socket
        },
      },
    },
    (error: (Error & { rinfo?: { address: string } }) | null, received: Received) => {
      if (error === null) options.heard(trapOf(received.pdu), received.rinfo.address)
      else options.refused(error.message, error.rinfo?.address ?? '')
    },
  ) as {
    getAuthorizer(): { communities: unknown; users: { name: string }[]; addUser(user: object): void }
    close(): void
  }
  // Any community: it proves nothing, since it goes over the wire in the open. The library's own switch for that would
  // let v3 users in with any password, too.
  receiver.getAuthorizer().communities = { filter: () => ['any'] }
  const own = socket as Socket | null
  if (own === null) throw new Error('no socket was made')
  await new Promise<void>((resolve, reject) => {
    own.once('listening', resolve)
    own.once('error', reject)
  })
  return {
    port: own.address().port,
    setUsers(users) {
      const authorizer = receiver.getAuthorizer()
      authorizer.users.length = 0
      for (const user of users)
        authorizer.addUser({
          name: user.username,
          authProtocol: snmp.AuthProtocols[user.authentication],
          authKey: user.authPassword,
          ...(user.privacy === 'none'
            ? { level: snmp.SecurityLevel.authNoPriv }
            : {
                level: snmp.SecurityLevel.authPriv,
                privProtocol: snmp.PrivProtocols[user.privacy],
                privKey: user.privPassword,
              }),
        })
    },
    close: () => receiver.close(),
  }
}

/** The library throws out of its handler for some datagrams: that must not take the process along. */
function guarded(socket: Socket, refused: (reason: string, from: string) => void): Socket {
  const on = socket.on.bind(socket) as (event: string, listener: (...given: never[]) => void) => Socket
  socket.on = ((event: string, listener: (...given: unknown[]) => void) =>
    event !== 'message'
      ? on(event, listener)
      : on(event, (...given: unknown[]) => {
          try {
            listener(...given)
          } catch (error) {
            refused(String(error), (given[1] as { address: string }).address)
          }
        })) as typeof socket.on
  return socket
}
