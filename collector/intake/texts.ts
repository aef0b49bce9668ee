import { BlockList, createServer, type Server, type Socket } from 'node:net'
import { createSocket, type Socket as UdpSocket } from 'node:dgram'
import { type Db, isServerAway, readTextsSetting } from '#db/platform'
import { Networks, plainAddress } from '#protocols/reach'
import { requestCheck } from '#db/sources'
import { insertTexts, portsByIndex, keepTextsWithin, type NewText, whoIsWho, countRefused } from '#db/logs'
import { startTrapReceiver, type Trap, type TrapUser } from '#protocols/snmp'
import { FramingError, parseSyslog, SyslogFrames } from '#protocols/syslog'
import { log } from '../platform/log.ts'
import { findProtocol } from '#protocols/registry'
import { storable } from '#core/logs'

const FLUSH_MS = 400
/** What one device may say in a minute; the rest is counted. Many may speak through one relay. */
const MOST_A_MINUTE = 12_000
const MOST_SPEAKERS = 5000
const MOST_WAITING = 20_000
/** After so many lines it is looked whether all together is more than may be kept. */
const LINES_BETWEEN_BOUNDS = 50_000
const MOST_CONNECTIONS = 200
const IDLE_MS = 600_000

/** A text as it has been stored. */
export type StoredText = NewText

interface Said extends Omit<NewText, 'sourceId' | 'gearId' | 'times'> {
  /** Whose it says that it is, by address: a relay sends the notifications of others (RFC 3584 §3.1). */
  readonly agent?: string | null
  /** `ifIndex` of the interface that a notification is about. */
  readonly interfaceIndex?: string | null
}

/** Listens to what devices say by themselves, and stores it with the gear that said it. */
export class Texts {
  #waiting: Said[] = []
  #times = new Map<Said, number>()
  /** Of each speaker what was said last, of what waits. */
  #last = new Map<string, Said>()
  #minute = 0
  #counts = new Map<string, number>()
  #sinceBounded = 0
  /** When each source was asked for the sake of a notification. */
  readonly #askedMs = new Map<number, number>()
  #flushing: Promise<void> = Promise.resolve()
  #timer: NodeJS.Timeout | null = null
  #isClosed = false

  constructor(
    private readonly db: Db,
    /** What becomes of texts once they are stored. */
    private readonly stored: (texts: readonly StoredText[]) => Promise<void> = () => Promise.resolve(),
    /** Told of a notification from where nothing is asked. */
    private readonly turnedAway: (address: string, reason: string) => void = () => undefined,
  ) {}

  /** Takes a text. What is the same as the one before it from there is counted; what is too much is, too. */
  take(heard: Said): void {
    const said = cleaned(heard)
    const minute = Math.floor(said.heardAt.getTime() / 60_000)
    if (minute !== this.#minute) {
      for (const [address, count] of this.#counts)
        if (count > MOST_A_MINUTE)
          log.warn({ address, left: count - MOST_A_MINUTE }, 'a device says more than is kept of it')
      this.#minute = minute
      this.#counts = new Map()
    }
    // Who makes up names all the time is one.
    const speaker =
      this.#counts.size > MOST_SPEAKERS ? said.address : `${said.address} ${said.host ?? ''}`.trim()
    const count = (this.#counts.get(speaker) ?? 0) + 1
    this.#counts.set(speaker, count)
    if (count > MOST_A_MINUTE || this.#waiting.length >= MOST_WAITING) return
    const same = this.#last.get(speaker)
    if (same !== undefined && same.body === said.body && same.kind === said.kind && same.app === said.app)
      this.#times.set(same, (this.#times.get(same) ?? 1) + 1)
    else {
      this.#waiting.push(said)
      this.#last.set(speaker, said)
    }
    this.#timer ??= setTimeout(() => void this.flush(), FLUSH_MS)
  }

  /** Stores what waits. While the database is away it goes on waiting, up to a limit. */
  flush(): Promise<void> {
    if (this.#timer !== null) clearTimeout(this.#timer)
    this.#timer = null
    this.#flushing = this.#flushing.then(async () => {
      const [texts, times] = [this.#waiting, this.#times]
      if (texts.length === 0) return
      this.#waiting = []
      this.#times = new Map()
      this.#last = new Map()
      try {
        await this.#store(texts, times)
      } catch (error) {
        log.warn({ reason: String(error), texts: texts.length }, 'what devices said could not be stored')
        if (!isServerAway(error)) return
        this.#waiting = [...texts, ...this.#waiting].slice(0, MOST_WAITING)
        this.#times = new Map([...times, ...this.#times])
        if (!this.#isClosed) this.#timer ??= setTimeout(() => void this.flush(), 5000)
      }
    })
    return this.#flushing
  }

  async close(): Promise<void> {
    this.#isClosed = true
    await this.flush()
  }

  /** All at once; where the database refuses that, one by one, so that one line takes no other with it. */
  async #insert(texts: readonly NewText[]): Promise<readonly NewText[]> {
    try {
      await insertTexts(this.db, texts)
      return texts
    } catch (error) {
      if (isServerAway(error)) throw error
    }
    const stored: NewText[] = []
    let reason = ''
    for (const text of texts)
      try {
        await insertTexts(this.db, [text])
        stored.push(text)
      } catch (error) {
        if (isServerAway(error)) throw error
        reason = String(error)
      }
    const refused = texts.length - stored.length
    if (refused > 0) {
      log.warn({ reason, refused }, 'lines could not be stored')
      await countRefused(this.db, refused, Date.now())
    }
    return stored
  }

  async #store(texts: readonly Said[], times: ReadonlyMap<Said, number>): Promise<void> {
    const [known, { relays }] = await Promise.all([whoIsWho(this.db), readTextsSetting(this.db)])
    const networks = networksOf(relays)
    const all: NewText[] = []
    const interfaces = new Map<NewText, string>()
    for (const said of texts) {
      const { agent: _, interfaceIndex, ...text } = credited(said, networks)
      const isRelayed = networks.includes(said.address)
      if (text.kind === 'trap' && !isRelayed && sourcesAt(said.address, known).length === 0)
        this.turnedAway(said.address, 'no source is at this address, and it is no relay')
      else {
        const whole = { ...text, ...ownerOf({ ...text, isRelayed }, known), times: times.get(said) ?? 1 }
        all.push(whole)
        if (interfaceIndex != null) interfaces.set(whole, interfaceIndex)
      }
    }
    const placed = await this.#insert(await this.#named(all, interfaces))
    await this.#keepWithin(placed.length)
    await this.stored(placed)
    // A notification says that something changed: its source is read at once, and not more often than at its interval.
    for (const { id, intervalSeconds } of known.sources)
      if (placed.some(({ kind, sourceId }) => kind === 'trap' && sourceId === id))
        await this.#readSoon(id, intervalSeconds * 1000)
  }

  /** What is about an interface begins with the name that the gear has for it: an index tells nobody anything. */
  async #named(all: readonly NewText[], interfaces: ReadonlyMap<NewText, string>): Promise<NewText[]> {
    const gearIds = new Set([...interfaces.keys()].flatMap(({ gearId }) => gearId ?? []))
    const ports = await portsByIndex(this.db, [...gearIds])
    return all.map((text) => {
      const port = ports.get(`${text.gearId} ${interfaces.get(text)}`)
      return port === undefined
        ? text
        : { ...text, body: storable(`${port}: ${text.body}`, LONGEST.body, true) }
    })
  }

  /** What is kept is bounded while it comes, too, and not once a day only. */
  async #keepWithin(count: number): Promise<void> {
    this.#sinceBounded += count
    if (this.#sinceBounded < LINES_BETWEEN_BOUNDS) return
    this.#sinceBounded = 0
    const gone = await keepTextsWithin(this.db, await readTextsSetting(this.db), Date.now())
    if (gone > 0) log.warn({ lines: gone }, 'more is said than is kept: the oldest lines went')
  }

  async #readSoon(sourceId: number, intervalMs: number): Promise<void> {
    const nowMs = performance.now()
    if (nowMs - (this.#askedMs.get(sourceId) ?? -Infinity) < intervalMs) return
    this.#askedMs.set(sourceId, nowMs)
    await requestCheck(this.db, sourceId, new Date())
  }
}

/** What was written down wrongly relays for nobody. */
function networksOf(relays: readonly string[]): Networks {
  try {
    return new Networks(relays)
  } catch (error) {
    log.warn({ reason: String(error) }, 'the relays of what devices say cannot be used')
    return new Networks([])
  }
}

/** From a relay it is of whom it says it is of; from anybody else that is shown only. */
function credited(said: Said, relays: Networks): Said {
  if (said.agent == null) return said
  return relays.includes(said.address)
    ? { ...said, address: said.agent }
    : { ...said, host: said.host ?? (said.agent === said.address ? null : said.agent) }
}

/** So long are a host's name (RFC 5424 §6.2.4), the name of an application, and what is said at most. */
const LONGEST = { host: 255, app: 255, body: 8192 } as const

const cleaned = (said: Said): Said => ({
  ...said,
  host: said.host === null ? null : storable(said.host, LONGEST.host) || null,
  app: said.app === null ? null : storable(said.app, LONGEST.app) || null,
  body: storable(said.body, LONGEST.body, true),
})

type Known = Awaited<ReturnType<typeof whoIsWho>>

/**
 * The source at the address that a text came from, and its gear; of several gear of one source that which has the name in
 * the text, or none. Of what a relay passed on the name alone counts. A name from anybody else is shown and proves nothing.
 */
export function ownerOf(
  said: Pick<Said, 'address' | 'host'> & { readonly isRelayed: boolean },
  known: Known,
): { sourceId: number | null; gearId: number | null } {
  const host = said.host?.toLowerCase() ?? ''
  const hasName = ({ name }: Known['gear'][number]): boolean =>
    host !== '' && [host, host.split('.')[0]].includes(name.toLowerCase())
  const there = sourcesAt(said.address, known)
  if (said.isRelayed && host !== '') {
    const named = known.gear.find(hasName)
    const seeing = named && known.sources.find(({ gearIds }) => gearIds.includes(named.id))
    return { sourceId: seeing?.id ?? null, gearId: named?.id ?? null }
  }
  const asked = there.filter(({ protocol }) => findProtocol(protocol)?.descriptor.isNotifying === true)
  const source = asked.length === 1 ? asked[0] : there.length === 1 ? there[0] : undefined
  const gearIds = new Set((source === undefined ? there : [source]).flatMap((each) => each.gearIds))
  const named = known.gear.find((gear) => gearIds.has(gear.id) && hasName(gear))
  return {
    sourceId: source?.id ?? null,
    gearId: named?.id ?? (gearIds.size === 1 ? [...gearIds][0]! : null),
  }
}

const sourcesAt = (address: string, known: Known): Known['sources'] =>
  known.sources.filter((source) => isSameHost(hostOf(source.address), address))

/** The host in an address of any source. */
function hostOf(address: string): string {
  const bare = address.replace(/^[a-z+]+:\/\//i, '').split('/')[0]!
  return (/^\[([^\]]+)\]/.exec(bare)?.[1] ?? bare.replace(/:\d+$/, '')).toLowerCase()
}

function isSameHost(host: string, address: string): boolean {
  const plain = plainAddress(address)
  if (host === plain) return true
  if (!plain.includes(':') || !host.includes(':')) return false
  const list = new BlockList()
  try {
    list.addAddress(host, 'ipv6')
  } catch {
    return false
  }
  return list.check(plain, 'ipv6')
}

/** Syslog by UDP (RFC 5426) and by TCP (RFC 6587) on one port. */
export async function startSyslog(
  options: { readonly port: number; readonly address: string },
  take: (said: Said) => void,
): Promise<{ port: number; close(): void }> {
  const heard = (bytes: Uint8Array, address: string): void => {
    const said = saidBySyslog(bytes, address)
    if (said !== null) take(said)
  }
  const server: Server = createServer((socket) => hearStream(socket, heard))
  server.maxConnections = MOST_CONNECTIONS
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(options.port, options.address, resolve)
  })
  const { port } = server.address() as { port: number }
  const udp: UdpSocket = createSocket({
    type: options.address.includes(':') ? 'udp6' : 'udp4',
    recvBufferSize: 4 << 20,
  })
  udp.on('message', (bytes, { address }) => heard(bytes, address))
  await new Promise<void>((resolve, reject) => {
    udp.once('error', reject)
    udp.bind(port, options.address, resolve)
  })
  return {
    port,
    close() {
      udp.close()
      server.close()
    },
  }
}

/** Elements of RFC 5424 §7 that tell of the sender's clock, software and counting, and nothing of what happened. */
const OF_THE_SENDER = ['timeQuality', 'origin', 'meta']

/** `null` when it says nothing at all. */
function saidBySyslog(bytes: Uint8Array, address: string): Said | null {
  const message = parseSyslog(bytes)
  const data = [...message.data]
    .filter(([id]) => !OF_THE_SENDER.includes(id))
    .map(([id, element]) => `[${id}${[...element].map(([name, value]) => ` ${name}="${value}"`).join('')}]`)
  const body = [message.text, ...data].filter(Boolean).join(' ')
  if (body === '') return null
  return {
    heardAt: new Date(),
    saidAt: message.atMs === null ? null : new Date(message.atMs),
    address: plainAddress(address),
    host: message.host,
    kind: 'syslog',
    severity: message.severity,
    app: message.app,
    body,
  }
}

function hearStream(socket: Socket, heard: (bytes: Uint8Array, address: string) => void): void {
  const frames = new SyslogFrames()
  const from = socket.remoteAddress ?? ''
  socket.setTimeout(IDLE_MS, () => socket.destroy())
  socket.on('error', () => socket.destroy())
  socket.on('data', (data: Buffer) => {
    try {
      for (const message of frames.take(data)) heard(message, from)
    } catch (error) {
      if (!(error instanceof FramingError)) throw error
      log.warn({ address: from, reason: error.message }, 'a stream of syslog was cut off')
      socket.destroy()
    }
  })
  socket.on('end', () => {
    for (const message of frames.finish()) heard(message, from)
  })
}

const saidByTrap = ({ severity, text, agent, interfaceIndex }: Trap, from: string): Said => ({
  interfaceIndex,
  heardAt: new Date(),
  saidAt: null,
  address: plainAddress(from),
  agent,
  host: null,
  kind: 'trap',
  severity,
  app: null,
  body: text,
})

export async function startTraps(
  options: { readonly port: number; readonly address: string },
  take: (said: Said) => void,
): Promise<{ port: number; setUsers(users: readonly TrapUser[]): void; close(): void }> {
  // Anything may come in by UDP: of each minute the first refusal is told.
  let told = 0
  return startTrapReceiver({
    ...options,
    heard: (trap, from) => take(saidByTrap(trap, from)),
    refused(reason, from) {
      if (Date.now() - told < 60_000) return
      told = Date.now()
      log.warn({ address: from, reason }, 'a notification could not be read')
    },
  })
}
