import { z } from 'zod'
import {
  GEAR_KINDS,
  type GearKind,
  isMeasureKey,
  type MeasureKey,
  measureOf,
  PART_KINDS,
  SENSOR_ROLES,
  type SensorRole,
  type PartKind,
} from '#core/catalogue'
import { FINITE_MEASURES } from '#core/forecast'
import { lineOf, MOST_COUNTED, type Rule } from '#core/rules'

// The one description of what a rule may be: what comes from a form, a file or the interface is held against it, and
// the published JSON Schema is made from it.

const keysOf = <K extends string>(all: Readonly<Record<K, unknown>>): [K, ...K[]] =>
  Object.keys(all) as [K, ...K[]]
const severity = z.enum(['critical', 'warning'])
const measure = z.custom<MeasureKey>((value) => typeof value === 'string' && isMeasureKey(value), {
  error: (issue) => `“${String(issue.input)}” is no measure`,
})
const id = z.number().int().positive()
const span = z
  .number()
  .int()
  .min(1000)
  .max(366 * 86_400_000)
/** Nothing is forecast farther ahead. */
const MOST_DAYS_AHEAD = 700
const level = z.number().refine(Number.isFinite, 'A line is a number')

export const whereForm = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('everywhere') }),
  z.object({ kind: z.literal('tag'), tag: z.string().min(1).max(60) }),
  z.object({ kind: z.literal('room'), id }),
  z.object({ kind: z.literal('rack'), id }),
  z.object({ kind: z.literal('cluster'), name: z.string().min(1).max(120) }),
  z.object({ kind: z.literal('group'), id }),
  z.object({ kind: z.literal('gear'), id }),
  z.object({ kind: z.literal('part'), id }),
])
export const scopeForm = z.object({
  gearKind: z.enum(keysOf<GearKind>(GEAR_KINDS)).nullable(),
  partKind: z.enum(keysOf<PartKind>(PART_KINDS)).nullable(),
  role: z.enum(keysOf<SensorRole>(SENSOR_ROLES)).nullish(),
  where: whereForm,
})

const persistence = z.discriminatedUnion('kind', [
  z
    .object({
      kind: z.literal('count'),
      k: z.number().int().min(1).max(MOST_COUNTED),
      n: z.number().int().min(1).max(MOST_COUNTED),
    })
    .refine(({ k, n }) => k <= n, {
      error: (issue) => {
        const { k, n } = issue.input as { k: number; n: number }
        return `${k} of the last ${n} readings cannot be: ask for at most ${n}`
      },
    }),
  z.object({ kind: z.literal('duration'), ms: span, bridgeMs: z.number().int().min(0) }),
])
const quantity = z.object({
  measure,
  with: z.object({ how: z.enum(['difference', 'ratio']), measure }).nullable(),
})
const line = z.object({ severity, at: level, back: level.nullable() })
const lines = z
  .array(line)
  .max(2)
  .refine((all) => new Set(all.map((each) => each.severity)).size === all.length, 'One line a severity')
const named = {
  key: z.string().regex(/^[a-z][a-z0-9-]*$/),
  name: z.string().trim().min(2, 'Give the rule a name').max(80),
  why: z.string().trim().max(400),
  scope: scopeForm,
}
const half = z.object({ measure, direction: z.enum(['above', 'below']), at: level, back: level.nullable() })

export const ruleForm = z
  .discriminatedUnion('kind', [
    z.object({
      ...named,
      kind: z.literal('level'),
      of: quantity,
      direction: z.enum(['above', 'below']),
      lines,
      persistence,
    }),
    z.object({
      ...named,
      kind: z.literal('band'),
      of: quantity,
      bands: z
        .array(
          z
            .object({ severity, low: level, high: level, margin: z.number().min(0) })
            .refine(({ low, high }) => low < high, 'The lower end of a band lies below its upper end')
            .refine(
              ({ low, high, margin }) => margin * 2 < high - low,
              'The way back leaves nothing of the band: make it smaller',
            ),
        )
        .max(2),
      persistence,
    }),
    z.object({
      ...named,
      kind: z.literal('rate'),
      of: quantity,
      direction: z.enum(['rising', 'falling']),
      withinMs: span,
      lines,
      persistence,
    }),
    z.object({
      ...named,
      kind: z.literal('state'),
      of: quantity,
      states: z.record(z.string().regex(/^\d+$/), severity),
      otherwise: z.object({ severity, well: z.array(z.number().int()) }).nullable(),
      after: z.number().int().nullable(),
      persistence,
    }),
    z.object({ ...named, kind: z.literal('change'), of: quantity, severity, holdMs: span }),
    z.object({ ...named, kind: z.literal('pair'), first: half, second: half, severity, persistence }),
    z.object({
      ...named,
      kind: z.literal('count'),
      measure,
      member: z.discriminatedUnion('kind', [
        z.object({ kind: z.literal('level'), direction: z.enum(['above', 'below']), at: level }),
        z.object({ kind: z.literal('state'), states: z.array(z.number().int()).min(1) }),
      ]),
      least: z.array(z.object({ severity, count: z.number().int().min(1) })).max(2),
      persistence,
    }),
    z.object({
      ...named,
      kind: z.literal('text'),
      pattern: z.string().trim().min(1, 'Say what a line must look like').max(200),
      atMost: z.number().int().min(0).max(7),
      count: z.number().int().min(1).max(100_000),
      windowMs: span,
      severity,
    }),
    z.object({ ...named, kind: z.literal('noData'), intervals: z.number().int().min(2).max(100), severity }),
    z.object({
      ...named,
      kind: z.literal('ahead'),
      measure,
      lines: z
        .array(z.object({ severity, days: z.number().int().min(1).max(MOST_DAYS_AHEAD) }))
        .max(2)
        .refine(
          (all) => new Set(all.map((each) => each.severity)).size === all.length,
          'One line a severity',
        ),
    }),
    z.object({ ...named, kind: z.literal('silent'), measure, afterMs: span, severity }),
  ])
  .superRefine((rule, context) => {
    for (const message of problemsOf(rule as Rule)) context.addIssue({ code: 'custom', message })
  })

/** What cannot be meant, in sentences. */
function problemsOf(rule: Rule): string[] {
  if (rule.kind === 'level' || rule.kind === 'rate') {
    const sign = rule.kind === 'level' && rule.direction === 'below' ? -1 : 1
    const [warning, critical] = [lineOf(rule, 'warning'), lineOf(rule, 'critical')]
    const word = sign > 0 ? 'above' : 'below'
    return [
      ...(warning !== null && critical !== null && sign * (critical.at - warning.at) <= 0
        ? [`The critical line must lie ${word} the one to warn at`]
        : []),
      ...rule.lines.flatMap(({ severity: of, at, back }) =>
        back !== null && sign * (at - back) < 0
          ? [`The way back of ${of} must not lie ${word} its line`]
          : [],
      ),
    ]
  }
  if (rule.kind === 'ahead') {
    const daysOf = (of: string): number | undefined => rule.lines.find((each) => each.severity === of)?.days
    const [warning, critical] = [daysOf('warning'), daysOf('critical')]
    return [
      ...(FINITE_MEASURES.includes(rule.measure)
        ? []
        : [`${measureOf(rule.measure).label} is not forecast; choose something that runs out`]),
      ...(warning !== undefined && critical !== undefined && critical >= warning
        ? ['Critical needs fewer days left than warning']
        : []),
    ]
  }
  if (rule.kind === 'state') {
    const known = measureOf(rule.of.measure)
    if (known.kind !== 'state') return [`${known.label} has no states; give it a level`]
    return Object.keys(rule.states)
      .filter((value) => known.states?.[Number(value)] === undefined)
      .map((value) => `${known.label} has no state ${value}`)
  }
  return []
}
