import { error } from '@sveltejs/kit'
import { inventoryFilterOf, fitsInventory } from '#core/gear'
import { installation } from '$lib/server/platform/installation'
import { loadInventory, loadPartInventory } from '$lib/server/gear/inventory'
import { gearSheet, partSheet } from '$lib/server/gear/inventoryFile'
import { asCsv } from '$lib/server/platform/csv'
import { writeWorkbook } from '$lib/server/platform/workbook'
import type { RequestHandler } from './$types'

/** What is shown, as a file: with the same filter in the address. */
export const GET: RequestHandler = async ({ url }) => {
  const { db } = installation()
  const filter = inventoryFilterOf(url.searchParams)
  const nowMs = Date.now()
  const isParts = url.searchParams.get('of') === 'parts'
  const sheet = isParts
    ? partSheet((await loadPartInventory(db)).filter((row) => fitsInventory(row, filter, nowMs)))
    : gearSheet((await loadInventory(db)).filter((row) => fitsInventory(row, filter, nowMs)))
  const name = isParts ? 'parts' : 'inventory'
  const headers = (type: string, ending: string) => ({
    'content-type': type,
    'content-disposition': `attachment; filename="${name}.${ending}"`,
  })
  switch (url.searchParams.get('as')) {
    case 'csv':
      return new Response(asCsv(sheet), { headers: headers('text/csv; charset=utf-8', 'csv') })
    case 'xlsx':
      return new Response(new Uint8Array(await writeWorkbook([sheet])), {
        headers: headers('application/vnd.openxmlformats-officedocument.spreadsheetml.sheet', 'xlsx'),
      })
    default:
      error(400, 'The inventory is kept as csv or as xlsx.')
  }
}
