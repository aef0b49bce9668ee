import { listNamesOfGear, recordGearChanges, insertOwnField, saveFilter, writeOwn } from '#db/gear'
import type { Db } from '#db/platform'
import { writeBattery } from '#db/power'

const DAY_MS = 86_400_000
const day = (atMs: number): string => new Date(atMs).toISOString().slice(0, 10)

/** Days from the first day of the demo to the end of the warranty, by how names begin. */
const WARRANTY_DAYS: Readonly<Record<string, number>> = {
  'petrel-01': 41,
  'petrel-02': 41,
  'petrel-03': 41,
  'petrel-04': 41,
  'petrel-05': -23,
  'petrel-06': -23,
  'petrel-07': -23,
  'petrel-08': -23,
  petrel: 512,
  guillemot: 780,
  skua: 309,
  harbour: 76,
  lantern: 602,
  brume: 450,
  reef: 890,
  shoal: 890,
  recorder: 12,
}
/** When batteries were put in, and how long they are made for: those of the UPS whose runtime declines are old, too. */
const BATTERIES = [
  { name: 'harbour-A', daysAgo: 905, years: 5 },
  { name: 'harbour-B', daysAgo: 1706, years: 5 },
  { name: 'lantern-U', daysAgo: 388, years: 4 },
] as const
const LONGEST_FIRST = Object.entries(WARRANTY_DAYS).sort(([a], [b]) => b.length - a.length)

/** What people at the site have written down of their gear, and what was done to it in the year before. */
export async function writeDemoInventory(
  trx: Db,
  idOf: (name: string) => number | null,
  bornMs: number,
): Promise<void> {
  const gear = await listNamesOfGear(trx)
  await insertOwnField(trx, 'Asset', 'text')
  let number = 1000
  for (const { id, name } of gear) {
    const days = LONGEST_FIRST.find(([start]) => name.startsWith(start))?.[1]
    if (days === undefined || name.includes('/')) continue
    number += 1
    await writeOwn(trx, id, { warrantyEnds: day(bornMs + days * DAY_MS), own: { Asset: `KS-${number}` } })
  }
  for (const { name, daysAgo, years } of BATTERIES) {
    const id = idOf(name)
    if (id !== null)
      await writeBattery(trx, id, { installed: day(bornMs - daysAgo * DAY_MS), years }, 'Asta Holm')
  }
  await saveFilter(trx, { name: 'Warranty ends soon', query: 'warranty=soon', who: 'Asta Holm' })
  const tell = async (
    name: string,
    daysAgo: number,
    change: Parameters<typeof recordGearChanges>[2][number],
    who: string | null,
  ): Promise<void> => {
    const id = idOf(name)
    if (id !== null) await recordGearChanges(trx, id, [change], who, new Date(bornMs - daysAgo * DAY_MS))
  }
  await tell(
    'petrel-03',
    92,
    {
      what: 'partChanged',
      subject: 'd2',
      was: 'Aldermoor Q4 3.8T AM-71488',
      became: 'Aldermoor Q4 3.8T AM-71502',
    },
    null,
  )
  for (const name of ['petrel-05', 'petrel-06', 'petrel-07', 'petrel-08'])
    await tell(name, 61, { what: 'fact', subject: 'firmware', was: '3.1.8', became: '3.2.1' }, null)
  await tell(
    'petrel-12',
    140,
    {
      what: 'moved',
      subject: 'place',
      was: 'Breakwater Hall · B09 · U10–11',
      became: 'Lantern Room · L02 · U10–11',
    },
    'Asta Holm',
  )
}
