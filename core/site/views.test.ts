import { expect, test } from 'vitest'
import { roomSentence } from './roomSentence.ts'
import { roomStates, type SiteAsBuilt, Telling, viewRooms } from './views.ts'

const rack = (id: number, xMm: number) => ({
  id,
  roomId: 1,
  name: `B0${id}`,
  heightUnits: 42,
  xMm,
  yMm: 1000,
  widthMm: 600,
  depthMm: 1000,
  turn: 180 as const,
})
const gear = (
  id: number,
  rackId: number | null,
  unit: number,
  kind: 'server' | 'pdu' | 'probe' = 'server',
) => ({
  id,
  name: `gear-${id}`,
  kind,
  rackId,
  unit,
  heightUnits: 2,
  face: kind === 'pdu' ? ('left' as const) : null,
})
const site = (rest: Partial<SiteAsBuilt> = {}): SiteAsBuilt => ({
  rooms: [{ id: 1, name: 'Hall', building: null, widthMm: 10_000, depthMm: 8000, tileMm: 600 }],
  racks: [rack(1, 1000), rack(2, 3000)],
  floor: [],
  gear: [gear(1, 1, 5), gear(2, 1, 10), gear(3, 2, 1), gear(4, 1, 1, 'pdu')],
  states: new Map([[2, 'warning']]),
  unheard: new Set(),
  telling: new Telling([
    { gearId: 1, partId: null, measure: 'hw.power', value: 300 },
    { gearId: 2, partId: null, measure: 'hw.power', value: 500 },
    { gearId: 3, partId: null, measure: 'hw.power', value: 250 },
    { gearId: 3, partId: null, measure: 'hw.temperature', value: null },
    { gearId: 2, partId: 21, measure: 'hw.temperature', value: 28.4 },
    { gearId: 1, partId: 11, measure: 'hw.temperature', value: 24 },
  ]),
  ...rest,
})
const only = (given: SiteAsBuilt) => viewRooms(given)[0]!

test('a rack without strips that measure draws what its gear says; with one what the strip says', () => {
  const [one, two] = only(site()).racks
  expect(two!.watts).toBe(250)
  expect(one!.watts, 'a strip that says nothing').toBeNull()
  const strip = new Telling([
    { gearId: 1, partId: null, measure: 'hw.power', value: 300 },
    { gearId: 4, partId: null, measure: 'hw.power', value: 900 },
  ])
  expect(only(site({ telling: strip })).racks[0]!.watts).toBe(900)
})
test('the air of a rack is the warmest inlet in it, until a probe hangs before it', () => {
  expect(only(site()).racks[0]).toMatchObject({ inletCelsius: 28.4, inletProbeId: null })
  const probe = { ...gear(9, null, 1, 'probe'), unit: null, heightUnits: null }
  const floor = [
    { roomId: 1, gearId: 9, xMm: 1250, yMm: 2100, widthMm: 100, depthMm: 100, turn: 0 as const, way: [] },
  ]
  const telling = new Telling([
    { gearId: 9, partId: null, measure: 'hw.temperature', value: 22.5 },
    { gearId: 2, partId: 21, measure: 'hw.temperature', value: 28.4 },
  ])
  const given = site({ gear: [...site().gear, probe], floor, telling })
  expect(only(given).racks[0]).toMatchObject({ inletCelsius: 22.5, inletProbeId: 9 })
})
test('states go up from the gear to the rack and the room, and into the sentence', () => {
  const room = only(site())
  expect(room.racks.map(({ state }) => state)).toEqual(['warning', 'well'])
  expect(room.state).toBe('warning')
  expect(roomSentence(room, 'state')).toBe('In Hall, gear-2 is in warning.')
  expect(
    roomStates(
      [
        { id: 2, roomId: 1 },
        { id: 3, roomId: 2 },
      ],
      site().states,
    ),
  ).toEqual(
    new Map([
      [1, 'warning'],
      [2, 'well'],
    ]),
  )
})
test('of gear that nobody hears no old number is shown', () => {
  const [first] = only(site()).racks[0]!.gear
  expect(first).toMatchObject({ id: 2, detail: expect.stringContaining('500') })
  expect(only(site({ unheard: new Set([2]) })).racks[0]!.gear[0]!.detail).toBe('')
})
