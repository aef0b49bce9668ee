import { asCsv } from '$lib/server/platform/csv'
import { writeWorkbook } from '$lib/server/platform/workbook'
import { pastSheets } from '$lib/server/past/pastSheets'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

/** What is looked back at, by time, as CSV (RFC 4180); with its statistics as a workbook. */
export const GET: RequestHandler = async ({ locals, url }) => {
  const { statistics, times } = await pastSheets(presentOf(locals), url)
  const isWorkbook = url.searchParams.get('as') === 'xlsx'
  const body = isWorkbook ? new Uint8Array(await writeWorkbook([statistics, times])) : asCsv(times)
  return new Response(body, {
    headers: {
      'content-type': isWorkbook
        ? 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'
        : 'text/csv; charset=utf-8',
      'content-disposition': `attachment; filename="past.${isWorkbook ? 'xlsx' : 'csv'}"`,
    },
  })
}
