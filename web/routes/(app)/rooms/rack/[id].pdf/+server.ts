import { error } from '@sveltejs/kit'
import { loadInventory } from '$lib/server/gear/inventory'
import { idOf } from '$lib/server/platform/params'
import { rackSheet } from '$lib/server/site/rackSheet'
import { loadRooms } from '$lib/server/site/rooms'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

export const GET: RequestHandler = async ({ params, locals }) => {
  const present = presentOf(locals)
  const [rooms, site] = await Promise.all([loadRooms(present), present.site()])
  const id = idOf(params.id)
  const room = rooms.find(({ racks }) => racks.some((rack) => rack.id === id))
  const rack = room?.racks.find((each) => each.id === id)
  if (room === undefined || rack === undefined) error(404, 'There is no such rack.')
  const rows = new Map((await loadInventory(present.db)).map((row) => [row.id, row]))
  const made = new Intl.DateTimeFormat('en-GB', { dateStyle: 'long', timeZone: site.timeZone }).format(
    new Date(),
  )
  const sheet = await rackSheet({ site: site.name, room: room.name, rack, rows, made })
  return new Response(new Uint8Array(sheet), {
    headers: {
      'content-type': 'application/pdf',
      'content-disposition': `inline; filename="${rack.name.replaceAll(/[^\w-]/g, '_')}.pdf"`,
    },
  })
}
