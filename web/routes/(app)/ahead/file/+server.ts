import { listForecasts } from '#db/forecast'
import { asCsv } from '$lib/server/platform/csv'
import { writeWorkbook } from '$lib/server/platform/workbook'
import { aheadSheet } from '$lib/server/forecast/aheadSheet'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

/** All that is forecast, as CSV (RFC 4180) or as a workbook. */
export const GET: RequestHandler = async ({ locals, url }) => {
  const present = presentOf(locals)
  const rows = await listForecasts(present.db, ['over', 'crosses', 'not-in-sight', 'too-little'])
  const sheet = aheadSheet(rows)
  const isWorkbook = url.searchParams.get('as') === 'xlsx'
  const body = isWorkbook ? new Uint8Array(await writeWorkbook([sheet])) : asCsv(sheet)
  return new Response(body, {
    headers: {
      'content-type': isWorkbook
        ? 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'
        : 'text/csv; charset=utf-8',
      'content-disposition': `attachment; filename="ahead.${isWorkbook ? 'xlsx' : 'csv'}"`,
    },
  })
}
