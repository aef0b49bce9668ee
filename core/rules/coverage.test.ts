import fc from 'fast-check'
import { expect, test } from 'vitest'
import type { MeasureKey, PartKind } from '../catalogue/index.ts'
import { classesOf, coverageOf, type SeriesCount } from './coverage.ts'
import { ofLast, type Scope, type Where } from './rule.ts'
import { type KeptRule, rulesInForce, type Subject } from './scope.ts'

const id = fc.integer({ min: 1, max: 3 })
const where: fc.Arbitrary<Where> = fc.oneof(
  fc.constant<Where>({ kind: 'everywhere' }),
  fc.constantFrom('a', 'b').map((tag): Where => ({ kind: 'tag', tag })),
  fc.constantFrom('north', 'south').map((name): Where => ({ kind: 'cluster', name })),
  fc
    .tuple(fc.constantFrom('room', 'rack', 'group', 'gear', 'part'), id)
    .map(([kind, number]): Where => ({ kind: kind as 'room', id: number })),
)
const MEASURES: readonly MeasureKey[] = ['hw.temperature', 'hw.power']
const measure = fc.constantFrom(...MEASURES)
const partKind = fc.constantFrom<PartKind | null>(null, 'fan', 'sensor')
const scope: fc.Arbitrary<Scope> = fc.record({
  gearKind: fc.constantFrom(null, 'server', 'ups'),
  partKind,
  where,
})
const rule = fc.record({ scope, measure, isOn: fc.boolean(), isDefault: fc.boolean() })
const gear = fc.record({
  gearKind: fc.constantFrom('server' as const, 'ups' as const),
  tags: fc.subarray(['a', 'b']),
  roomId: fc.option(id),
  rackId: fc.option(id),
  cluster: fc.option(fc.constantFrom('north', 'south')),
  groupIds: fc.subarray([1, 2, 3]),
  series: fc.array(fc.record({ measure, partKind, partId: id }), { maxLength: 6 }),
})

const keptRules = (
  rules: readonly { scope: Scope; measure: MeasureKey; isOn: boolean; isDefault: boolean }[],
) =>
  rules.map(({ measure: of, ...each }, index): KeptRule => ({
    id: index + 1,
    isOn: each.isOn,
    isDefault: each.isDefault,
    rule: {
      kind: 'level',
      key: `rule-${index}`,
      name: 'n',
      why: 'w',
      scope: each.scope,
      of: { measure: of, with: null },
      direction: 'above',
      lines: [{ severity: 'warning', at: 1, back: null }],
      persistence: ofLast(1, 1),
    },
  }))

test('counted by classes of gear, every rule covers what it covers series by series', () => {
  fc.assert(
    fc.property(fc.array(rule, { maxLength: 12 }), fc.array(gear, { maxLength: 8 }), (given, site) => {
      const rules = keptRules(given)
      const gears = site.map(({ series: _, ...each }, index) => ({ ...each, gearId: index + 1 }))
      const subjects = site.flatMap(({ series }, index): Subject[] =>
        series.map(({ partId, ...each }) => ({
          ...gears[index]!,
          ...each,
          partId: each.partKind === null ? null : partId,
          hasWhole: each.partKind !== null && partId % 2 === 0,
        })),
      )
      const wanted = new Map(rules.map((each) => [each.id, { inForce: 0, overridden: 0 }]))
      for (const subject of subjects)
        for (const { kept, overrides } of rulesInForce(rules, subject)) {
          wanted.get(kept.id)!.inForce += 1
          for (const other of overrides) wanted.get(other.id)!.overridden += 1
        }

      const classes = classesOf(rules, gears)
      const counts = new Map<string, SeriesCount>()
      for (const subject of subjects) {
        const of = classes.classes.findIndex(({ gearIds }) => gearIds.includes(subject.gearId))
        const isNamed = subject.partId !== null && classes.partIds.includes(subject.partId)
        const each = {
          of,
          measure: subject.measure,
          partKind: subject.partKind,
          partId: isNamed ? subject.partId : null,
          hasWhole: subject.hasWhole ?? false,
        }
        const key = JSON.stringify(each)
        counts.set(key, { ...each, count: (counts.get(key)?.count ?? 0) + 1 })
      }
      expect(coverageOf(rules, classes, [...counts.values()])).toEqual(wanted)
    }),
  )
})

test('gear that no rule tells apart is one class', () => {
  const rules = keptRules([
    {
      scope: { gearKind: null, partKind: null, where: { kind: 'rack', id: 2 } },
      measure: 'hw.power',
      isOn: true,
      isDefault: false,
    },
  ])
  const server = (gearId: number, rackId: number) => ({
    gearId,
    gearKind: 'server' as const,
    tags: [`tag ${gearId}`],
    roomId: 1,
    rackId,
    cluster: null,
    groupIds: [],
  })
  const { classes } = classesOf(rules, [server(1, 1), server(2, 2), server(3, 3), server(4, 2)])
  expect(classes.map(({ gearIds }) => gearIds)).toEqual([
    [1, 3],
    [2, 4],
  ])
})
