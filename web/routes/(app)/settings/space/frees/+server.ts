import { json } from '@sveltejs/kit'
import { bytesOlderThan } from '#db/readings'
import { firstProblem } from '$lib/server/platform/fields'
import { retention } from '$lib/server/readings/forms'
import { installation } from '$lib/server/platform/installation'
import type { RequestHandler } from './$types'

/** What another retention of a measure would free. */
export const GET: RequestHandler = async ({ url }) => {
  const parsed = retention.safeParse(Object.fromEntries(url.searchParams))
  if (!parsed.success) return json({ message: firstProblem(parsed.error) }, { status: 400 })
  const { measure, ...days } = parsed.data
  const today = Math.floor(Date.now() / 86_400_000)
  return json({ bytes: await bytesOlderThan(installation().db, measure, days, today) })
}
