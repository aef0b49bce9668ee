import { json } from '@sveltejs/kit'
import { loadGearList } from '$lib/server/gear/gearList'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

/** All gear as the list has it. */
export const GET: RequestHandler = async ({ locals }) => json(await loadGearList(presentOf(locals)))
