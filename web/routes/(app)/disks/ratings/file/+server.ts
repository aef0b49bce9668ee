import { listModels } from '#db/disks'
import { asCsv } from '$lib/server/platform/csv'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

const TB = 1e12

/** The catalogue of ratings as CSV (RFC 4180), with the models that have none; it can be read back. */
export const GET: RequestHandler = async ({ locals }) => {
  const models = await listModels(presentOf(locals).db)
  const body = asCsv({
    name: 'Ratings',
    head: ['model', 'endurance', 'source'],
    rows: models.map(({ model, ratedBytes, origin }) => [
      model,
      ratedBytes === null ? '' : `${ratedBytes / TB} TB`,
      origin ?? '',
    ]),
  })
  return new Response(body, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': 'attachment; filename="ratings.csv"',
    },
  })
}
