import { type OwnMeasure, ownMeasureFrom, setOwnMeasures } from '#core/catalogue'
import {
  deleteOwnMeasure,
  listOwnMeasures,
  type MeasureUse,
  saveOwnMeasure,
  usesOfMeasures,
} from '#db/readings'
import type { Db } from '#db/platform'
import { Refused } from '../platform/refused.ts'

const FOR_MS = 3000
let readAtMs = 0
let known: readonly OwnMeasure[] = []

/** The site's own measures, and known to this process: read anew when what is known is older than some seconds. */
export async function ownMeasures(db: Db): Promise<readonly OwnMeasure[]> {
  const nowMs = Date.now()
  if (nowMs - readAtMs < FOR_MS) return known
  known = await listOwnMeasures(db)
  setOwnMeasures(known)
  readAtMs = nowMs
  return known
}

/** What is known is asked for again at the next request. */
export const forgetOwnMeasures = (): void => {
  readAtMs = 0
}

/** So many measures of a site: every page is told of all of them. */
const MOST = 500
const NO_USE: MeasureUse = { rules: [], mappings: [], series: 0 }

export async function loadOwnMeasures(db: Db) {
  const [measures, uses] = await Promise.all([listOwnMeasures(db), usesOfMeasures(db)])
  return measures.map((measure) => {
    const use = uses.get(measure.key) ?? NO_USE
    return { ...measure, use, keptBy: useWords(use) }
  })
}

/** What uses a measure, in words; empty when nothing does. */
function useWords({ rules, mappings, series }: MeasureUse): string {
  const words = [
    rules.length === 0 ? '' : `the rule${rules.length === 1 ? '' : 's'} ${rules.join(', ')}`,
    mappings.length === 0 ? '' : `read by ${mappings.join(', ')}`,
    series === 0 ? '' : `${series} series with readings`,
  ]
  return words.filter(Boolean).join('; ')
}

/** @throws Refused with what is wrong at which field */
export async function keepOwnMeasure(
  trx: Db,
  fields: Parameters<typeof ownMeasureFrom>[0],
  { isNew, who }: { isNew: boolean; who: string },
): Promise<OwnMeasure> {
  const there = await listOwnMeasures(trx)
  const taken = new Set(isNew ? there.map(({ key }) => key) : [])
  const verdict = ownMeasureFrom(fields, taken)
  if (verdict.kind === 'problems') throw new Refused(Object.values(verdict.problems)[0]!, verdict.problems)
  const { measure } = verdict
  if (isNew && there.length >= MOST)
    throw new Refused(`There are ${MOST} measures of your own already. Delete one that nothing uses.`)
  const before = there.find(({ key }) => key === measure.key)
  if (!isNew && before === undefined) throw new Refused(`${measure.key} is not there any more.`)
  const use = (await usesOfMeasures(trx)).get(measure.key) ?? NO_USE
  const isOther = before !== undefined && (before.kind !== measure.kind || before.unit !== measure.unit)
  if (isOther && useWords(use) !== '')
    throw new Refused(
      `Its unit and kind stay while it is used (${useWords(use)}): what is stored would mean something else.`,
      { unit: 'It stays while the measure is used.' },
    )
  await saveOwnMeasure(trx, measure, who)
  forgetOwnMeasures()
  return measure
}

/** @throws Refused with what uses it */
export async function removeOwnMeasure(trx: Db, key: string): Promise<void> {
  const use = useWords((await usesOfMeasures(trx)).get(key) ?? NO_USE)
  if (use !== '') throw new Refused(`${key} is used: ${use}. Remove that first.`)
  await deleteOwnMeasure(trx, key)
  forgetOwnMeasures()
}
