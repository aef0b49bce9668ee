import { json } from '@sveltejs/kit'
import { loadDrives } from '$lib/server/disks/disks'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

/** All drives, for the list that is open. */
export const GET: RequestHandler = async ({ locals }) => json(await loadDrives(presentOf(locals)))
