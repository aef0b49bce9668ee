import { STATE_PREDICATES } from '../gear/state.ts'
import { listNames } from '../rules/index.ts'
import { formatNumber, formatValue, inReadersScale } from '../units/index.ts'
import type { PlanSubject } from './room.ts'
import type { RoomView } from './views.ts'

/** What a plan has found for its subject, as a sentence. */
export function roomSentence(room: RoomView, subject: PlanSubject): string {
  if (room.racks.length === 0 && room.floor.length === 0) return `Nothing stands in ${room.name} yet.`
  switch (subject) {
    case 'state': {
      const all = [...room.racks.flatMap(({ gear }) => gear), ...room.floor]
      const said = (['critical', 'warning', 'noData'] as const).flatMap((state) => {
        const names = all.filter((each) => each.state === state).map(({ name }) => name)
        return names.length === 0
          ? []
          : [`${listNames(names)} ${names.length === 1 ? 'is' : 'are'} ${STATE_PREDICATES[state]}`]
      })
      return said.length === 0
        ? `All ${all.length} gear in ${room.name} is well.`
        : `In ${room.name}, ${said.join('; ')}.`
    }
    case 'inlet': {
      const known = room.racks.filter(({ inletCelsius }) => inletCelsius !== null)
      const hottest = known.toSorted((a, b) => b.inletCelsius! - a.inletCelsius!)[0]
      if (hottest === undefined) return `No air is measured at the racks of ${room.name}.`
      const warm = known.filter(({ inletCelsius }) => inletCelsius! >= 27)
      const worst = `${hottest.name} takes in ${formatValue(hottest.inletCelsius!, 'celsius', 1)}`
      if (warm.length === 0) return `No rack in ${room.name} takes in warm air; ${worst}, the most.`
      const recommended = inReadersScale('the recommended 27 °C')
      return warm.length === 1
        ? `${worst}, above ${recommended}; the other ${known.length - 1} racks are within it.`
        : `${warm.length} of ${known.length} racks take in more than ${recommended}; ${worst}.`
    }
    case 'power': {
      const known = room.racks.filter(({ watts }) => watts !== null)
      const total = known.reduce((sum, { watts }) => sum + watts!, 0)
      const most = known.toSorted((a, b) => b.watts! - a.watts!)[0]
      if (most === undefined) return `No power is measured in ${room.name}.`
      return `The racks of ${room.name} draw ${formatNumber(total / 1000, 1)} kW; ${most.name} the most, ${most.said.power.text}.`
    }
    case 'free': {
      const units = room.racks.reduce((sum, { heightUnits }) => sum + heightUnits, 0)
      const free = room.racks.reduce((sum, rack) => sum + rack.freeUnits, 0)
      const roomiest = room.racks.toSorted((a, b) => b.longestFree - a.longestFree)[0]
      if (roomiest === undefined) return `No rack stands in ${room.name} yet.`
      return `${free} of ${units} units are free in ${room.name}; the longest run is ${roomiest.longestFree} U, in ${roomiest.name}.`
    }
    default:
      return subject satisfies never
  }
}
