import { needsOf, type QuietReach, type QuietScope, reachOf } from '#core/alerts'
import { listLinkedPairs } from '../links/index.ts'
import type { Db } from '../platform/connect.ts'
import type { GearScope } from '../rules/subjects.ts'

/** Tells what a quiet takes along, and what it spares, from the links as they are now. */
export async function quietReach(
  db: Db,
  scopes: ReadonlyMap<number, GearScope>,
): Promise<(scope: Pick<QuietScope, 'where' | 'named'>) => QuietReach> {
  const needs = needsOf(await listLinkedPairs(db), (id) => scopes.get(id)?.gearKind)
  return ({ where, named }) => reachOf(where, named ?? [], scopes, needs)
}
