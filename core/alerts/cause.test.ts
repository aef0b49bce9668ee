import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { MeasureKey } from '../catalogue/index.ts'
import {
  type CausedAlert,
  type CauseGear,
  type CauseLink,
  causesOf,
  fedOnlyBy,
  followOnWords,
  pluggedInto,
} from './index.ts'

// A small room: two UPS units, two strips, a server with two cords and one with one, machines, a switch with a recorder.
const GEAR: readonly CauseGear[] = (
  [
    ['harbour-A', 'ups'],
    ['harbour-B', 'ups'],
    ['strip-A', 'pdu'],
    ['strip-B', 'pdu'],
    ['petrel-01', 'server'],
    ['petrel-02', 'server'],
    ['tide-01', 'machine'],
    ['tide-02', 'machine'],
    ['reef-1', 'switch'],
    ['recorder', 'recorder'],
    ['camera', 'camera'],
    ['brume-1', 'cooling'],
    ['b01-front', 'probe'],
    ['guillemot', 'chassis'],
    ['guillemot-1', 'server'],
  ] as const
).map(([name, kind], index) => ({ id: index + 1, name, kind, roomId: 1 }))
const gear = new Map(GEAR.map((each) => [each.id, each]))
const idOf = (name: string): number => GEAR.find((each) => each.name === name)!.id
const link = (
  kind: CauseLink['kind'],
  from: string,
  to: string,
  parts: { fromPartId?: number; toPartId?: number } = {},
): CauseLink => ({
  kind,
  fromGearId: idOf(from),
  toGearId: idOf(to),
  fromPartId: parts.fromPartId ?? null,
  toPartId: parts.toPartId ?? null,
})
const LINKS: readonly CauseLink[] = [
  link('fed-by', 'strip-A', 'harbour-A'),
  link('fed-by', 'strip-B', 'harbour-B'),
  link('fed-by', 'petrel-01', 'strip-A', { fromPartId: 11 }),
  link('fed-by', 'petrel-01', 'strip-B', { fromPartId: 12 }),
  link('fed-by', 'petrel-02', 'strip-A', { fromPartId: 21 }),
  link('fed-by', 'recorder', 'strip-B'),
  link('hosts', 'petrel-01', 'tide-01'),
  link('hosts', 'petrel-01', 'tide-02'),
  link('wired-to', 'recorder', 'reef-1', { toPartId: 117 }),
  link('stores-on', 'camera', 'recorder'),
  link('contains', 'guillemot', 'guillemot-1'),
  link('fed-by', 'guillemot', 'strip-A', { fromPartId: 31 }),
  link('fed-by', 'guillemot', 'strip-B', { fromPartId: 32 }),
]
let nextId = 0
const alert = (name: string, measure: MeasureKey | null, rest: Partial<CausedAlert> = {}): CausedAlert => ({
  id: (nextId += 1),
  measure,
  ruleKey: 'r',
  gearIds: [idOf(name)],
  partId: null,
  partKind: null,
  sourceId: measure === null ? idOf(name) : null,
  isBlind: false,
  sourceIds: [],
  value: null,
  openedAtMs: 0,
  sinceMs: 0,
  ...rest,
})
const silent = (name: string, rest: Partial<CausedAlert> = {}) => alert(name, null, rest)
const causes = (...alerts: CausedAlert[]) => causesOf(alerts, gear, LINKS)

describe('what explains what', () => {
  test('a dead host folds its machines', () => {
    const [host, one, two] = [silent('petrel-01'), silent('tide-01'), silent('tide-02')]
    const found = causes(one, host, two)
    expect([...found.keys()].sort()).toEqual([one.id, two.id].sort())
    expect(found.get(one.id)).toEqual({ causeId: host.id, path: 'tide-01 runs on petrel-01' })
  })
  test('a dead switch port folds what hangs on it; another port does not, nor a camera that is only recorded there', () => {
    const port = alert('reef-1', 'hw.network.up', { partId: 117, partKind: 'port' })
    const other = alert('reef-1', 'hw.network.up', { partId: 118, partKind: 'port' })
    const recorder = alert('recorder', 'net.reachable')
    const camera = alert('camera', 'net.reachable')
    expect(causes(port, recorder).get(recorder.id)).toEqual({
      causeId: port.id,
      path: 'recorder is wired to reef-1',
    })
    expect(causes(other, recorder).size).toBe(0)
    expect(causes(port, recorder, camera).has(camera.id)).toBe(false)
  })
  test('what begins long after, in whatever hangs there, has a reason of its own', () => {
    const port = alert('reef-1', 'hw.network.up', { partId: 117, partKind: 'port' })
    const at = (sinceMs: number) => alert('recorder', 'net.reachable', { sinceMs })
    expect(causes(port, at(4 * 60_000)).size).toBe(1)
    expect(causes(port, at(13 * 60_000)).size).toBe(0)
  })
  test('a server with a second feed is not dark for want of the first, over however many strips', () => {
    const [upsA, upsB] = ['harbour-A', 'harbour-B'].map((name) =>
      alert(name, 'ups.output.source', { value: 2 }),
    )
    const both = silent('petrel-01')
    expect(causes(upsA!, both).has(both.id)).toBe(false)
    expect(causes(upsA!, upsB!, both).get(both.id)?.path).toMatch(
      /^petrel-01 is fed by strip-A, which is fed by/,
    )
    const single = silent('petrel-02')
    expect(causes(upsA!, single).get(single.id)).toMatchObject({ causeId: upsA!.id })
  })
  test('a battery that is empty explains what it fed, outlets of strips too, long after the mains were lost', () => {
    const battery = alert('harbour-A', 'ups.output.source', { value: 5 })
    const empty = alert('harbour-A', 'ups.battery.status', { value: 4, sinceMs: 3_000_000 })
    const supply = alert('petrel-01', 'hw.status', { partId: 11, partKind: 'supply', sinceMs: 3_020_000 })
    const outlet = alert('strip-A', 'hw.outlet.state', { partId: 31, partKind: 'outlet', sinceMs: 3_020_000 })
    const found = causes(battery, empty, supply, outlet)
    expect(found.get(supply.id)?.causeId).toBe(battery.id)
    expect(found.get(outlet.id)).toEqual({
      causeId: battery.id,
      path: 'strip-A is fed by harbour-A, and both are of harbour-A',
    })
    // While it is only low, what fails has failed by itself.
    const low = { ...empty, value: 3 }
    expect(causes(battery, low, supply, outlet).has(outlet.id)).toBe(false)
  })
  test('an outage that was over a moment ago explains what began in it and is noticed only now', () => {
    const over = alert('harbour-A', 'ups.output.source', { value: 3, sinceMs: 0, endedAtMs: 3_600_000 })
    const outlet = (sinceMs: number) =>
      alert('strip-A', 'hw.outlet.state', { partId: 31, partKind: 'outlet', sinceMs })
    const [during, after] = [outlet(3_590_000), outlet(3_601_000)]
    const found = causes(over, during, after)
    expect(found.get(during.id)?.causeId).toBe(over.id)
    expect(found.has(after.id)).toBe(false)
    expect(found.has(over.id)).toBe(false)
  })
  test('a host that was heard since passes no dead switch on to its machines', () => {
    const wired = [...LINKS, link('wired-to', 'petrel-01', 'reef-1', { toPartId: 1 })]
    const dead = silent('reef-1')
    const machine = silent('tide-01', { sinceMs: 1000 })
    const heard = (heardAtMs: number) =>
      causesOf(
        [dead, machine],
        new Map(
          [...gear].map(([id, each]) => [id, id === idOf('petrel-01') ? { ...each, heardAtMs } : each]),
        ),
        wired,
      )
    expect(heard(500).size).toBe(1)
    expect(heard(60_000).size).toBe(0)
  })
  test('what is switched off takes its machines along, and what of it is not heard then', () => {
    const off = alert('petrel-01', 'hw.power.state', { value: 0 })
    const [machine, own] = [silent('tide-01', { sinceMs: 10_000 }), silent('petrel-01', { sinceMs: 20_000 })]
    const found = causes(off, machine, own)
    expect([found.get(machine.id)?.causeId, found.get(own.id)?.causeId]).toEqual([off.id, off.id])
  })
  test('a chassis without both feeds explains its blades and fans, though its controller still answers; with one feed left it does not', () => {
    const answering = new Map(
      [...gear].map(([id, each]) => [id, id === idOf('guillemot') ? { ...each, heardAtMs: 600_000 } : each]),
    )
    const empty = (name: string) => alert(name, 'ups.output.source', { value: 2 })
    const [one, other] = [empty('harbour-A'), empty('harbour-B')]
    const blade = alert('guillemot-1', 'hw.power.state', { value: 0, sinceMs: 20_000 })
    const fan = alert('guillemot', 'hw.fan.speed', { partId: 33, partKind: 'fan', value: 0, sinceMs: 20_000 })
    const found = causesOf([one, other, blade, fan], answering, LINKS)
    expect(found.get(blade.id)?.path).toContain('guillemot-1 sits in guillemot, which is fed by strip-A')
    expect([found.get(blade.id)?.causeId, found.get(fan.id)?.causeId]).toEqual([one.id, one.id])
    expect(causesOf([one, blade, fan], answering, LINKS).size).toBe(0)
  })
  test('an alert of what hangs on nothing that is in trouble changes nothing of what is folded', () => {
    const names = GEAR.map(({ name }) => name)
    const some = fc.record({
      name: fc.constantFrom(...names),
      measure: fc.constantFrom<MeasureKey | null>(null, 'net.reachable', 'hw.power.state', 'hw.temperature'),
      sinceMs: fc.nat(600_000),
    })
    fc.assert(
      fc.property(fc.array(some, { maxLength: 6 }), fc.constantFrom(...names), (given, name) => {
        const open = given.map(({ name: of, measure, sinceMs }) => alert(of, measure, { sinceMs, value: 0 }))
        const unrelated = alert(name, 'system.filesystem.utilization')
        expect(causes(...open, unrelated)).toEqual(causes(...open))
      }),
    )
  })
  test('of both ends of one wire the one that was seen first stands for both', () => {
    const wired = [link('wired-to', 'reef-1', 'petrel-01', { fromPartId: 1, toPartId: 2 })]
    const near = alert('reef-1', 'hw.network.up', { partId: 1, partKind: 'port' })
    const far = alert('petrel-01', 'hw.network.up', { partId: 2, partKind: 'port', sinceMs: 5 })
    expect([...causesOf([far, near], gear, wired)].map(([id, { causeId }]) => [id, causeId])).toEqual([
      [far.id, near.id],
    ])
  })
  test('a UPS that feeds nothing folds what comes of it there, and what it fed, over the strip', () => {
    const ups = alert('harbour-A', 'ups.output.source', { value: 2 })
    const low = alert('harbour-A', 'ups.battery.minutes_left')
    const dark = silent('petrel-02')
    const supplyA = alert('petrel-01', 'hw.status', { partId: 11, partKind: 'supply' })
    const supplyB = alert('petrel-01', 'hw.status', { partId: 12, partKind: 'supply' })
    const found = causes(ups, low, dark, supplyA, supplyB)
    expect(found.get(low.id)).toEqual({ causeId: ups.id, path: 'both are of harbour-A' })
    expect(found.get(dark.id)?.path).toBe('petrel-02 is fed by strip-A, which is fed by harbour-A')
    expect(found.get(supplyA.id)?.causeId).toBe(ups.id)
    expect(found.get(supplyB.id), 'hangs on the other feed').toBeUndefined()
  })
  test('a UPS on battery feeds still: it folds its own minutes and charge, and nothing that it feeds', () => {
    const ups = alert('harbour-A', 'ups.output.source', { value: 5 })
    const low = alert('harbour-A', 'ups.battery.minutes_left')
    expect([...causes(ups, low, silent('petrel-02')).keys()]).toEqual([low.id])
  })
  test('a cooling unit folds the warm air of its room', () => {
    const unit = alert('brume-1', 'hw.errors')
    const air = alert('b01-front', 'hw.temperature')
    expect(causes(unit, air).get(air.id)).toEqual({
      causeId: unit.id,
      path: 'b01-front is in the same room as brume-1',
    })
  })
  test('a collector gone blind folds all that it read', () => {
    const blind = alert('petrel-01', null, {
      isBlind: true,
      gearIds: [],
      sourceId: null,
      sourceIds: [idOf('petrel-01'), idOf('camera')],
    })
    const [one, two, other] = [silent('petrel-01'), silent('camera'), silent('reef-1')]
    const found = causes(blind, one, two, other)
    expect(found.get(one.id)?.causeId).toBe(blind.id)
    expect(found.get(two.id)?.causeId).toBe(blind.id)
    expect(found.get(other.id)).toBeUndefined()
  })
  test('what was there long before does not follow from it, and a worn drive from nothing', () => {
    const host = silent('petrel-01', { sinceMs: 3_600_000, openedAtMs: 3_600_000 })
    const before = silent('tide-01')
    const worn = alert('petrel-01', 'hw.drive.life_left')
    expect(causes(host, before, worn).size).toBe(0)
  })
})

test('what is fed by one UPS alone', () => {
  expect(fedOnlyBy(idOf('harbour-A'), gear, LINKS).map(({ name }) => name)).toEqual(['petrel-02'])
  expect(fedOnlyBy(idOf('harbour-B'), gear, LINKS).map(({ name }) => name)).toEqual(['recorder'])
})

test('what is plugged into a port, or an outlet, and into no other', () => {
  const names = (name: string, partId: number, links = LINKS) =>
    pluggedInto(idOf(name), partId, gear, links).map((each) => each.name)
  expect(names('reef-1', 117)).toEqual(['recorder'])
  expect(names('reef-1', 118)).toEqual([])
  expect(names('recorder', 117), 'the number is one of the switch').toEqual([])
  const outlet = link('fed-by', 'petrel-02', 'strip-A', { fromPartId: 21, toPartId: 204 })
  expect(names('strip-A', 204, [outlet])).toEqual(['petrel-02'])
  expect(names('petrel-02', 21, [outlet]), 'a supply feeds nothing').toEqual([])
})

test('what follows, in words', () => {
  expect(followOnWords([])).toBe('')
  expect(
    followOnWords([
      { title: 'a', kind: 'machine', gearName: 'tide-01' },
      { title: 'b', kind: 'machine', gearName: 'tide-02' },
      { title: 'c', kind: 'recorder', gearName: 'recorder' },
    ]),
  ).toBe('It explains 3 more alerts, on 2 virtual machines, recorder.')
})

test('a first cause follows from nothing, whatever is linked to what', () => {
  const name = fc.constantFrom(...GEAR.map((each) => each.name))
  const anyLink = fc
    .record({
      kind: fc.constantFrom('hosts', 'contains', 'stores-on', 'fed-by', 'wired-to', 'cooled-by' as const),
      from: name,
      to: name,
    })
    .map(({ kind, from, to }) => link(kind as CauseLink['kind'], from, to))
  const anyAlert = fc
    .record({
      name,
      measure: fc.constantFrom('net.reachable', 'hw.network.up', 'ups.output.source', 'hw.temperature', null),
    })
    .map(({ name: of, measure }) => alert(of, measure as MeasureKey | null))
  fc.assert(
    fc.property(
      fc.array(anyLink, { maxLength: 25 }),
      fc.array(anyAlert, { maxLength: 15 }),
      (links, alerts) => {
        const found = causesOf(alerts, gear, links)
        for (const [id, { causeId }] of found) {
          expect(causeId).not.toBe(id)
          expect(found.has(causeId)).toBe(false)
        }
      },
    ),
  )
})

test('a rack whose air is warm is one trouble: the probe before it stands for what draws that air, and for nothing else', () => {
  const placed = new Map(
    GEAR.map((each) => {
      const rackId = each.name === 'petrel-01' || each.kind === 'probe' ? 3 : 4
      return [each.id, { ...each, rackId, role: each.kind === 'probe' ? ('intake' as const) : null }]
    }),
  )
  const probe = alert('b01-front', 'hw.temperature')
  const warm = (name: string, role: CausedAlert['role']): CausedAlert =>
    alert(name, 'hw.temperature', { partId: 31, partKind: 'sensor', role: role ?? null })
  const [drawn, blown, elsewhere] = [
    warm('petrel-01', 'intake'),
    warm('petrel-01', 'exhaust'),
    warm('petrel-02', 'intake'),
  ]
  // It has been warm there for weeks, and only now a gear is a tenth warmer than its line.
  const later = { ...drawn, sinceMs: drawn.sinceMs + 30 * 86_400_000 }
  expect(causesOf([probe, later], placed, LINKS).get(later.id)?.causeId).toBe(probe.id)
  const causes = causesOf([probe, drawn, blown, elsewhere], placed, LINKS)
  expect([...causes]).toEqual([
    [drawn.id, { causeId: probe.id, path: 'petrel-01 draws the air that b01-front measures' }],
  ])
})

describe('one fault of one part', () => {
  const of = (measure: MeasureKey, rest: Partial<CausedAlert> = {}): CausedAlert =>
    alert('petrel-01', measure, { partId: 13, partKind: 'fan', severity: 'critical', ...rest })
  const explained = (alerts: readonly CausedAlert[]) => [...causesOf(alerts, gear, LINKS)]

  test('is one, however it shows: what is measured and what the device says are signs of each other', () => {
    const [speed, said] = [of('hw.fan.speed'), of('hw.status')]
    const path = 'both are signs of one fault'
    expect(explained([speed, said])).toEqual([[said.id, { causeId: speed.id, path }]])
    expect(explained([{ ...speed, openedAtMs: speed.openedAtMs + 20_000 }, said])).toEqual([
      [speed.id, { causeId: said.id, path }],
    ])
  })
  test('a graver sign stands, and the milder one is the sign', () => {
    const [worn, failed] = [
      of('hw.drive.life_left', { severity: 'warning', partKind: 'drive' }),
      of('hw.status', { partKind: 'drive' }),
    ]
    expect(explained([worn, failed]).map(([id]) => id)).toEqual([worn.id])
  })
  test('what was so for weeks is another fault; so are two measures of which neither is the word of the device', () => {
    const [worn, failed] = [of('hw.drive.life_left', { sinceMs: -30 * 86_400_000 }), of('hw.status')]
    expect(explained([worn, failed])).toEqual([])
    expect(explained([of('hw.temperature'), of('hw.drive.life_left')])).toEqual([])
  })
  test('a drive that failed explains its degraded pool and its array; a pool that failed stands by itself', () => {
    const drive = of('hw.status', { partId: 24, partKind: 'drive', value: 2 })
    const pool = of('hw.status', { partId: 90, partKind: 'pool', severity: 'warning', value: 1 })
    const whole = of('hw.status', { partId: null, partKind: null, severity: 'warning', value: 1 })
    expect(explained([drive, pool, whole])).toEqual([
      [pool.id, { causeId: drive.id, path: 'petrel-01 says it of a part of it' }],
      [whole.id, { causeId: drive.id, path: 'petrel-01 says it of a part of it' }],
    ])
    expect(explained([drive, { ...pool, value: 2, severity: 'critical' }])).toEqual([])
    // The whole is worse than any of its parts: something else is wrong, too.
    expect(
      explained([
        { ...drive, severity: 'warning' },
        { ...whole, severity: 'critical' },
      ]),
    ).toEqual([])
  })
})

test('an alert that has nothing to do with the others never changes what is folded', () => {
  const measures: MeasureKey[] = [
    'hw.status',
    'hw.fan.speed',
    'ups.output.source',
    'hw.network.up',
    'net.reachable',
  ]
  const some = fc.array(
    fc.record({
      name: fc.constantFrom(...GEAR.map((each) => each.name)),
      measure: fc.constantFrom(...measures),
      partId: fc.constantFrom(null, 11, 12, 117),
      sinceMs: fc.integer({ min: 0, max: 400_000 }),
      severity: fc.constantFrom<'critical' | 'warning'>('critical', 'warning'),
    }),
    { minLength: 1, maxLength: 12 },
  )
  fc.assert(
    fc.property(some, (all) => {
      const alerts = all.map(({ name, measure, ...rest }) => alert(name, measure, rest))
      const elsewhere = alert('b01-front', 'hw.humidity')
      expect([...causesOf([...alerts, elsewhere], gear, LINKS)]).toEqual([...causesOf(alerts, gear, LINKS)])
    }),
  )
})

test('a strip is come to by each of its outlets: that a switch has a cord there hides no port behind another', () => {
  const wires = [
    link('fed-by', 'reef-1', 'strip-A', { fromPartId: 41, toPartId: 206 }),
    link('wired-to', 'petrel-02', 'reef-1', { toPartId: 105 }),
    link('fed-by', 'petrel-02', 'strip-A', { fromPartId: 21, toPartId: 205 }),
  ]
  const outlet = alert('strip-A', 'hw.outlet.state', { partId: 205, value: 0 })
  const port = alert('reef-1', 'hw.network.up', { partId: 105 })
  expect(causesOf([outlet, port], gear, wires).get(port.id)?.causeId).toBe(outlet.id)
  const other = alert('reef-1', 'hw.network.up', { partId: 107 })
  expect(causesOf([outlet, other], gear, wires).size).toBe(0)
})

test('a port has its own fault while its switch has another feed; machines miss the wire of a host that answers', () => {
  const wires = [
    link('fed-by', 'reef-1', 'strip-A', { fromPartId: 41 }),
    link('fed-by', 'reef-1', 'strip-B', { fromPartId: 42 }),
    link('fed-by', 'strip-A', 'harbour-A'),
    link('fed-by', 'strip-B', 'harbour-B'),
    link('wired-to', 'petrel-01', 'reef-1', { toPartId: 103 }),
    link('hosts', 'petrel-01', 'tide-01'),
  ]
  const [outage, port] = [
    alert('harbour-A', 'ups.output.source', { value: 2 }),
    alert('reef-1', 'hw.network.up', { partId: 103 }),
  ]
  expect(causesOf([outage, port], gear, wires).size).toBe(0)
  const answering = new Map(gear).set(idOf('petrel-01'), {
    ...gear.get(idOf('petrel-01'))!,
    heardAtMs: port.sinceMs + 600_000,
  })
  const machine = alert('tide-01', 'net.reachable')
  expect([...causesOf([port, machine], answering, wires)]).toEqual([
    [machine.id, { causeId: port.id, path: 'tide-01 runs on petrel-01, which is wired to reef-1' }],
  ])
})
