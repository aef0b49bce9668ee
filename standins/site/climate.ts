import type { CoolingSpec } from '../model/cooling.ts'
import type { ProbesSpec } from '../model/probes.ts'

export const COOLINGS: readonly CoolingSpec[] = [
  { name: 'brume-1', serial: 'BH20-0031', seed: 61 },
  { name: 'brume-2', serial: 'BH20-0032', seed: 62 },
  { name: 'brume-3', serial: 'BH20-0040', seed: 63 },
]
export const COOLING = COOLINGS[0]!

/** How much each rack warms, °C, when a unit stops for good: the nearer, the more. */
export const COOLED_BY: Readonly<Record<string, Readonly<Record<string, number>>>> = {
  B01: { 'brume-1': 4.5, 'brume-2': 1, 'brume-3': 1.5 },
  B02: { 'brume-1': 6.5, 'brume-2': 1.5, 'brume-3': 2 },
  B03: { 'brume-1': 8.5, 'brume-2': 2, 'brume-3': 2.5 },
  B04: { 'brume-1': 7, 'brume-2': 5, 'brume-3': 2.5 },
  B05: { 'brume-1': 3, 'brume-2': 9, 'brume-3': 3 },
  B06: { 'brume-1': 3, 'brume-2': 0.5, 'brume-3': 2.5 },
  B07: { 'brume-1': 3, 'brume-2': 1, 'brume-3': 3.5 },
  B08: { 'brume-1': 2.5, 'brume-2': 1.5, 'brume-3': 5.5 },
  B09: { 'brume-1': 2, 'brume-2': 2, 'brume-3': 7.5 },
  B10: { 'brume-1': 1.5, 'brume-2': 2.5, 'brume-3': 8.5 },
}
/** Air before each rack when all is well, °C. B07 gets too little of it. */
export const INLETS: Readonly<Record<string, number>> = {
  B01: 21.4,
  B02: 22.1,
  B03: 21.8,
  B04: 22.6,
  B05: 23.4,
  B06: 22.3,
  B07: 29.2,
  B08: 21.9,
  B09: 20.9,
  B10: 20.6,
  L01: 21.8,
  L02: 22.6,
  L03: 21.9,
  L04: 21.2,
}

/** Wireless probes in the Lantern Room, heard by one gateway. */
export const PROBES: ProbesSpec = {
  name: 'lantern-gateway',
  seed: 83,
  probes: [
    { name: 'lantern-n', place: 'L01 front', celsius: 21.8 },
    { name: 'lantern-s', place: 'L02 front', celsius: 22.6 },
    { name: 'lantern-rear', place: 'L02 rear', celsius: 31.4 },
    { name: 'lantern-stair', place: 'stairwell', celsius: 17.2 },
    // It has said nothing for five days.
    { name: 'lantern-quay', place: 'quay door', celsius: 12.6, silentSinceDays: 5 },
  ],
  doors: ['lantern-door'],
  ropes: [],
}
export const PROBES_TOKEN = 'lantern-gateway-reads-demo'

/** Probes at the racks, doors and leak ropes of the hall, on one gateway. */
export const HALL_PROBES: ProbesSpec = {
  name: 'hall-gateway',
  seed: 131,
  probes: [
    ...Object.entries(INLETS).flatMap(([rack, celsius]) =>
      rack.startsWith('B')
        ? [{ name: `${rack.toLowerCase()}-front`, place: `${rack} front`, celsius, rack }]
        : [],
    ),
    { name: 'b05-rear', place: 'B05 rear', celsius: 34.2 },
    { name: 'b07-rear', place: 'B07 rear', celsius: 38.1 },
  ],
  doors: ['hall-north', 'hall-south'],
  ropes: ['aisle-rope', 'wall-rope'],
}
