import { error } from '@sveltejs/kit'
import { listRecord } from '#db/accounts'
import { MOST_LINES, recordSheet, signedLines } from '$lib/server/accounts/recordFile'
import { recordFilterOf } from '$lib/server/accounts/recordFilter'
import { asCsv } from '$lib/server/platform/csv'
import { installation } from '$lib/server/platform/installation'
import { windowIn } from '$lib/server/readings/window'
import type { RequestHandler } from './$types'

/** The record as a file, with the filter and the window of the address: `as=csv`, or `as=jsonl` with a signature. */
export const GET: RequestHandler = async ({ url }) => {
  const { db, key } = installation()
  const filter = recordFilterOf(url.searchParams, windowIn(url, Date.now()))
  const lines = () => listRecord(db, filter, MOST_LINES)
  const answer = (text: string, type: string, ending: string) =>
    new Response(text, {
      headers: { 'content-type': type, 'content-disposition': `attachment; filename="record.${ending}"` },
    })
  switch (url.searchParams.get('as')) {
    case 'csv':
      return answer(asCsv(recordSheet(await lines())), 'text/csv; charset=utf-8', 'csv')
    case 'jsonl':
      return answer(signedLines(await lines(), key), 'application/jsonl; charset=utf-8', 'jsonl')
    default:
      error(400, 'The record is kept as csv or as jsonl.')
  }
}
