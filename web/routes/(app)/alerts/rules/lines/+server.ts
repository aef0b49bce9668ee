import { error, json } from '@sveltejs/kit'
import { parseSpan } from '#core/units'
import { installation } from '$lib/server/platform/installation'
import { tryPattern } from '$lib/server/logs/logs'
import type { RequestHandler } from './$types'

/** What a pattern would have found among the stored lines. */
export const GET: RequestHandler = async ({ url }) => {
  const pattern = (url.searchParams.get('pattern') ?? '').trim()
  const count = Number(url.searchParams.get('count'))
  const atMost = Number(url.searchParams.get('atMost') ?? '7')
  if (pattern === '' || pattern.length > 200) error(400, 'Say what a line must look like.')
  if (!Number.isInteger(count) || count < 1) error(400, 'How many lines is a whole number above 0.')
  let windowMs: number
  try {
    windowMs = parseSpan(url.searchParams.get('window') ?? '')
  } catch {
    error(400, 'Give the window, as in “15 min”.')
  }
  return json(await tryPattern(installation().db, { pattern, atMost, count, windowMs }, Date.now()))
}
