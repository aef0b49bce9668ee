import {
  isMeasureKey,
  isSensorRole,
  type MeasureKey,
  measureOf,
  SENSOR_ROLES,
  type SensorRole,
} from '../catalogue/index.ts'

/** Where a pick takes its series from. */
export const PICK_SCOPES = ['everywhere', 'room', 'rack', 'cluster', 'tag', 'group', 'kind', 'gear'] as const
export type PickScope = (typeof PICK_SCOPES)[number]

/** What becomes of many series: each its own curve, or one curve of all. */
export const TOGETHERS = ['each', 'sum', 'mean', 'max', 'min'] as const
export type Together = (typeof TOGETHERS)[number]

/** One curve of all, or one for each of these. */
export const PER = ['all', 'gear', 'rack', 'room', 'cluster', 'tag'] as const
export type Per = (typeof PER)[number]

/** What a curve is compared with. */
export interface Against {
  readonly how: 'less' | 'by'
  readonly measure: MeasureKey
  /** Where that is measured; `null` is on the same thing. */
  readonly from: {
    readonly scope: PickScope
    readonly value: string
    readonly role: SensorRole | null
  } | null
}

/** Some series, by what they mean: “processor use · every host of north”. */
export interface Pick {
  readonly measure: MeasureKey
  /** Only what measures there: the air that goes in, or comes out; `null` is anywhere. */
  readonly role: SensorRole | null
  readonly scope: PickScope
  /** The id or the name of the place; empty for everywhere. */
  readonly value: string
  readonly together: Together
  readonly per: Per
  /** Only so many, those with the highest mean in the window; `null` is all. */
  readonly busiest: number | null
  /** Less another measure of the same thing, or divided by it; or so with the mean of what is measured elsewhere. */
  readonly against: Against | null
  /** How fast it grows a second, of a running total. */
  readonly isRate: boolean
}

export const MOST_PICKS = 12
export const MOST_BUSIEST = 100
const SEPARATOR = '~'

const isOneOf = <T extends string>(all: readonly T[], text: string): text is T =>
  (all as readonly string[]).includes(text)

/** A pick of every series of a measure at a place, each drawn for itself. */
export const pickOf = (measure: MeasureKey, scope: PickScope = 'everywhere', value = ''): Pick => ({
  measure,
  role: null,
  scope,
  value,
  together: 'each',
  per: 'all',
  busiest: null,
  against: null,
  isRate: false,
})

/** A pick as it stands in an address. What is usual is left out at its end. */
export function writePick(pick: Pick): string {
  const { measure, role, scope, value, together, per, busiest, against, isRate } = pick
  const parts = [
    measure,
    scope === 'everywhere' ? '' : scope,
    value,
    together === 'each' ? '' : together,
    per === 'all' ? '' : per,
    busiest === null ? '' : String(busiest),
    against === null ? '' : writeAgainst(against),
    isRate ? 'rate' : '',
    role ?? '',
  ]
  while (parts.length > 1 && parts.at(-1) === '') parts.pop()
  return parts.map((part) => part.replaceAll('%', '%25').replaceAll(SEPARATOR, '%7E')).join(SEPARATOR)
}

const writeAgainst = ({ how, measure, from }: Against): string =>
  `${how}.${measure}${from === null ? '' : `;${from.scope};${from.role ?? ''};${from.value}`}`

/** @returns `undefined` when it is none */
function readAgainst(text: string): Against | null | undefined {
  if (text === '') return null
  const [of = '', scope, role = '', ...value] = text.split(';')
  const how = of.startsWith('less.') ? 'less' : of.startsWith('by.') ? 'by' : null
  const measure = of.slice(of.indexOf('.') + 1)
  if (how === null || !isMeasureKey(measure)) return undefined
  if (scope === undefined) return { how, measure, from: null }
  if (!isOneOf(PICK_SCOPES, scope) || (role !== '' && !isSensorRole(role))) return undefined
  return {
    how,
    measure,
    from: { scope, role: role === '' ? null : role, value: value.join(';').slice(0, 120) },
  }
}

/** The pick of what a pick is compared with, where that is measured elsewhere. */
export const comparedOf = ({ against }: Pick): Pick | null =>
  against === null || against.from === null
    ? null
    : { ...pickOf(against.measure, against.from.scope, against.from.value), role: against.from.role }

/** @returns the pick, or in a sentence what cannot be one */
export function readPick(text: string): Pick | string {
  const parts = text.split(SEPARATOR).map((part) => part.replaceAll('%7E', SEPARATOR).replaceAll('%25', '%'))
  const [
    measure = '',
    scope = '',
    value = '',
    together = '',
    per = '',
    busiest = '',
    against = '',
    rate = '',
    role = '',
  ] = parts
  const shown = `“${text.slice(0, 60)}”`
  if (!isMeasureKey(measure)) return `${shown} asks for “${measure.slice(0, 40)}”, which is no measure.`
  const where = scope === '' ? 'everywhere' : scope
  if (!isOneOf(PICK_SCOPES, where)) return `${shown} asks for “${where.slice(0, 40)}”, which is no place.`
  if (where !== 'everywhere' && value === '') return `${shown} does not say which ${where}.`
  const many = busiest === '' ? null : Number(busiest)
  if (many !== null && !(Number.isInteger(many) && many >= 1 && many <= MOST_BUSIEST))
    return `${shown} asks for the “${busiest.slice(0, 12)}” busiest; it may be 1 to ${MOST_BUSIEST}.`
  const compared = readAgainst(against)
  if (compared === undefined) return `${shown} compares with what is no measure.`
  if (role !== '' && !isSensorRole(role))
    return `${shown} asks for “${role.slice(0, 40)}”, where nothing measures.`
  return {
    measure,
    role: role === '' ? null : role,
    scope: where,
    value: where === 'everywhere' ? '' : value.slice(0, 120),
    together: isOneOf(TOGETHERS, together) ? together : 'each',
    per: isOneOf(PER, per) ? per : 'all',
    busiest: many,
    against: compared,
    isRate: rate === 'rate',
  }
}

/** What a pick needs to know of a series to tell whether it is among its own. */
export interface Pickable {
  readonly measure: MeasureKey
  readonly role?: SensorRole | null
  readonly gearId: number
  readonly gearKind: string
  readonly rackId: number | null
  readonly roomId: number | null
  readonly cluster: string | null
  readonly tags: readonly string[]
  readonly groupIds: readonly number[]
  /** The part is one of several of a whole that has the measure itself: a core beside its processor. */
  readonly hasWhole?: boolean
}

/** Whether a series lies where a pick takes its series from. */
export function isWhere(
  { scope, value }: { readonly scope: PickScope; readonly value: string },
  of: Omit<Pickable, 'measure'>,
): boolean {
  switch (scope) {
    case 'everywhere':
      return true
    case 'room':
      return String(of.roomId) === value
    case 'rack':
      return String(of.rackId) === value
    case 'cluster':
      return of.cluster === value
    case 'tag':
      return of.tags.includes(value)
    case 'group':
      return of.groupIds.includes(Number(value))
    case 'kind':
      return of.gearKind === value
    case 'gear':
      return String(of.gearId) === value
  }
}

/** Whether a series is among those of a pick. Parts of a whole are picked by their gear only. */
export const isPicked = (pick: Pick, of: Pickable): boolean =>
  pick.measure === of.measure &&
  (pick.role === null || pick.role === of.role) &&
  isWhere(pick, of) &&
  (of.hasWhole !== true || pick.scope === 'gear')

const TOGETHER_WORDS: Readonly<Record<Together, string>> = {
  each: '',
  sum: 'sum of',
  mean: 'mean of',
  max: 'highest of',
  min: 'lowest of',
}
const PER_WORDS: Readonly<Record<Per, string>> = {
  all: '',
  gear: 'of each gear',
  rack: 'of each rack',
  room: 'of each room',
  cluster: 'of each cluster',
  tag: 'of each tag',
}

/** “Temperature”, “Inlet temperature”. */
export function measureWords(measure: MeasureKey, role: SensorRole | null): string {
  const { label } = measureOf(measure)
  if (role === null) return label
  const { noun } = SENSOR_ROLES[role]
  return `${noun.charAt(0).toUpperCase()}${noun.slice(1)} ${label.toLowerCase()}`
}

function comparedWords({ measure, from }: Against, place: string): string {
  const label = measureWords(measure, from?.role ?? null).toLowerCase()
  return from === null ? label : `mean ${label} of ${place === '' ? 'everything' : place}`
}

/**
 * “Processor use · every host of north”, “Power · sum of everything, of each rack”.
 * @param place the place in words: “north”, “rack B03”; empty for everywhere
 * @param from the same of what it is compared with
 */
export function pickWords(pick: Pick, place: string, from = ''): string {
  const { measure, against, isRate, together, per, busiest } = pick
  const label = measureWords(measure, pick.role)
  const other =
    against === null
      ? ''
      : ` ${against.how === 'less' ? 'less' : 'divided by'} ${comparedWords(against, from)}`
  const what = `${label}${other}${isRate ? ', a second' : ''}`
  const where = place === '' ? 'everywhere' : place
  const most = busiest === null ? '' : `, the ${busiest} busiest`
  const of = together === 'each' ? where : `${TOGETHER_WORDS[together]} ${where}`
  return `${what} · ${of}${together === 'each' || per === 'all' ? '' : `, ${PER_WORDS[per]}`}${most}`
}
