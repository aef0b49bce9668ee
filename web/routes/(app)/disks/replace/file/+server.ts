import { loadReplacements } from '$lib/server/disks/disks'
import { asCsv } from '$lib/server/platform/csv'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

const dayOf = (ms: number | null): string => (ms === null ? '' : new Date(ms).toISOString().slice(0, 10))

/** The drives to be replaced as CSV (RFC 4180), dates as days (ISO 8601), UTC. */
export const GET: RequestHandler = async ({ locals }) => {
  const list = await loadReplacements(presentOf(locals))
  const body = asCsv({
    name: 'Replace',
    head: ['Order by', 'Worn out', 'Drive', 'In', 'Place', 'Model', 'Serial', 'Life left (%)', 'Why'],
    rows: list.map(({ drive, orderByMs, why }) => [
      orderByMs === null ? 'now' : dayOf(orderByMs),
      dayOf(drive.wornMs),
      drive.name,
      drive.gear,
      drive.place,
      drive.model ?? '',
      drive.serial ?? '',
      drive.lifeLeft === null ? '' : Math.round(drive.lifeLeft * 100),
      why,
    ]),
  })
  return new Response(body, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': 'attachment; filename="replace.csv"',
    },
  })
}
