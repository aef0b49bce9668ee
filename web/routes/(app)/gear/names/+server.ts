import { json } from '@sveltejs/kit'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

/** The names of all gear, for a field that proposes them. */
export const GET: RequestHandler = async ({ locals }) => {
  const names = await presentOf(locals).names()
  return json([...new Set(names.map(({ name }) => name))])
}
