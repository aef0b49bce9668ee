import { describe, expect, test } from 'vitest'
import { z } from 'zod'
import { DEFAULT_RULES } from '../rules/index.ts'
import { UNITS } from '../units/index.ts'
import { GEAR_KINDS, isMeasureKey, MEASURE_GROUPS, MEASURES, measureOf, PART_KINDS } from './index.ts'

// The catalogue is data: what may stand in it is said here, and everything in it is held against that.

const key = z.string().regex(/^[a-z][a-zA-Z]*$/)
const words = z.string().min(2).max(40)
const measureKey = z.string().regex(/^(hw|ups|system|host|net)(\.[a-z][a-z_]*)+$/)
const known = measureKey.refine(isMeasureKey, 'not a measure')
const gearKinds = z.record(
  key,
  z.strictObject({
    label: words,
    plural: words,
    drawing: z.enum(['front', 'path', 'readings']),
    isRacked: z.boolean(),
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
const scope = {
  key,
  name: words,
  why: z.string().min(20),
  measure: known,
  gearKind: z.enum(Object.keys(GEAR_KINDS)).nullable(),
  partKind: z.enum(Object.keys(PART_KINDS)).nullable(),
  k: z.number().int().min(1),
  n: z.number().int().min(1),
}
const ruleKey = z.string().regex(/^[a-z][a-z-]*$/)
const rules = z.array(
  z.union([
    z.object({ ...scope, key: ruleKey, kind: z.literal('level'), direction: z.enum(['above', 'below']) }),
    z.object({
      ...scope,
      key: ruleKey,
      kind: z.literal('state'),
      states: z.record(z.string(), z.enum(['warning', 'critical'])),
    }),
    z.object({ key: ruleKey, kind: z.literal('noData'), intervals: z.number().int().min(2) }),
  ]),
)

describe('the catalogue', () => {
  test('kinds of gear', () => expect(gearKinds.parse(GEAR_KINDS)).toEqual(GEAR_KINDS))
  test('kinds of parts, with measures that there are', () =>
    expect(partKinds.parse(PART_KINDS)).toEqual(PART_KINDS))
  test('measures', () => expect(Object.keys(measures.parse(MEASURES))).toEqual(Object.keys(MEASURES)))
  test('default rules, of measures and kinds that there are, each with its own key', () => {
    rules.parse(DEFAULT_RULES)
    expect(new Set(DEFAULT_RULES.map((rule) => rule.key)).size).toBe(DEFAULT_RULES.length)
    for (const rule of DEFAULT_RULES) {
      if (rule.kind === 'noData') continue
      expect(rule.k).toBeLessThanOrEqual(rule.n)
      if (rule.kind !== 'state') continue
      const states = Object.keys(measureOf(rule.measure).states ?? {})
      expect(states).toEqual(expect.arrayContaining(Object.keys(rule.states)))
    }
  })
})
