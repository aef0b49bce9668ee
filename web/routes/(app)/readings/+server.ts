import { error, json } from '@sveltejs/kit'
import { z } from 'zod'
import { recordChange } from '#db/platform'
import { EXPORT_FORMATS, exported, streamOf } from '$lib/server/readings/exporting'
import { importReadings } from '$lib/server/readings/importing'
import { installation } from '$lib/server/platform/installation'
import { seriesIn } from '$lib/server/readings/seriesParam'
import type { RequestHandler } from './$types'
import { signedIn } from '$lib/server/platform/signedIn'

const instant = z.coerce.number().int()
const asked = z.object({
  format: z.enum(['csv', 'openmetrics'], 'The format is csv or openmetrics').default('csv'),
  from: instant.default(0),
  to: instant.optional(),
})

/** Readings as a file: `r` the series (all when it is not given), `from` and `to` in ms since the epoch, `format`. */
export const GET: RequestHandler = ({ url }) => {
  const parsed = asked.safeParse(Object.fromEntries(url.searchParams))
  if (!parsed.success) error(400, `${parsed.error.issues[0]?.message ?? 'The address cannot be read'}.`)
  const { format, from, to } = parsed.data
  const seriesIds = url.searchParams.has('r') ? seriesIn(url) : null
  const pieces = exported(installation().db, { seriesIds, fromMs: from, toMs: to ?? Date.now(), format })
  const { type, ending } = EXPORT_FORMATS[format]
  const day = new Date(to ?? Date.now()).toISOString().slice(0, 10)
  return new Response(streamOf(pieces), {
    headers: {
      'content-type': type,
      'content-disposition': `attachment; filename="readings-${day}.${ending}"`,
    },
  })
}

/** Takes readings in: CSV or OpenMetrics text of any size. */
export const POST: RequestHandler = async ({ request, locals }) => {
  if (request.body === null) error(400, 'The file is empty.')
  const { db } = installation()
  const outcome = await importReadings(db, request.body, Date.now())
  await recordChange(db, signedIn(locals).name, `took in ${outcome.taken} readings from a file`)
  return json(outcome)
}
