import type { PduSpec } from '../model/pdu.ts'
import type { UpsSpec } from '../model/ups.ts'
import { PLACES, ROOMS } from './rooms.ts'

export const UPSES: readonly UpsSpec[] = [
  { name: 'harbour-A', model: 'Voltessa Keel 6k', seed: 41, fullMinutes: 34, ratedWatts: 5400 },
  // Its batteries grow old: a year ago it would have lasted a dozen minutes longer.
  {
    name: 'harbour-B',
    model: 'Voltessa Keel 6k',
    seed: 43,
    fullMinutes: 37,
    ratedWatts: 5400,
    yearAgoMinutes: 51,
  },
  { name: 'lantern-U', model: 'Voltessa Keel 3k', seed: 47, fullMinutes: 22, ratedWatts: 2700 },
]

/** Which UPS feeds the strips of which room, side by side; the light station's other side is bare mains. */
const FEEDS: Readonly<Record<string, Readonly<Record<'A' | 'B', string>>>> = {
  'Breakwater Hall': { A: 'harbour-A', B: 'harbour-B' },
  'Lantern Room': { A: 'lantern-U', B: 'light station mains' },
}

/** Cords that do not follow the rule “supply 1 on A, supply 2 on B”; empty: no cord. */
const CORDS: Readonly<Record<string, Readonly<Record<number, 'A' | 'B' | ''>>>> = {
  // Both cords of petrel-06 hang on one UPS.
  'petrel-06': { 1: 'A', 2: 'A' },
  'petrel-11': { 1: 'A', 2: '' },
  recorder: { 1: 'B', 2: '' },
  'reef-1': { 1: 'A', 2: '' },
  'reef-2': { 1: 'B', 2: '' },
  'shoal-1': { 1: 'A', 2: '' },
  'shoal-2': { 1: 'B', 2: '' },
  'reef-3': { 1: 'A', 2: '' },
  'reef-4': { 1: 'A', 2: '' },
  'hall-gateway': { 1: 'B', 2: '' },
}
const SUPPLIES: Readonly<Record<string, number>> = { guillemot: 4 }
const WITHOUT_OUTLET = new Set(['harbour-A', 'harbour-B', 'lantern-U'])

/** Two strips a rack, and what hangs on each outlet. */
export const PDUS: readonly PduSpec[] = ROOMS.flatMap((room) =>
  room.racks.flatMap(({ name: rack }) =>
    (['A', 'B'] as const).map((side): PduSpec => {
      const cords = Object.entries(PLACES).flatMap(([gear, place]) => {
        if (place.rack !== rack || WITHOUT_OUTLET.has(gear)) return []
        const count = SUPPLIES[gear] ?? 2
        return Array.from({ length: count }, (_, index) => index + 1).flatMap((supply) => {
          const plugged = CORDS[gear]?.[supply] ?? (supply % 2 === 1 ? 'A' : 'B')
          return plugged === side ? [{ gear, supply }] : []
        })
      })
      return {
        name: `${rack}-${side}`,
        rack,
        side,
        model: 'Voltessa Strip 12',
        serial: `VS12-${rack}${side}`,
        seed: 700 + rack.charCodeAt(2) * 7 + (side === 'A' ? 0 : 3),
        feed: FEEDS[room.name]![side],
        outlets: 12,
        cords,
        // The chassis' strip carries nearly all on its first phase.
        isUneven: rack === 'B05' && side === 'A',
      }
    }),
  ),
)
export const GENERATOR = { name: 'dynamo-1', serial: 'VG60-0009', seed: 881 } as const
