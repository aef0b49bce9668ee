import { GEAR_KINDS, type MeasureKey, measureOf, SENSOR_ROLES, type SensorRole } from '#core/catalogue'
import {
  type Findable,
  findPicks,
  isPicked,
  measureWords,
  MOST_PICKS,
  type Pick,
  type PickScope,
  pickOf,
  pickWords,
  readPick,
  writePick,
} from '#core/past'
import { listMeasures } from '#db/gear'
import { listSubjects, type SubjectRow } from '#db/rules'
import type { Present } from '../platform/present.ts'

interface Place {
  readonly scope: PickScope
  readonly value: string
}

/** Every place that series can be picked from, the widest first. */
async function placesOf(present: Present): Promise<Findable<Place>[]> {
  const [rooms, racks, groups, scopes] = await Promise.all([
    present.rooms(),
    present.racks(),
    present.groups(),
    present.scopes(),
  ])
  const gear = [...scopes.values()]
  const distinct = <T>(all: readonly (T | null)[]): T[] => [
    ...new Set(all.flatMap((each) => (each === null ? [] : [each]))),
  ]
  const place = (scope: PickScope, value: string, label: string, also = ''): Findable<Place> => ({
    of: { scope, value },
    label,
    also: `${scope} ${also}`,
  })
  return [
    place('everywhere', '', 'everywhere'),
    ...rooms.map(({ id, name }) => place('room', String(id), name)),
    ...distinct(gear.map(({ cluster }) => cluster)).map((name) => place('cluster', name, `cluster ${name}`)),
    ...racks.map(({ id, name }) => place('rack', String(id), `rack ${name}`)),
    ...groups.map(({ id, name }) => place('group', String(id), `group ${name}`)),
    ...distinct(gear.flatMap(({ tags }) => [...tags])).map((tag) => place('tag', tag, `tagged ${tag}`)),
    ...distinct(gear.map(({ gearKind }) => gearKind)).map((kind) =>
      place('kind', kind, `every ${GEAR_KINDS[kind].label.toLowerCase()}`),
    ),
    ...gear.map(({ gearId, gearName, gearKind }) =>
      place('gear', String(gearId), gearName, GEAR_KINDS[gearKind].label),
    ),
  ]
}

interface What {
  readonly measure: MeasureKey
  readonly role: SensorRole | null
}

async function whatIsMeasured(present: Present): Promise<Findable<What>[]> {
  const measures = await listMeasures(present.db)
  const plain = measures.map((measure): Findable<What> => ({
    of: { measure, role: null },
    label: measureWords(measure, null),
    also: measureOf(measure).group,
  }))
  const byRole = measures.includes('hw.temperature')
    ? (Object.keys(SENSOR_ROLES) as SensorRole[]).map((role): Findable<What> => ({
        of: { measure: 'hw.temperature', role },
        label: measureWords('hw.temperature', role),
      }))
    : []
  return [...plain, ...byRole]
}

export interface Suggestion {
  /** As it stands in an address. */
  readonly pick: string
  readonly words: string
  readonly series: number
}

const MOST_SUGGESTED = 12

/** What fits the words that somebody types, with how many series each has. */
export async function suggestPicks(present: Present, typed: string): Promise<Suggestion[]> {
  const [places, measures] = await Promise.all([placesOf(present), whatIsMeasured(present)])
  const scopes = await present.scopes()
  const byMeasure = new Map<MeasureKey, SubjectRow[]>()
  const rough = findPicks(typed, measures, places, { most: 400, exists: () => true })
  const wanted = [...new Set(rough.map(({ measure }) => measure.of.measure))].slice(0, 40)
  for (const subject of await listSubjects(present.db, { measures: wanted }, scopes)) {
    const known = byMeasure.get(subject.measure)
    if (known === undefined) byMeasure.set(subject.measure, [subject])
    else known.push(subject)
  }
  const suggestions: Suggestion[] = []
  for (const { measure, place } of rough) {
    const pick: Pick = {
      ...pickOf(measure.of.measure, place.of.scope, place.of.value),
      role: measure.of.role,
    }
    const series = (byMeasure.get(pick.measure) ?? []).filter((subject) => isPicked(pick, subject)).length
    if (series === 0) continue
    suggestions.push({ pick: writePick(pick), words: `${measure.label} · ${place.label}`, series })
    if (suggestions.length === MOST_SUGGESTED) break
  }
  return suggestions
}

const OFTEN: readonly Pick[] = [
  pickOf('system.cpu.utilization', 'kind', 'server'),
  pickOf('system.memory.utilization', 'kind', 'server'),
  { ...pickOf('hw.temperature'), role: 'intake' },
  pickOf('hw.power', 'kind', 'server'),
  pickOf('system.filesystem.utilization', 'kind', 'store'),
  { ...pickOf('hw.network.io.receive', 'kind', 'switch'), busiest: 10 },
  pickOf('ups.battery.minutes_left'),
]

/** What people look back at first, as far as it is measured here. */
export async function oftenAsked(present: Present): Promise<Suggestion[]> {
  const [scopes, words] = await Promise.all([present.scopes(), placeWords(present)])
  const measures = OFTEN.map(({ measure }) => measure)
  const all = await listSubjects(present.db, { measures }, scopes)
  return OFTEN.flatMap((pick) => {
    const series = all.filter((subject) => isPicked(pick, subject)).length
    return series === 0 ? [] : [{ pick: writePick(pick), words: pickWords(pick, words(pick) ?? ''), series }]
  })
}

/** What an address asks for, and in sentences what of it cannot be. */
export function picksIn(url: URL): { readonly picks: readonly Pick[]; readonly problems: string[] } {
  const texts = url.searchParams.getAll('p')
  const read = texts.slice(0, MOST_PICKS).map(readPick)
  return {
    picks: read.filter((each) => typeof each !== 'string'),
    problems: [
      ...read.filter((each) => typeof each === 'string'),
      ...(texts.length > MOST_PICKS
        ? [`${texts.length} picks were asked for; the first ${MOST_PICKS} are shown.`]
        : []),
    ],
  }
}

/** The place of a pick in words; of one that is gone, that it is. */
export async function placeWords(
  present: Present,
): Promise<(pick: { readonly scope: Pick['scope']; readonly value: string }) => string | null> {
  const places = new Map((await placesOf(present)).map(({ of, label }) => [`${of.scope} ${of.value}`, label]))
  return ({ scope, value }) => (scope === 'everywhere' ? '' : (places.get(`${scope} ${value}`) ?? null))
}
