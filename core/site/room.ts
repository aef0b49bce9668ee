import type { GearKind } from '../catalogue/index.ts'
import { inReadersScale } from '../units/index.ts'
import { type FloorBox, spanOf } from './plan.ts'

/** What a plan of a room can be asked for. */
export const PLAN_SUBJECTS = ['state', 'inlet', 'power', 'free'] as const
export type PlanSubject = (typeof PLAN_SUBJECTS)[number]
export const isPlanSubject = (text: string | null): text is PlanSubject =>
  PLAN_SUBJECTS.some((subject) => subject === text)

/** How a rack is tinted: four steps of grey for what is as it may be, and the colours for what is not. */
export type Tint = 'none' | 'step1' | 'step2' | 'step3' | 'step4' | 'cold' | 'warning' | 'critical' | 'noData'

export interface Band {
  readonly tint: Tint
  /** For the legend: “18 to 21 °C”. */
  readonly words: string
}

/** A band reaches from where the one before ends up to its own end. */
interface UpTo extends Band {
  readonly below: number
}

/** Air at the inlets, °C: recommended 18 to 27, allowable 15 to 32 (ASHRAE TC 9.9, 2021, class A1). */
const INLET: readonly UpTo[] = [
  { below: 15, tint: 'cold', words: 'below 15 °C: colder than allowed' },
  { below: 18, tint: 'cold', words: '15 to 18 °C: colder than recommended' },
  { below: 21, tint: 'step1', words: '18 to 21 °C' },
  { below: 24, tint: 'step2', words: '21 to 24 °C' },
  { below: 27, tint: 'step3', words: '24 to 27 °C' },
  { below: 32, tint: 'warning', words: '27 to 32 °C: warmer than recommended' },
  { below: Infinity, tint: 'critical', words: 'above 32 °C: warmer than allowed' },
]
const POWER: readonly UpTo[] = [
  { below: 100, tint: 'none', words: 'below 0.1 kW' },
  { below: 1000, tint: 'step1', words: '0.1 to 1 kW' },
  { below: 2000, tint: 'step2', words: '1 to 2 kW' },
  { below: 4000, tint: 'step3', words: '2 to 4 kW' },
  { below: Infinity, tint: 'step4', words: 'above 4 kW' },
]
/** Free units as a share of all. The fuller, the darker. */
const FREE: readonly UpTo[] = [
  { below: 0.1, tint: 'step4', words: 'nearly full: under a tenth is free' },
  { below: 0.4, tint: 'step3', words: 'a tenth to four tenths free' },
  { below: 0.75, tint: 'step2', words: 'four tenths to three quarters free' },
  { below: Infinity, tint: 'step1', words: 'three quarters and more free' },
]
const NOTHING_HEARD: Band = { tint: 'noData', words: 'nothing is measured here' }

const bandIn = (bands: readonly UpTo[], value: number | null): Band =>
  value === null ? NOTHING_HEARD : bands.find(({ below }) => value < below)!

/** Its words are for whoever reads now. @param celsius °C */
export function inletBand(celsius: number | null): Band {
  const { tint, words } = bandIn(INLET, celsius)
  return { tint, words: inReadersScale(words) }
}
export const powerBand = (watts: number | null): Band => bandIn(POWER, watts)
export const freeBand = (ratio: number): Band => bandIn(FREE, ratio)

/** Where the front of a rack is: the middle of the edge that it looks to, moved `outMm` out of it. */
export function beforeFront(box: FloorBox, outMm: number): { readonly xMm: number; readonly yMm: number } {
  const { acrossMm, downMm } = spanOf(box)
  const [midX, midY] = [box.xMm + acrossMm / 2, box.yMm + downMm / 2]
  switch (box.turn) {
    case 0:
      return { xMm: midX, yMm: box.yMm - outMm }
    case 90:
      return { xMm: box.xMm + acrossMm + outMm, yMm: midY }
    case 180:
      return { xMm: midX, yMm: box.yMm + downMm + outMm }
    case 270:
      return { xMm: box.xMm - outMm, yMm: midY }
    default:
      return box.turn satisfies never
  }
}

export interface RackOnFloor extends FloorBox {
  readonly id: number
  readonly roomId: number
}

/** What hangs on a rack, or before one of its sides. */
export interface AtRack {
  readonly rackId: number
  readonly side: 'front' | 'back' | 'side'
}

/** Kinds that hang on racks and before them; what is larger stands by itself. */
const HANGS: ReadonlySet<GearKind> = new Set(['camera', 'door', 'meter', 'probe'])

/**
 * The rack that something hangs on or before, at most 400 mm from it, the nearest; `null` when none is.
 * @param thing with its middle, in millimetres
 */
export function atRackOf(
  thing: { readonly kind: GearKind; readonly roomId: number; readonly xMm: number; readonly yMm: number },
  racks: readonly RackOnFloor[],
): AtRack | null {
  if (!HANGS.has(thing.kind)) return null
  let nearest: { away: number; rack: RackOnFloor } | null = null
  for (const rack of racks) {
    if (rack.roomId !== thing.roomId) continue
    const away = awayFrom(rack, thing)
    if (away <= NEAR_MM && (nearest === null || away < nearest.away)) nearest = { away, rack }
  }
  return nearest === null ? null : { rackId: nearest.rack.id, side: sideOf(nearest.rack, thing) }
}

/** From a point to a box, 0 within it. */
function awayFrom(box: FloorBox, { xMm, yMm }: { readonly xMm: number; readonly yMm: number }): number {
  const { acrossMm, downMm } = spanOf(box)
  const [dx, dy] = [
    Math.max(box.xMm - xMm, 0, xMm - box.xMm - acrossMm),
    Math.max(box.yMm - yMm, 0, yMm - box.yMm - downMm),
  ]
  return Math.hypot(dx, dy)
}

/** On which half of a rack a point lies, along where it looks; to the left or right of it is its side. */
function sideOf(box: FloorBox, { xMm, yMm }: { readonly xMm: number; readonly yMm: number }): AtRack['side'] {
  const { acrossMm, downMm } = spanOf(box)
  const [x, y] = [xMm - box.xMm, yMm - box.yMm]
  const looksAcross = box.turn === 90 || box.turn === 270
  const beside = looksAcross ? y < 0 || y > downMm : x < 0 || x > acrossMm
  if (beside) return 'side'
  const out = looksAcross ? x - acrossMm / 2 : y - downMm / 2
  return out > 0 === (box.turn === 90 || box.turn === 180) ? 'front' : 'back'
}

/** So far before a rack a probe still measures its air. */
const NEAR_MM = 400

/** The probe that hangs before a rack, the nearest; `null` when none does. */
export function probeBefore<Probe extends { readonly xMm: number; readonly yMm: number }>(
  rack: FloorBox,
  probes: readonly Probe[],
): Probe | null {
  const front = beforeFront(rack, 100)
  const near = probes
    .map((probe) => ({ probe, away: Math.hypot(probe.xMm - front.xMm, probe.yMm - front.yMm) }))
    .filter(({ away }) => away <= NEAR_MM)
    .sort((a, b) => a.away - b.away)
  return near[0]?.probe ?? null
}
