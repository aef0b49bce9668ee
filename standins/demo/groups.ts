import { insertGroup, insertTagRule } from '#db/gear'
import type { Db } from '#db/platform'

/** Groups that somebody at the site would have made. */
export async function insertDemoGroups(trx: Db, idOf: (name: string) => number | null): Promise<void> {
  const ids = (names: readonly string[]): number[] => names.flatMap((name) => idOf(name) ?? [])
  const groups = [
    {
      name: 'Tide forecast',
      note: 'Six of the eight tide models carry a run; with fewer it is late for the harbour.',
      rule: 'atLeast' as const,
      least: 6,
      unknown: 'open' as const,
      tag: null,
      memberIds: ids([1, 2, 3, 4, 5, 6, 7, 8].map((number) => `tide-model-0${number}`)),
    },
    {
      name: 'Forecast for the public',
      note: 'Any one of the four answers for all.',
      rule: 'any' as const,
      least: 1,
      unknown: 'bad' as const,
      tag: null,
      memberIds: ids([1, 2, 3, 4].map((number) => `forecast-api-0${number}`)),
    },
    {
      name: 'Cameras',
      note: 'All cameras, what records them and what it records on.',
      rule: 'all' as const,
      least: 1,
      unknown: 'open' as const,
      tag: null,
      memberIds: ids(['camera-north', 'camera-aisle', 'camera-yard', 'camera-lantern', 'recorder']),
    },
  ]
  for (const group of groups) if (group.memberIds.length > 0) await insertGroup(trx, group)
  for (const [tag, name] of [
    ['forecast', 'tide-model-*'],
    ['forecast', 'surge-model-*'],
    ['forecast', 'fog-model-*'],
    ['public', 'forecast-api-*'],
  ] as const)
    await insertTagRule(trx, tag, { name, kind: 'machine', roomId: null, rackId: null, sourceId: null })
}
