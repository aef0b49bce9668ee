import { json } from '@sveltejs/kit'
import { installation } from '$lib/server/platform/installation'
import { loadInventory, loadPartInventory } from '$lib/server/gear/inventory'
import type { RequestHandler } from './$types'

/** All rows of the inventory. */
export const GET: RequestHandler = async ({ url }) => {
  const { db } = installation()
  return json(url.searchParams.get('of') === 'parts' ? await loadPartInventory(db) : await loadInventory(db))
}
