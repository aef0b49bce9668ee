import { GEAR_KINDS, isGearKind } from '#core/catalogue'
import type { Db } from '#db/platform'
import { listPending } from '#db/sources'

/** Senders that wait to be claimed, with what they say of themselves in words. */
export async function pendingSenders(db: Db) {
  return (await listPending(db)).map((sender) => ({
    id: sender.id,
    address: sender.address,
    firstMs: sender.firstAt.getTime(),
    lastMs: sender.lastAt.getTime(),
    pushes: sender.pushes,
    readings: sender.readings,
    name: sender.gear[0]?.name ?? 'a sender without gear',
    gear: sender.gear
      .slice(0, 4)
      .map(({ name, kind }) => `${name}, ${isGearKind(kind) ? GEAR_KINDS[kind].label.toLowerCase() : kind}`),
    more: Math.max(0, sender.gear.length - 4),
  }))
}
