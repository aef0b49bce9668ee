import { type GearKind, isMeasureKey, type MeasureKey } from '#core/catalogue'
import {
  fieldsOfRule,
  isSeriesRule,
  rulesInForce,
  ruleWords,
  type Where,
  type PlaceNames,
  classesOf,
  coverageOf,
  scopeWords,
  fieldsOfWhere,
} from '#core/rules'
import { inReadersScale } from '#core/units'
import type { Db } from '#db/platform'
import { listGroups, namesOfParts, listNamesOfGear } from '#db/gear'
import { listRacks, listRooms } from '#db/site'
import {
  findRule,
  listRules,
  listGearScopes,
  findSubject,
  countSeriesByClass,
  type RuleRow,
  type SubjectRow,
} from '#db/rules'
import { countAlertsByRule } from '#db/alerts'
import { Present } from '../platform/present.ts'

export interface RuleView {
  readonly id: number
  readonly key: string
  readonly name: string
  readonly why: string
  readonly words: string
  readonly scope: string
  readonly where: Where['kind']
  readonly gearKind: GearKind | null
  readonly isDefault: boolean
  readonly isOn: boolean
  readonly createdBy: string | null
  /** Series on which it is in force; of rules about sources and texts, gear. */
  readonly inForce: number
  /** Where another rule takes its place. */
  readonly overridden: number
  readonly open: number
  /** Alerts that it opened within a month. */
  readonly month: number
}

const MONTH_MS = 30 * 86_400_000

/** Names of what some scopes name. */
export async function placeNames(db: Db, wheres: readonly Where[]): Promise<PlaceNames> {
  const idsOf = (kind: 'gear' | 'part'): number[] =>
    wheres.flatMap((where) => (where.kind === kind ? [where.id] : []))
  const ifAny = <Row>(kind: Where['kind'], list: () => Promise<Row[]>): Promise<Row[]> =>
    wheres.some((where) => where.kind === kind) ? list() : Promise.resolve([])
  const [rooms, racks, groups, gear, parts] = await Promise.all([
    ifAny('room', () => listRooms(db)),
    ifAny('rack', () => listRacks(db)),
    ifAny('group', () => listGroups(db)),
    ifAny('gear', () => listNamesOfGear(db, idsOf('gear'))),
    namesOfParts(db, idsOf('part')),
  ])
  const named = (all: readonly { readonly id: number; readonly name: string }[]) =>
    new Map(all.map(({ id, name }) => [id, name]))
  return {
    rooms: named(rooms),
    racks: named(racks),
    groups: named(groups),
    gear: named(gear),
    parts: new Map(parts.map(({ id, name, gearName }) => [id, `${name} in ${gearName}`])),
  }
}

/** All rules, those of one's own first, each with where it is in force and what it has raised. */
export async function loadRules(present: Present) {
  const { db, nowMs } = present
  const [rules, scopes] = await Promise.all([present.rules(), present.scopes()])
  const classes = classesOf(rules, [...scopes.values()])
  const [series, names, counts] = await Promise.all([
    countSeriesByClass(db, classes, nowMs),
    placeNames(
      db,
      rules.map(({ rule }) => rule.scope.where),
    ),
    countAlertsByRule(db, new Date(nowMs - MONTH_MS)),
  ])
  const coverage = coverageOf(rules, classes, series)
  const views = rules.map((kept): RuleView => {
    const { rule } = kept
    const own = counts.get(rule.key)
    return {
      id: kept.id,
      key: rule.key,
      name: rule.name,
      why: inReadersScale(rule.why),
      words: ruleWords(rule),
      scope: scopeWords(rule.scope, names),
      where: rule.scope.where.kind,
      gearKind: rule.scope.gearKind,
      isDefault: kept.isDefault,
      isOn: kept.isOn,
      createdBy: kept.createdBy,
      ...coverage.get(kept.id)!,
      open: own?.open ?? 0,
      month: own?.opened ?? 0,
    }
  })
  return { rules: views, series: series.reduce((sum, { count }) => sum + count, 0) }
}

/** What a form of a rule can choose from. */
export async function loadRuleOptions(db: Db) {
  const [scopes, rooms, racks, groups] = await Promise.all([
    listGearScopes(db),
    listRooms(db),
    listRacks(db),
    listGroups(db),
  ])
  const gear = [...scopes.values()]
  const distinct = (all: readonly (string | null)[]): string[] =>
    [...new Set(all.filter((each) => each !== null))].sort()
  return {
    tags: distinct(gear.flatMap(({ tags }) => tags)),
    clusters: distinct(gear.map(({ cluster }) => cluster)),
    rooms: rooms.map(({ id, name }) => ({ id, name })),
    racks: racks.map(({ id, name }) => ({ id, name })),
    groups: groups.map(({ id, name }) => ({ id, name })),
    gear: gear
      .map(({ gearId, gearName }) => ({ id: gearId, name: gearName }))
      .sort((a, b) => a.name.localeCompare(b.name)),
  }
}
export type RuleOptions = Awaited<ReturnType<typeof loadRuleOptions>>

/** One rule in a form, or a new one: for one series, for what a text says, like another, or empty. */
export async function loadRuleForm(
  db: Db,
  id: number | null,
  like: URLSearchParams,
): Promise<RuleForm | null> {
  const options = await loadRuleOptions(db)
  if (id !== null) return formOfKept(db, options, id)
  const likeId = Number(like.get('like') ?? '0')
  const subject = await findSubject(db, Number(like.get('series') ?? '0'))
  if (subject !== undefined) return formForSeries(db, options, subject, likeId)
  const measure = like.get('measure') ?? ''
  if (isMeasureKey(measure)) return { options, fields: fieldsOfLine(measure, like), kept: null, like: null }
  const pattern = like.get('pattern')
  if (pattern !== null) return { options, fields: fieldsOfPattern(pattern), kept: null, like: null }
  const other = likeId > 0 ? await findRule(db, likeId) : null
  return {
    options,
    fields: other === null ? EMPTY : { ...fieldsOfRule(other.rule), why: other.rule.why },
    kept: null,
    like: other?.rule.name ?? null,
  }
}

interface RuleForm {
  readonly options: RuleOptions & {
    readonly parts?: readonly { readonly id: number; readonly name: string }[]
  }
  readonly fields: Readonly<Record<string, string>>
  /** The rule as it is kept; `null` of a new one. */
  readonly kept:
    | (Pick<RuleRow, 'id' | 'isDefault' | 'isOn' | 'createdBy'> & {
        readonly key: string
        readonly name: string
      })
    | null
  /** The name of the rule that it begins like. */
  readonly like: string | null
}

async function formOfKept(db: Db, options: RuleOptions, id: number): Promise<RuleForm | null> {
  const found = await findRule(db, id)
  if (found === null) return null
  const { rule, isDefault, isOn, createdBy } = found
  return {
    options: withPart(options, await placeNames(db, [rule.scope.where])),
    fields: fieldsOfRule(rule),
    kept: { id, isDefault, isOn, createdBy, key: rule.key, name: rule.name },
    like: null,
  }
}

/** A line of one's own for one series: like the rule that is asked for, else like the one in force. */
async function formForSeries(
  db: Db,
  options: RuleOptions,
  subject: SubjectRow,
  likeId: number,
): Promise<RuleForm> {
  const { partId, gearId, partName, gearName, measure } = subject
  const settled = rulesInForce(await listRules(db), subject)
  const base = (
    settled.find(({ kept }) => kept.id === likeId) ?? settled.find(({ kept }) => isSeriesRule(kept.rule))
  )?.kept
  const where: Where = partId === null ? { kind: 'gear', id: gearId } : { kind: 'part', id: partId }
  const label = partName === null ? gearName : `${partName} in ${gearName}`
  return {
    options: withPart(options, await placeNames(db, [where])),
    fields: {
      ...(base === undefined ? { ...EMPTY, measure } : fieldsOfRule(base.rule)),
      name: `${base?.rule.name ?? 'Own line'} of ${label}`.slice(0, 80),
      why: '',
      gearKind: '',
      partKind: '',
      role: '',
      ...fieldsOfWhere(where),
    },
    kept: null,
    like: base?.rule.name ?? null,
  }
}

/** A line that somebody has looked at, where they have looked. */
function fieldsOfLine(measure: MeasureKey, asked: URLSearchParams): Record<string, string> {
  const given = (name: string, otherwise = ''): string => (asked.get(name) ?? otherwise).slice(0, 120)
  return {
    ...EMPTY,
    measure,
    direction: given('direction') === 'below' ? 'below' : 'above',
    warning: given('warning'),
    role: given('role'),
    whereKind: given('whereKind', 'everywhere'),
    whereValue: given('whereValue'),
  }
}

const fieldsOfPattern = (pattern: string): Record<string, string> => ({
  ...EMPTY,
  kind: 'text',
  pattern: pattern.replaceAll('"', '').slice(0, 200),
  atMost: '7',
  count: '1',
  window: '15 min',
})

const EMPTY: Record<string, string> = {
  kind: 'level',
  name: '',
  why: '',
  measure: 'hw.temperature',
  direction: 'above',
  persistence: 'count',
  k: '4',
  n: '6',
  gearKind: '',
  partKind: '',
  role: '',
  whereKind: 'everywhere',
  whereValue: '',
  severity: 'warning',
}

const withPart = (options: RuleOptions, names: PlaceNames) => ({
  ...options,
  parts: [...names.parts].map(([id, name]) => ({ id, name })),
})
