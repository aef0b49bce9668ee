import type { Face, Turn } from '#core/site'

// Two rooms, drawn to scale. Lengths in millimetres from the upper left corner of each room.

export interface RoomPlan {
  readonly name: string
  readonly building: string | null
  readonly widthMm: number
  readonly depthMm: number
  readonly racks: readonly {
    readonly name: string
    readonly heightUnits: number
    readonly xMm: number
    readonly yMm: number
    readonly turn: Turn
  }[]
}

// Two rows that look at each other over the cold aisle; the cooling units stand in the upper row and at its ends.
const HALL_ROW_1 = [1200, 1800, 2400, 3600, 4200]
const HALL_ROW_2 = [1200, 1800, 2400, 3000, 3600]

export const ROOMS: readonly RoomPlan[] = [
  {
    name: 'Breakwater Hall',
    building: null,
    widthMm: 7200,
    depthMm: 6000,
    racks: [
      ...HALL_ROW_1.map((xMm, index) => ({
        name: `B0${index + 1}`,
        heightUnits: 42,
        xMm,
        yMm: 1200,
        turn: 180 as const,
      })),
      ...HALL_ROW_2.map((xMm, index) => ({
        name: `B${String(index + 6).padStart(2, '0')}`,
        heightUnits: 42,
        xMm,
        yMm: 3600,
        turn: 0 as const,
      })),
    ],
  },
  {
    name: 'Lantern Room',
    building: 'Light station',
    widthMm: 4800,
    depthMm: 4200,
    racks: [900, 1500, 2100, 2700].map((xMm, index) => ({
      name: `L0${index + 1}`,
      heightUnits: 24,
      xMm,
      yMm: 1200,
      turn: 180 as const,
    })),
  },
]

export interface RackPlace {
  readonly rack: string
  readonly unit: number
  readonly heightUnits: number
  readonly face?: Face
}

/** Where each gear stands in its rack, lowest unit and height. */
export const PLACES: Readonly<Record<string, RackPlace>> = {
  'reef-1': { rack: 'B01', unit: 40, heightUnits: 1, face: 'rear' },
  'reef-2': { rack: 'B01', unit: 38, heightUnits: 1, face: 'rear' },
  'shoal-1': { rack: 'B01', unit: 36, heightUnits: 1, face: 'rear' },
  'shoal-2': { rack: 'B01', unit: 34, heightUnits: 1, face: 'rear' },
  'reef-3': { rack: 'B02', unit: 41, heightUnits: 1, face: 'rear' },
  'skua-1': { rack: 'B02', unit: 10, heightUnits: 4 },
  'skua-2': { rack: 'B03', unit: 10, heightUnits: 4 },
  'harbour-A': { rack: 'B04', unit: 1, heightUnits: 3 },
  'harbour-B': { rack: 'B04', unit: 4, heightUnits: 3 },
  'petrel-05': { rack: 'B04', unit: 14, heightUnits: 2 },
  'petrel-06': { rack: 'B04', unit: 16, heightUnits: 2 },
  'petrel-07': { rack: 'B04', unit: 18, heightUnits: 2 },
  'petrel-08': { rack: 'B04', unit: 20, heightUnits: 2 },
  guillemot: { rack: 'B05', unit: 6, heightUnits: 10 },
  'petrel-01': { rack: 'B06', unit: 10, heightUnits: 2 },
  'petrel-02': { rack: 'B06', unit: 12, heightUnits: 2 },
  'petrel-03': { rack: 'B07', unit: 20, heightUnits: 2 },
  'petrel-04': { rack: 'B07', unit: 22, heightUnits: 2 },
  recorder: { rack: 'B08', unit: 20, heightUnits: 2, face: 'front' },
  'hall-gateway': { rack: 'B08', unit: 40, heightUnits: 1, face: 'rear' },
  'lantern-U': { rack: 'L02', unit: 1, heightUnits: 2 },
  'petrel-09': { rack: 'L01', unit: 8, heightUnits: 2 },
  'petrel-10': { rack: 'L01', unit: 10, heightUnits: 2 },
  'petrel-11': { rack: 'L02', unit: 8, heightUnits: 2 },
  'petrel-12': { rack: 'L02', unit: 10, heightUnits: 2 },
  'reef-4': { rack: 'L03', unit: 22, heightUnits: 1, face: 'rear' },
}

export interface FloorPlace {
  readonly room: string
  readonly xMm: number
  readonly yMm: number
  readonly widthMm: number
  readonly depthMm: number
  readonly turn?: Turn
  readonly way?: readonly number[]
}

const small = (room: string, xMm: number, yMm: number): FloorPlace => ({
  room,
  xMm,
  yMm,
  widthMm: 160,
  depthMm: 160,
})
const HALL = 'Breakwater Hall'
const LANTERN = 'Lantern Room'

/** What stands on the floor, hangs on the walls or on the racks, or lies under the raised floor. */
export const FLOOR: Readonly<Record<string, FloorPlace>> = {
  'brume-1': { room: HALL, xMm: 3000, yMm: 1200, widthMm: 600, depthMm: 1000 },
  'brume-2': { room: HALL, xMm: 4800, yMm: 1200, widthMm: 600, depthMm: 1000 },
  'brume-3': { room: HALL, xMm: 4200, yMm: 3600, widthMm: 600, depthMm: 1000, turn: 0 },
  'dynamo-1': { room: HALL, xMm: 5400, yMm: 4300, widthMm: 1300, depthMm: 1200 },
  'hall-north': { room: HALL, xMm: 5800, yMm: 0, widthMm: 1000, depthMm: 120 },
  'hall-south': { room: HALL, xMm: 200, yMm: 5880, widthMm: 900, depthMm: 120, turn: 0 },
  'aisle-rope': {
    room: HALL,
    xMm: 1100,
    yMm: 2300,
    widthMm: 4400,
    depthMm: 1200,
    way: [1100, 3350, 1100, 2450, 5500, 2450, 5500, 3350],
  },
  'wall-rope': {
    room: HALL,
    xMm: 1100,
    yMm: 900,
    widthMm: 4400,
    depthMm: 100,
    way: [1100, 950, 5500, 950, 5500, 1150],
  },
  'camera-north': small(HALL, 5400, 160),
  'camera-aisle': small(HALL, 420, 2900),
  'camera-yard': small(HALL, 6900, 5700),
  'camera-lantern': small(LANTERN, 4500, 160),
  ...Object.fromEntries(
    HALL_ROW_1.map((xMm, index) => [`b0${index + 1}-front`, small(HALL, xMm + 220, 2240)] as const),
  ),
  ...Object.fromEntries(
    HALL_ROW_2.map(
      (xMm, index) => [`b${String(index + 6).padStart(2, '0')}-front`, small(HALL, xMm + 220, 3400)] as const,
    ),
  ),
  'b05-rear': small(HALL, 4420, 1000),
  'b07-rear': small(HALL, 2020, 4640),
  'lantern-n': small(LANTERN, 1120, 2260),
  'lantern-s': small(LANTERN, 1720, 2260),
  'lantern-rear': small(LANTERN, 1720, 960),
  'lantern-stair': small(LANTERN, 4300, 3900),
  'lantern-quay': small(LANTERN, 200, 3900),
  'lantern-door': { room: LANTERN, xMm: 3700, yMm: 4080, widthMm: 900, depthMm: 120, turn: 0 },
}
