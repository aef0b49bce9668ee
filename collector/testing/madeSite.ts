import type { GearKind, LinkKind, MeasureKey, PartKind } from '#core/catalogue'
import type { Findings } from '#core/gear'

// A site of 300 gear that is made, and what its faults do: who loses power, who is not reached, what gets warm. Its
// physics know nothing of alerts and causes, so that both can be held against them.

export interface MadeGear {
  readonly name: string
  readonly kind: GearKind
  readonly room: 1 | 2
  readonly rack: number | null
  readonly parts: readonly {
    readonly key: string
    readonly kind: PartKind
    readonly facts?: Readonly<Record<string, string>>
  }[]
}

export interface MadeLink {
  readonly kind: LinkKind
  readonly from: string
  readonly fromPart: string | null
  readonly to: string
  readonly toPart: string | null
}

/** What can go wrong, and where. */
export interface MadeFault {
  readonly kind: FaultKind
  readonly gear: string
  readonly part: string | null
}
type FaultKind =
  | 'battery'
  | 'battery low'
  | 'blind controller'
  | 'camera dead'
  | 'drive'
  | 'fan'
  | 'hot spot'
  | 'link'
  | 'machine hangs'
  | 'no cooling'
  | 'no output'
  | 'outlet'
  | 'recorder dead'
  | 'strip tripped'
  | 'supply'
  | 'switch dead'
  | 'switched off'

export const RACKS = 24
const SERVERS_IN_RACK = 5
const RACKS_A_SWITCH = 4
const MACHINES_A_HOST = 3
const CAMERAS = 23
const CAMERAS_A_SWITCH = 4
/** Every fifth server has one cord only. */
const isSingle = (index: number): boolean => index % 5 === 4
const pad = (number: number): string => String(number).padStart(2, '0')
const roomOf = (rack: number): 1 | 2 => (rack <= RACKS / 2 ? 1 : 2)
const switchOf = (rack: number): string => `reef-${Math.ceil(rack / RACKS_A_SWITCH)}`

/** Of one gear what is read: by part and measure; `null` when nothing is heard of it. */
export type Read = ReadonlyMap<string, number> | null
export const signOf = (part: string | null, measure: MeasureKey): string => `${part ?? ''} ${measure}`

export class MadeSite {
  readonly gear: MadeGear[] = []
  readonly links: MadeLink[] = []
  readonly faults: MadeFault[] = []
  readonly #byName: Map<string, MadeGear>

  constructor() {
    this.#power()
    for (let rack = 1; rack <= RACKS; rack += 1) this.#rack(rack)
    this.#cameras()
    this.#air()
    this.#byName = new Map(this.gear.map((each) => [each.name, each]))
  }

  #add(
    name: string,
    kind: GearKind,
    at: { readonly room: 1 | 2; readonly rack?: number },
    parts: MadeGear['parts'] = [],
  ): void {
    this.gear.push({ name, kind, room: at.room, rack: at.rack ?? null, parts })
  }

  #link(
    kind: LinkKind,
    [from, fromPart]: [string, string | null],
    [to, toPart]: [string, string | null],
  ): void {
    this.links.push({ kind, from, fromPart, to, toPart })
  }

  #fault(kind: FaultKind, gear: string, part: string | null = null): void {
    this.faults.push({ kind, gear, part })
  }

  #power(): void {
    for (const room of [1, 2] as const)
      for (const feed of ['A', 'B']) {
        const ups = `harbour-${room}${feed}`
        this.#add(ups, 'ups', { room })
        this.#fault('no output', ups)
        this.#fault('battery', ups)
        this.#fault('battery low', ups)
      }
  }

  #rack(rack: number): void {
    const at = { room: roomOf(rack), rack }
    const outlets = Array.from({ length: SERVERS_IN_RACK + 1 }, (_, index) => ({
      key: `outlet-${index + 1}`,
      kind: 'outlet' as const,
    }))
    for (const feed of ['A', 'B']) {
      const strip = `R${pad(rack)}-${feed}`
      this.#add(strip, 'pdu', at, outlets)
      this.#link('fed-by', [strip, null], [`harbour-${at.room}${feed}`, null])
      this.#fault('strip tripped', strip)
      for (const { key } of outlets) this.#fault('outlet', strip, key)
    }
    if (rack % RACKS_A_SWITCH === 1) this.#switch(rack)
    for (let slot = 1; slot <= SERVERS_IN_RACK; slot += 1) this.#server(rack, slot)
    this.#add(`front-${pad(rack)}`, 'probe', at)
    this.#fault('hot spot', `front-${pad(rack)}`)
  }

  #switch(rack: number): void {
    const name = switchOf(rack)
    const ports = Array.from({ length: RACKS_A_SWITCH * SERVERS_IN_RACK + CAMERAS_A_SWITCH }, (_, index) => ({
      key: `port-${index + 1}`,
      kind: 'port' as const,
    }))
    this.#add(name, 'switch', { room: roomOf(rack), rack }, [
      { key: 'supply-1', kind: 'supply' },
      { key: 'supply-2', kind: 'supply' },
      ...ports,
    ])
    this.#cords(name, rack, SERVERS_IN_RACK + 1, false)
    this.#fault('switch dead', name)
    for (const { key } of ports) this.#fault('link', name, key)
  }

  #cords(name: string, rack: number, outlet: number, single: boolean): void {
    this.#link('fed-by', [name, 'supply-1'], [`R${pad(rack)}-A`, `outlet-${outlet}`])
    if (!single) this.#link('fed-by', [name, 'supply-2'], [`R${pad(rack)}-B`, `outlet-${outlet}`])
  }

  #server(rack: number, slot: number): void {
    const index = (rack - 1) * SERVERS_IN_RACK + slot - 1
    const name = `petrel-${String(index + 1).padStart(3, '0')}`
    const single = isSingle(index)
    const isHost = slot === 1
    this.#add(name, isHost ? 'host' : 'server', { room: roomOf(rack), rack }, [
      { key: 'supply-1', kind: 'supply' },
      ...(single ? [] : [{ key: 'supply-2', kind: 'supply' as const }]),
      { key: 'fan-1', kind: 'fan' },
      { key: 'drive-1', kind: 'drive' },
      { key: 'inlet', kind: 'sensor', facts: { context: 'Intake' } },
    ])
    this.#cords(name, rack, slot, single)
    const port = ((rack - 1) % RACKS_A_SWITCH) * SERVERS_IN_RACK + slot
    this.#link('wired-to', [name, null], [switchOf(rack), `port-${port}`])
    for (const kind of ['fan', 'drive', 'switched off', 'blind controller'] as const)
      this.#fault(kind, name, kind === 'fan' ? 'fan-1' : kind === 'drive' ? 'drive-1' : null)
    this.#fault('supply', name, 'supply-1')
    for (let number = 1; isHost && number <= MACHINES_A_HOST; number += 1) {
      const machine = `tide-${pad(rack)}${number}`
      this.#add(machine, 'machine', { room: roomOf(rack) })
      this.#link('hosts', [name, null], [machine, null])
      this.#fault('machine hangs', machine)
    }
  }

  #cameras(): void {
    this.#add('recorder', 'recorder', { room: 1 })
    this.#fault('recorder dead', 'recorder')
    for (let index = 1; index <= CAMERAS; index += 1) {
      const name = `eye-${pad(index)}`
      const own = ((index - 1) % (RACKS / RACKS_A_SWITCH)) + 1
      const port = RACKS_A_SWITCH * SERVERS_IN_RACK + 1 + Math.floor((index - 1) / (RACKS / RACKS_A_SWITCH))
      this.#add(name, 'camera', { room: own <= RACKS / RACKS_A_SWITCH / 2 ? 1 : 2 })
      this.#link('wired-to', [name, null], [`reef-${own}`, `port-${port}`])
      this.#link('stores-on', [name, null], ['recorder', null])
      this.#fault('camera dead', name)
    }
  }

  #air(): void {
    for (const room of [1, 2] as const) {
      this.#add(`brume-${room}`, 'cooling', { room })
      this.#fault('no cooling', `brume-${room}`)
    }
  }

  /** What is found of a gear, with what is read of it. */
  findings(name: string, read: ReadonlyMap<string, number>): Findings {
    const gear = this.#byName.get(name)!
    return {
      gear: [
        {
          key: name,
          kind: gear.kind,
          name,
          identities: [{ kind: 'serial', value: `made ${name}` }],
          facts: {},
          parts: gear.parts.map(({ key, kind, facts = {} }) => ({ key, kind, name: key, facts })),
        },
      ],
      links: [],
      readings: [...read].map(([sign, value]) => {
        const [part = '', measure] = sign.split(' ')
        return { gear: name, part: part === '' ? null : part, measure: measure as MeasureKey, value }
      }),
    }
  }

  /** What is read of every gear while some faults hold. */
  read(faults: readonly MadeFault[]): ReadonlyMap<string, Read> {
    const state = new Physics(this, faults)
    return new Map(this.gear.map((each) => [each.name, state.readOf(each)]))
  }
}

class Physics {
  readonly #faults: ReadonlySet<string>
  readonly #feeds = new Map<string, MadeLink[]>()
  readonly #wires = new Map<string, MadeLink>()
  readonly #hosts = new Map<string, string>()

  constructor(site: MadeSite, faults: readonly MadeFault[]) {
    this.#faults = new Set(faults.map(({ kind, gear, part }) => `${kind} ${gear} ${part ?? ''}`))
    for (const link of site.links) {
      if (link.kind === 'fed-by') this.#feeds.set(link.from, [...(this.#feeds.get(link.from) ?? []), link])
      if (link.kind === 'wired-to') {
        this.#wires.set(link.from, link)
        this.#wires.set(`${link.to} ${link.toPart}`, link)
      }
      if (link.kind === 'hosts') this.#hosts.set(link.to, link.from)
    }
  }

  #has(kind: FaultKind, gear: string, part = ''): boolean {
    return this.#faults.has(`${kind} ${gear} ${part}`)
  }

  #stripIsLive(strip: string): boolean {
    const ups = this.#feeds.get(strip)![0]!.to
    return !this.#has('no output', ups) && !this.#has('strip tripped', strip)
  }

  #outletIsOn(strip: string, outlet: string): boolean {
    return this.#stripIsLive(strip) && !this.#has('outlet', strip, outlet)
  }

  #supplyWorks(link: MadeLink): boolean {
    return this.#outletIsOn(link.to, link.toPart!) && !this.#has('supply', link.from, link.fromPart!)
  }

  #isPowered(name: string): boolean {
    return (this.#feeds.get(name) ?? []).some((link) => this.#supplyWorks(link))
  }

  #computes(name: string): boolean {
    return this.#isPowered(name) && !this.#has('switched off', name)
  }

  #switches(name: string): boolean {
    return this.#isPowered(name) && !this.#has('switch dead', name)
  }

  #wireIsUp(name: string, isAlive: boolean): boolean {
    const wire = this.#wires.get(name)!
    return isAlive && this.#switches(wire.to) && !this.#has('link', wire.to, wire.toPart!)
  }

  readOf({ name, kind, room, rack, parts }: MadeGear): Read {
    switch (kind) {
      case 'ups':
        return this.#ups(name)
      case 'pdu': {
        if (!this.#stripIsLive(name)) return null
        return new Map(
          parts.map(({ key }) => [signOf(key, 'hw.outlet.state'), this.#outletIsOn(name, key) ? 1 : 0]),
        )
      }
      case 'switch':
        return this.#switch(name, parts)
      case 'server':
      case 'host':
        return this.#server(name, room, rack!)
      case 'machine': {
        const host = this.#hosts.get(name)!
        const isReached =
          this.#computes(host) && this.#wireIsUp(host, true) && !this.#has('machine hangs', name)
        return new Map([[signOf(null, 'net.reachable'), isReached ? 1 : 0]])
      }
      case 'camera':
        return new Map([
          [signOf(null, 'net.reachable'), this.#wireIsUp(name, !this.#has('camera dead', name)) ? 1 : 0],
        ])
      case 'recorder':
        return new Map([[signOf(null, 'net.reachable'), this.#has('recorder dead', name) ? 0 : 1]])
      case 'cooling':
        return new Map([[signOf(null, 'hw.errors'), this.#has('no cooling', name) ? 7 : 0]])
      case 'probe':
        return new Map([[signOf(null, 'hw.temperature'), this.#air(room, rack!)]])
      default:
        throw new Error(`no physics for ${kind}`)
    }
  }

  #ups(name: string): Read {
    // RFC 1628 upsOutputSource: none(2), normal(3), battery(5); upsBatteryStatus: normal(2), low(3).
    const source = this.#has('no output', name) ? 2 : this.#has('battery', name) ? 5 : 3
    return new Map([
      [signOf(null, 'ups.output.source'), source],
      [signOf(null, 'ups.battery.status'), this.#has('battery low', name) ? 3 : 2],
    ])
  }

  #switch(name: string, parts: MadeGear['parts']): Read {
    if (!this.#switches(name)) return null
    const read = new Map<string, number>()
    for (const link of this.#feeds.get(name)!)
      read.set(signOf(link.fromPart, 'hw.status'), this.#supplyWorks(link) ? 0 : 2)
    for (const { key, kind } of parts) {
      if (kind !== 'port') continue
      const wire = this.#wires.get(`${name} ${key}`)
      const far = wire?.from
      const isAlive =
        far === undefined || (far.startsWith('petrel') ? this.#computes(far) : !this.#has('camera dead', far))
      read.set(signOf(key, 'hw.network.up'), isAlive && !this.#has('link', name, key) ? 1 : 0)
    }
    return read
  }

  #server(name: string, room: 1 | 2, rack: number): Read {
    if (!this.#isPowered(name) || this.#has('blind controller', name)) return null
    const isOn = this.#computes(name)
    const supplies = this.#feeds.get(name)!.map((link) => [link.fromPart!, this.#supplyWorks(link)] as const)
    const hasDrive = this.#has('drive', name, 'drive-1')
    const isWell = supplies.every(([, works]) => works) && !hasDrive
    return new Map([
      ...supplies.map(([part, works]) => [signOf(part, 'hw.status'), works ? 0 : 2] as const),
      [signOf('fan-1', 'hw.fan.speed'), isOn && !this.#has('fan', name, 'fan-1') ? 6000 : 0],
      [signOf('drive-1', 'hw.status'), hasDrive ? 2 : 0],
      [signOf('inlet', 'hw.temperature'), this.#air(room, rack)],
      [signOf(null, 'hw.status'), isWell ? 0 : 1],
      [signOf(null, 'hw.power.state'), isOn ? 1 : 0],
    ])
  }

  #air(room: 1 | 2, rack: number): number {
    const isHot = this.#has('hot spot', `front-${pad(rack)}`)
    return this.#has('no cooling', `brume-${room}`) ? 34 : isHot ? 36 : 22
  }
}
