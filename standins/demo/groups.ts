import type { GroupRule, UnknownMembers } from '#core/gear'
import { parseServiceHours } from '#core/past'
import { insertGroup, insertTagRule, type NewGroup } from '#db/gear'
import type { Db } from '#db/platform'

interface DemoGroup extends Partial<Pick<NewGroup, 'isService' | 'plain' | 'owner' | 'level' | 'hours'>> {
  readonly name: string
  readonly note: string
  readonly rule: GroupRule
  readonly least?: number
  readonly unknown?: UnknownMembers
  readonly gear?: readonly string[]
  /** Groups before it in the list. */
  readonly groups?: readonly string[]
}

const numbered = (name: string, count: number): string[] =>
  Array.from({ length: count }, (_, index) => `${name}-0${index + 1}`)

/** What stands in others comes before them. */
const GROUPS: readonly DemoGroup[] = [
  {
    name: 'First data path',
    plain: 'its first data path',
    note: 'The switches of side A, from the hosts to the chassis.',
    rule: 'all',
    gear: ['reef-1', 'shoal-1'],
  },
  {
    name: 'Second data path',
    plain: 'its second data path',
    note: 'The switches of side B.',
    rule: 'all',
    gear: ['reef-2', 'shoal-2'],
  },
  {
    name: 'Data paths',
    plain: 'both its data paths',
    note: 'Either carries everything.',
    rule: 'any',
    groups: ['First data path', 'Second data path'],
  },
  {
    name: 'Tide forecast',
    plain: 'the tide forecast',
    note: 'Six of the eight tide models carry a run; with fewer it is late for the harbour.',
    rule: 'atLeast',
    least: 6,
    gear: numbered('tide-model', 8),
    isService: true,
    owner: 'Forecast office',
    level: 0.995,
    hours: parseServiceHours('Mon–Sun 04:00–23:00'),
  },
  {
    name: 'Forecast answers',
    plain: 'what answers for it',
    note: 'Any one of the four answers for all.',
    rule: 'any',
    unknown: 'bad',
    gear: numbered('forecast-api', 4),
  },
  {
    name: 'Forecast for the public',
    plain: 'the public forecast',
    note: 'What anybody on the coast sees: the answers, and a way for the data.',
    rule: 'all',
    groups: ['Forecast answers', 'Data paths'],
    isService: true,
    owner: 'Forecast office',
    level: 0.999,
  },
  {
    name: 'Cameras',
    plain: 'the cameras',
    note: 'All cameras, what records them and what it records on.',
    rule: 'all',
    gear: ['camera-north', 'camera-aisle', 'camera-yard', 'camera-lantern', 'recorder'],
    isService: true,
    owner: 'Harbour office',
    level: 0.99,
    hours: parseServiceHours('Mon–Fri 06:00–22:00'),
  },
]

/** Groups that somebody at the site would have made. */
export async function insertDemoGroups(trx: Db, idOf: (name: string) => number | null): Promise<void> {
  const made = new Map<string, number>()
  for (const { gear = [], groups = [], ...group } of GROUPS) {
    const memberIds = gear.flatMap((name) => idOf(name) ?? [])
    const groupIds = groups.flatMap((name) => made.get(name) ?? [])
    if (memberIds.length + groupIds.length === 0) continue
    const whole = { least: 1, unknown: 'open' as const, tag: null, ...group }
    made.set(group.name, await insertGroup(trx, { ...whole, memberIds, groupIds }))
  }
  for (const [tag, name] of [
    ['forecast', 'tide-model-*'],
    ['forecast', 'surge-model-*'],
    ['forecast', 'fog-model-*'],
    ['public', 'forecast-api-*'],
  ] as const)
    await insertTagRule(trx, tag, { name, kind: 'machine', roomId: null, rackId: null, sourceId: null })
}
