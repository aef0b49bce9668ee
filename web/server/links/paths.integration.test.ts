import fc from 'fast-check'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { GEAR_KINDS, type GearKind, type LinkKind } from '#core/catalogue'
import { insertGroup, listNamesOfGear } from '#db/gear'
import { drawLink } from '#db/links'
import type { Db } from '#db/platform'
import { freshDatabase } from '#db/testing/database'
import { Present } from '../platform/present.ts'
import { loadGraph, loadPath, loadPathAround } from './paths.ts'

let db: Db
let drop: () => Promise<void>
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(() => drop())

const KINDS = Object.keys(GEAR_KINDS) as GearKind[]
const LINKS: readonly LinkKind[] = ['contains', 'hosts', 'stores-on', 'fed-by', 'cooled-by', 'wired-to']
const number = (below: number) => fc.nat(below - 1)

const site = fc.record({
  kinds: fc.array(fc.constantFrom(...KINDS), { minLength: 3, maxLength: 14 }),
  links: fc.array(fc.tuple(fc.constantFrom(...LINKS), number(14), number(14)), { maxLength: 30 }),
  members: fc.uniqueArray(number(14), { minLength: 1, maxLength: 4 }),
  tagged: fc.uniqueArray(number(14), { maxLength: 3 }),
})

test('what hangs together with a gear is the same, asked for step by step or cut from the whole site', async () => {
  await fc.assert(
    fc.asyncProperty(site, async ({ kinds, links, members, tagged }) => {
      for (const table of ['link', 'gearGroup', 'gear'] as const) await db.deleteFrom(table).execute()
      const ids: number[] = []
      for (const [index, kind] of kinds.entries())
        ids.push(
          (
            await db
              .insertInto('gear')
              .values({
                name: `gear-${index}`,
                kind,
                facts: '{}',
                own: '{}',
                rackId: null,
                unit: null,
                heightUnits: null,
                tags: tagged.includes(index) ? ['tide'] : [],
              })
              .returning('id')
              .executeTakeFirstOrThrow()
          ).id,
        )
      const at = (index: number): number => ids[index % ids.length]!
      for (const [kind, from, to] of links)
        if (at(from) !== at(to)) await drawLink(db, { kind, fromGearId: at(from), toGearId: at(to) }, 'Asta')
      const rule = { note: '', rule: 'all' as const, least: 1, unknown: 'bad' as const }
      const memberIds = [...new Set(members.map(at))]
      const groupIds = [
        await insertGroup(db, { ...rule, name: 'named', tag: null, memberIds }),
        await insertGroup(db, { ...rule, name: 'tagged', tag: 'tide', memberIds: [] }),
      ]
      await insertGroup(db, { ...rule, name: 'both', tag: null, memberIds: [ids[0]!], groupIds })

      const present = new Present(db, Date.now())
      const whole = await loadGraph(present)
      for (const gear of await listNamesOfGear(db))
        expect(await loadPathAround(present, gear)).toEqual(await loadPath(present, whole, [gear.id]))
    }),
    { numRuns: 25, seed: 20261127 },
  )
}, 60_000)
