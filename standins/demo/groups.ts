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
      members: ids([1, 2, 3, 4, 5, 6, 7, 8].map((number) => `tide-model-0${number}`)),
    },
    {
      name: 'Forecast for the public',
      note: 'Any one of the four answers for all.',
      rule: 'any' as const,
      least: 1,
      unknown: 'bad' as const,
      tag: null,
      members: ids([1, 2, 3, 4].map((number) => `forecast-api-0${number}`)),
    },
    {
      name: 'Cameras',
      note: 'All cameras, what records them and what it records on.',
      rule: 'all' as const,
      least: 1,
      unknown: 'open' as const,
      tag: null,
      members: ids(['camera-north', 'camera-aisle', 'camera-yard', 'camera-lantern', 'recorder']),
    },
  ]
  for (const { members, ...group } of groups) {
    if (members.length === 0) continue
    const { id } = await trx.insertInto('gearGroup').values(group).returning('id').executeTakeFirstOrThrow()
    await trx
      .insertInto('gearGroupMember')
      .values(members.map((gearId) => ({ groupId: id, gearId })))
      .execute()
  }
  for (const [tag, name] of [
    ['forecast', 'tide-model-*'],
    ['forecast', 'surge-model-*'],
    ['forecast', 'fog-model-*'],
    ['public', 'forecast-api-*'],
  ] as const)
    await trx
      .insertInto('tagRule')
      .values({
        tag,
        body: JSON.stringify({ name, kind: 'machine', roomId: null, rackId: null, sourceId: null }),
      })
      .execute()
}
