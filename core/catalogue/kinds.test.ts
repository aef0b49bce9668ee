import { describe, expect, test } from 'vitest'
import { z } from 'zod'
import { UNITS } from '../units/index.ts'
import { GEAR_KINDS, isMeasureKey, MEASURE_GROUPS, MEASURES, PART_KINDS } from './index.ts'

// The catalogue is data: what may stand in it is said here, and everything in it is held against that.

const key = z.string().regex(/^[a-z][a-zA-Z]*$/)
const words = z.string().min(2).max(40)
const measureKey = z.string().regex(/^(hw|ups|system|host|net|watch)(\.[a-z][a-z_]*)+$/)
const known = measureKey.refine(isMeasureKey, 'not a measure')
const gearKinds = z.record(
  key,
  z.strictObject({
    label: words,
    plural: words,
    drawing: z.enum(['front', 'path', 'readings']),
    isRacked: z.boolean(),
    isFloor: z.boolean(),
  }),
)
const partKinds = z.record(key, z.strictObject({ label: words, telling: z.array(known) }))
const measures = z.record(
  measureKey,
  z.intersection(
    z.object({
      label: words,
      unit: z.enum(Object.keys(UNITS)),
      decimals: z.number().int().min(0).max(3),
      group: z.enum(MEASURE_GROUPS),
    }),
    z.union([
      z.object({ kind: z.literal('gauge'), states: z.never().optional() }),
      z.object({
        kind: z.literal('state'),
        unit: z.literal('state'),
        states: z
          .record(z.string().regex(/^\d+$/), z.string().min(2))
          .refine((all) => Object.keys(all).length > 1),
      }),
    ]),
  ),
)
describe('the catalogue', () => {
  test('kinds of gear', () => expect(gearKinds.parse(GEAR_KINDS)).toEqual(GEAR_KINDS))
  test('kinds of parts, with measures that there are', () =>
    expect(partKinds.parse(PART_KINDS)).toEqual(PART_KINDS))
  test('measures', () => expect(Object.keys(measures.parse(MEASURES))).toEqual(Object.keys(MEASURES)))
})
